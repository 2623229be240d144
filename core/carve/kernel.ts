import type { Manifold, ManifoldToplevel } from 'manifold-3d'
import { NO_SOURCE, type Mesh } from '../mesh'
import { CarveError } from './carve-error'

let loading: Promise<ManifoldToplevel> | null = null

/** The library of exact booleans, loaded once, and only where something is carved. */
export function kernel(): Promise<ManifoldToplevel> {
  return (loading ??= load())
}

async function load(): Promise<ManifoldToplevel> {
  const { default: Module } = await import('manifold-3d'), loaded = await Module()
  loaded.setup()
  return loaded
}

/** A body that booleans are made with. It lies in the memory of the library until it is freed. */
export interface Body {
  readonly manifold: Manifold
  /** By which the library tells its triangles from those of others. */
  readonly id: number
  /** Which triangle of its file each of them comes from. */
  readonly from: Uint32Array
}

/**
 * A closed mesh as a body.
 * @throws CarveError `not-sound` where it is not the skin of one
 */
export function bodyOf({ Manifold, Mesh: Triangles }: ManifoldToplevel, { positions, triangles, from }: Mesh): Body {
  const count = triangles.length / 3, id = Manifold.reserveIDs(1), numbers = Uint32Array.from({ length: count }, (_, i) => i)
  let manifold: Manifold
  try {
    manifold = new Manifold(new Triangles({ numProp: 3, vertProperties: positions, triVerts: triangles, faceID: numbers, runIndex: Uint32Array.from([0, 3 * count]), runOriginalID: Uint32Array.from([id]) }))
  } catch {
    throw new CarveError('not-sound', 'The mesh is not closed, or faces meet where they should not, so that nothing can be cut out of it. Mend it first.')
  }
  return { manifold, id, from: from ?? numbers }
}

/** A body as a mesh; what was cut into it comes from no file. Frees nothing. */
export function meshOfBody(manifold: Manifold, body: Pick<Body, 'id' | 'from'>): Mesh {
  return meshOfBodies(manifold, [body])
}
/** The same of one that was made of several. */
export function meshOfBodies(manifold: Manifold, bodies: readonly Pick<Body, 'id' | 'from'>[]): Mesh {
  const { vertProperties, triVerts, runIndex, runOriginalID, faceID, numProp } = manifold.getMesh(), count = triVerts.length / 3, own = new Uint32Array(count).fill(NO_SOURCE), known = new Map(bodies.map(b => [b.id, b.from]))
  for (let run = 0; run < runOriginalID.length; run++) {
    const from = known.get(runOriginalID[run])
    if (!from) continue
    for (let i = runIndex[run] / 3; i < runIndex[run + 1] / 3; i++) own[i] = from[faceID[i]]
  }
  if (numProp !== 3) throw new Error('A mesh of positions alone was expected.')
  return { positions: vertProperties, triangles: triVerts, from: own }
}
