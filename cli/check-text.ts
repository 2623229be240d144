import type { CheckReport } from '@oak-stilts/core/contract'

type Mesh = CheckReport['models'][number]['mesh']

/** The counts of a mesh that say what is odd about it, in words. */
const COUNTS: readonly (readonly [keyof Mesh, one: string, more: string])[] = [
  ['unclosedEdges', 'unclosed edge', 'unclosed edges'], ['cappedLoops', 'hole closed', 'holes closed'], ['zippedEdges', 'seam without width', 'seams without width'],
  ['flippedFaces', 'flipped face', 'flipped faces'], ['turnedShells', 'shell inside out', 'shells inside out'], ['duplicateTriangles', 'repeated face', 'repeated faces'],
  ['degenerateTriangles', 'collapsed face', 'collapsed faces'], ['sheets', 'sheet left out', 'sheets left out'], ['manyFacedEdges', 'edge of more than two faces', 'edges of more than two faces'],
  ['crossingPairs', 'pair of faces that cross', 'pairs of faces that cross'], ['cavities', 'cavity', 'cavities'], ['solidsWithin', 'solid within solid', 'solids within solid'], ['slivers', 'sliver', 'slivers'],
]

/** A check as a person reads it at the terminal. */
export function checkText({ format, statedUnitMm, unitGuesses, notes, models }: CheckReport, mended: string | null): string {
  const lines = [`${format.toUpperCase()}, ${statedUnitMm === null ? 'no unit stated, taken as millimetres' : statedUnitMm === 1 ? 'millimetres' : `units of ${statedUnitMm} mm`}`]
  const [guess] = unitGuesses
  if (guess) lines.push(`Were these ${guess.unit}? It would be ${guess.largestMm.toPrecision(3)} mm at its largest.`)
  for (const n of notes) lines.push(`Note: ${n.kind}${'count' in n ? `, ${n.count}` : ''}`)
  for (const { name, copies, areaMm2, sound, mesh } of models) {
    lines.push(`${name || 'Model'}${copies > 1 ? `, ${copies} copies` : ''}: ${mesh.triangles.toLocaleString('en')} triangles, ${mesh.sizeMm.map(v => v.toFixed(2)).join(' × ')} mm, ${mesh.volumeMm3.toFixed(1)} mm³, ${areaMm2.toFixed(1)} mm² of skin, ${mesh.shells} ${mesh.shells === 1 ? 'shell' : 'shells'}`)
    const odd = COUNTS.flatMap(([key, one, more]) => {
      const n = Number(mesh[key] ?? 0)
      return n > 0 ? [`  ${n.toLocaleString('en')} ${n === 1 ? one : more}`] : []
    })
    lines.push(...odd, mesh.tooDamaged ? '  Over 2 % of its edges are unclosed: too damaged to trust.' : sound ? '  Sound.' : '  Mended where it is safe.')
  }
  if (mended) lines.push(`Written: ${mended}`)
  return lines.join('\n')
}
