import type { WallTasks } from './wall-work'

/** What of a task, or of an answer to it, may be handed over to another core in place of being copied. A mesh is copied: others need it too. */
export function handedOver(what: WallTasks[keyof WallTasks][keyof WallTasks[keyof WallTasks]]): ArrayBuffer[] {
  const found = new Set<ArrayBuffer>(), look = (value: unknown): void => {
    if (ArrayBuffer.isView(value)) {
      if (value.buffer instanceof ArrayBuffer && value.byteLength === value.buffer.byteLength) found.add(value.buffer)
    } else if (value && typeof value === 'object' && !('mesh' in value)) for (const within of Object.values(value)) look(within)
  }
  look(what)
  return [...found]
}
