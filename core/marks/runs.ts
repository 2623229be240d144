/** Runs of faces that are given in any order: how many are left out, how many are taken, in turn. */
export function runsOf(faces: ArrayLike<number>): number[] {
  const sorted = Uint32Array.from(faces).sort(), runs: number[] = []
  let end = 0
  for (let i = 0; i < sorted.length;) {
    const first = sorted[i]
    let last = first
    while (i < sorted.length && sorted[i] <= last + 1) last = sorted[i++]
    runs.push(first - end, last - first + 1)
    end = last + 1
  }
  return runs
}

/** The same marks once a mesh is a file of its own: its faces whose triangle of the file before lies in the runs. @param from of the mesh; absent where its faces were the file's */
export function runsOnMesh(runs: readonly number[], from: Uint32Array | undefined): number[] {
  if (!from) return [...runs]
  const marked = new Set(facesOf(runs))
  return runsOf(Array.from(from.keys()).filter(face => marked.has(from[face])))
}

/** The faces of runs, in order. */
export function facesOf(runs: readonly number[]): Uint32Array {
  let count = 0
  for (let i = 1; i < runs.length; i += 2) count += runs[i]
  const out = new Uint32Array(count)
  let at = 0, face = 0
  for (let i = 0; i < runs.length; i += 2) {
    face += runs[i]
    for (let n = 0; n < runs[i + 1]; n++) out[at++] = face++
  }
  return out
}
