/** In a worker: lets messages in, so that a newer request, or the pointer, has its turn. */
export function breathe(): Promise<void> {
  return new Promise(resolve => {
    const channel = new MessageChannel()
    channel.port1.onmessage = () => resolve()
    channel.port2.postMessage(null)
  })
}
