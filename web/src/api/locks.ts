/** The browser's locks, which it frees when the page or worker that holds one ends; undefined where there are none. */
export function locks(): LockManager | undefined {
  return (globalThis as { navigator?: Navigator }).navigator?.locks
}
