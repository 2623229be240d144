import { joinMeshes, type Mesh, type Vec3 } from '../triangle-mesh'

export const MODEL_FORMATS = ['stl', 'obj', 'ply', '3mf'] as const
export type ModelFormat = (typeof MODEL_FORMATS)[number]

/** The largest file that is read, in bytes. */
export const FILE_LIMIT_BYTES = 1000 * 1024 * 1024

/** Units that a file may state, and how many millimetres each has. */
export const UNIT_MM = { micron: 0.001, millimeter: 1, centimeter: 10, inch: 25.4, foot: 304.8, meter: 1000 } as const
export type Unit = keyof typeof UNIT_MM

/** Something of a file that was left out, or was read although it is not as it should be. */
export type ModelNote =
  /** Colours, textures and materials are of no use to a resin print. */
  | { readonly kind: 'colours' | 'textures' }
  /** Lines, points, curves and free-form surfaces have no triangles; beams of a lattice are not meshes. */
  | { readonly kind: 'lines' | 'curves' | 'beams'; readonly count: number }
  /** An STL that holds another number of triangles than it announces. */
  | { readonly kind: 'count'; readonly announced: number; readonly found: number }
  /** Faces of more than three corners, parted into triangles; faces of fewer than three, left out. */
  | { readonly kind: 'polygons' | 'no-faces'; readonly count: number }
  /** Pieces of one file that touch or lie in one another, kept together as one. */
  | { readonly kind: 'joined'; readonly count: number }
  /** A package that names nothing to be built: all its objects were taken. */
  | { readonly kind: 'no-build' }

/** One model of a file. */
export interface ModelObject {
  /** As the file names it; empty where it does not. */
  readonly name: string
  /** Coordinates in millimetres, or as they stand in the file where it states no unit. */
  readonly mesh: Mesh
  /** Where the file puts it, once for every copy: what its coordinates are shifted by, mm. */
  readonly places: readonly Vec3[]
}

/** What a file holds. */
export interface ModelFile {
  readonly format: ModelFormat
  /** Null where the file states none. */
  readonly unit: Unit | null
  readonly objects: readonly ModelObject[]
  readonly notes: readonly ModelNote[]
}

export interface ReadOptions {
  /** Told how far reading has come, as a share of the file. */
  readonly progress?: (share: number) => void
  /** A file with more triangles than that is refused before they fill the memory. */
  readonly mostTriangles?: number
}

/** The one model of a format that has no others. */
export function onlyObject(mesh: Mesh, name = ''): ModelObject[] {
  return [{ name, mesh, places: [[0, 0, 0]] }]
}

/** All that a file holds where the file puts it, as one mesh. */
export function wholeOf({ objects }: ModelFile): Mesh {
  const [first] = objects
  if (objects.length === 1 && first.places.length === 1 && first.places[0].every(v => v === 0)) return first.mesh
  return joinMeshes(objects.flatMap(o => o.places.map(at => ({ positions: o.mesh.positions.map((v, i) => v + at[i % 3]), triangles: o.mesh.triangles }))))
}
