import type { Vec3 } from '@oak-stilts/core/mesh'
import type { Stage } from './stage'

/** The ray from the eye through the pointer, in the stand. */
export interface PointerRay {
  readonly origin: Vec3
  readonly direction: Vec3
}

export function rayAt(stage: Stage, event: Pick<MouseEvent, 'clientX' | 'clientY'>): PointerRay {
  const { origin, direction } = stage.rayAt(event.clientX, event.clientY)
  return { origin: [origin.x, origin.y, origin.z], direction: [direction.x, direction.y, direction.z] }
}
