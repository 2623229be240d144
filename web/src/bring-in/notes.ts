import type { Job, Source } from '@oak-stilts/core/contract'
import { guessUnits } from '@oak-stilts/core/pose'
import type { BenchView } from '../router'

const many = (n: number, one: string, more = `${one}s`): string => `${n.toLocaleString('en')} ${n === 1 ? one : more}`

/** What of a file was left out or put right as it was read, in sentences. */
export function notesOf({ notes }: Source): string[] {
  return notes.map(n => {
    switch (n.kind) {
      case 'colours': return 'Colours were left out.'
      case 'textures': return 'Textures and materials were left out.'
      case 'lines': return `${many(n.count, 'line or point', 'lines and points')} left out: they have no faces.`
      case 'curves': return `${many(n.count, 'curve or free surface', 'curves and free surfaces')} left out. Export them as triangles.`
      case 'beams': return `${many(n.count, 'beam')} of a lattice left out. Export it as triangles.`
      case 'polygons': return `${many(n.count, 'face')} of four or more corners were parted into triangles.`
      case 'no-faces': return `${many(n.count, 'face')} of fewer than three corners left out.`
      case 'joined': return `${many(n.count, 'object')} that touch were joined to one part.`
      case 'count': return `The file announces ${many(n.announced, 'triangle')} and holds ${n.found.toLocaleString('en')}; all it holds were read.`
      case 'no-build': return 'The file says of nothing that it is to be built; all its objects were taken.'
    }
  })
}

/** Where one goes on with a new job: to its parts, where something of the file wants to be looked at, else to how they stand. */
export function firstView({ parts }: Pick<Job, 'parts'>): BenchView {
  const wants = parts.some(({ source: { statedUnitMm, notes, summary } }) => (statedUnitMm === null && guessUnits(summary.sizeMm).length > 0) || notes.length > 0 || summary.tooDamaged || summary.sheets > 0 || summary.cappedLoops > 0)
  return wants ? 'part' : 'pose'
}
