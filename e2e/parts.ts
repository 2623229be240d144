import { joinMeshes, writeStl } from '@oak-stilts/core/mesh'
import { bowl, box, lathe, moved, sphere } from '../core/testing/shapes'

/**
 * A lantern of some 5,000 triangles for trying things by hand: a bowl that pulls, drops that hang below its rim, a bracket that juts
 * out and a flat foot. Everything that the bench shows is there, and a scan takes moments.
 */
export function lantern(): Uint8Array {
  const drops = Array.from({ length: 7 }, (_, i) => {
    const a = (i * 2 * Math.PI) / 7
    return moved(lathe([[0, 0], [0.7, 1], [0.35, 4], [0, 4]], 24), [9.3 * Math.cos(a), 9.3 * Math.sin(a), 3 + i * 0.4])
  })
  return writeStl(joinMeshes([
    bowl(8, 1.2, 10, 2, 0, 96), lathe([[7.5, 6], [9.9, 6], [9.9, 8], [7.5, 8], [7.5, 6]].slice(0, 4) as [number, number][], 96), ...drops,
    box([7, -1.5, 9], [15, 1.5, 10]), sphere([0, 0, 4], 2.2, 48),
  ]), 'lantern')
}

/** A flat plate that is easily hit by a click. */
export function plate(): Uint8Array {
  return writeStl(box([-12, -8, 0], [12, 8, 3]), 'plate')
}
