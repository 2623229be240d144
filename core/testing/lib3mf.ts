import start from '@3mfconsortium/lib3mf'

interface Walk {
  Count(): bigint
  MoveNext(): boolean
}
interface BeamLattice {
  GetBeamCount(): number
}
interface MeshObject {
  GetVertexCount(): number
  GetTriangleCount(): number
  IsManifoldAndOriented(): boolean
  BeamLattice(): BeamLattice
}
interface Slice {
  GetZTop(): number
  GetVertexCount(): bigint
  GetPolygonCount(): bigint
}
interface SliceStack {
  GetBottomZ(): number
  GetSliceCount(): bigint
  GetSlice(index: bigint | number): Slice
}
interface Model {
  QueryReader(kind: '3mf'): { SetStrictModeActive(strict: boolean): void; ReadFromFile(path: string): void; GetWarningCount(): number }
  QueryWriter(kind: '3mf'): { WriteToFile(path: string): void }
  GetMeshObjects(): Walk & { GetCurrentMeshObject(): MeshObject }
  GetSliceStacks(): Walk & { GetCurrentSliceStack(): SliceStack }
  GetBuildItems(): Walk
}
/** What is used of the reference reader of the 3MF Consortium. */
export interface Lib3mf {
  readonly CWrapper: new () => { CreateModel(): Model }
  readonly FS: { writeFile(path: string, bytes: Uint8Array): void; readFile(path: string): Uint8Array }
}

/** What the reference reader finds in a file. */
export interface ReadByReference {
  readonly warnings: number
  readonly items: number
  readonly objects: readonly { readonly vertices: number; readonly triangles: number; readonly closed: boolean; readonly beams: number }[]
  readonly stacks: readonly { readonly bottomMm: number; readonly slices: readonly { readonly topMm: number; readonly vertices: number; readonly polygons: number }[] }[]
  /** The file as it writes what it read. */
  readonly again: Uint8Array
}

let library: Promise<Lib3mf> | null = null

/** Reads a 3MF by lib3mf, the reference implementation of the 3MF Consortium, in its strict mode. @throws Error where it refuses the file */
export async function readByReference(bytes: Uint8Array): Promise<ReadByReference> {
  const { CWrapper, FS } = await (library ??= start()), model = new CWrapper().CreateModel(), reader = model.QueryReader('3mf')
  FS.writeFile('/in.3mf', bytes)
  reader.SetStrictModeActive(true)
  try {
    reader.ReadFromFile('/in.3mf')
  } catch (error) {
    // what it throws is not always an Error
    throw error instanceof Error ? error : new Error(String(error))
  }
  const meshes = model.GetMeshObjects(), stacks = model.GetSliceStacks(), objects: ReadByReference['objects'][number][] = [], slices: ReadByReference['stacks'][number][] = []
  while (meshes.MoveNext()) {
    const m = meshes.GetCurrentMeshObject()
    objects.push({ vertices: m.GetVertexCount(), triangles: m.GetTriangleCount(), closed: m.GetTriangleCount() > 0 && m.IsManifoldAndOriented(), beams: m.BeamLattice().GetBeamCount() })
  }
  while (stacks.MoveNext()) {
    const s = stacks.GetCurrentSliceStack()
    slices.push({ bottomMm: s.GetBottomZ(), slices: Array.from({ length: Number(s.GetSliceCount()) }, (_, i) => {
      const slice = s.GetSlice(BigInt(i))
      const told = { topMm: slice.GetZTop(), vertices: Number(slice.GetVertexCount()), polygons: Number(slice.GetPolygonCount()) }
      slice.delete()
      return told
    }) })
  }
  model.QueryWriter('3mf').WriteToFile('/out.3mf')
  return { warnings: reader.GetWarningCount(), items: Number(model.GetBuildItems().Count()), objects, stacks: slices, again: FS.readFile('/out.3mf') }
}
