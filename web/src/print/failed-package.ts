import { proxy } from 'comlink'
import { DEFAULT_PRINTER, DEFAULT_RESIN, DEFAULT_SETTINGS, loadsOf, PLAIN_PRINT, type FailedOutcome, type PackageManifest, type PrintFacts } from '@oak-stilts/core/contract'
import { causesOf, factsOf, type Cause } from '@oak-stilts/core/print'
import { startPackager } from '../workers/slice-pool'
import type { ToldRehearsal } from '../workers/package.worker'

/** What of the height where it failed is looked at, mm. */
const UNDER_MM = 2, ABOVE_MM = 0.5

/** Where a package failed, as its pictures alone tell. */
export interface FailedPackage {
  readonly manifest: PackageManifest
  readonly rehearsal: ToldRehearsal
  readonly causes: readonly Cause[]
  /** The layer where it failed, as the printer showed it; null where nobody can say. */
  readonly picture: Blob | null
}

/** Looks into a package without its job. @throws PackageError, WorkerDied */
export async function lookIntoPackage(file: Blob, failed: FailedOutcome, told: (words: string) => void): Promise<FailedPackage> {
  const pack = startPackager()
  try {
    const manifest = await pack.remote.open(file), rehearsal = await pack.remote.rehearse(DEFAULT_SETTINGS, loadsOf(DEFAULT_RESIN), proxy((words: string, share: number) => told(`${words}, ${Math.round(share * 100)} %`)))
    if (!rehearsal) throw new Error('The package could not be opened.')
    const k = failed.layer === null ? null : Math.min(failed.layer, manifest.layers.length - 1), layerMm = manifest.layerMm, { peelN } = rehearsal.result.signals, pulls = Array.from(peelN).filter(n => n > 0).sort((a, b) => a - b)
    const near = (layer: number): boolean => k !== null && layer >= k - UNDER_MM / layerMm && layer <= k + ABOVE_MM / layerMm
    const causes = causesOf({ facts: factsOfPackage(manifest), job: manifest.job }, { ...failed, layer: k }, [], {
      pull: k !== null && pulls.length > 0 ? { atN: Math.max(...Array.from(peelN).slice(Math.max(0, k - 4), k + 5)), middleN: pulls[pulls.length >> 1], mostN: pulls[pulls.length - 1] } : null,
      tips: [], near: 0, hanging: rehearsal.result.islands.filter(i => i.state === 'open' && near(i.layer)).map(i => ({ layer: i.layer, areaMm2: i.areaMm2 })),
    })
    const png = k === null ? null : await pack.remote.layer(k)
    return { manifest, rehearsal, causes, picture: png && new Blob([png as BlobPart], { type: 'image/png' }) }
  } finally {
    pack.end()
  }
}

/** What a package says of how it was printed. */
function factsOfPackage({ layers, layerMm, printer, resin, parts }: PackageManifest): PrintFacts {
  const last = layers[layers.length - 1], first = layers[0], bottom = layers.findIndex(l => l.exposureS < first.exposureS), over = layers.findIndex(l => l.exposureS <= last.exposureS)
  const facts = factsOf({ printer: { ...DEFAULT_PRINTER, name: printer.name }, resin: { ...DEFAULT_RESIN, name: resin.name, ...last, bottomExposureS: first.exposureS, bottomLayers: Math.max(0, bottom), transitionLayers: Math.max(0, over - Math.max(0, bottom)) }, layerMm, printing: PLAIN_PRINT }, [], [], layers.length, () => [])
  return { ...facts, parts: parts.map((p, i) => ({ id: `${i}`, name: p.name, tiltXDeg: 0, tiltYDeg: 0, liftMm: 0, raft: 'none', stilts: 0, gauges: [], leastTipMm: 0, mostTipMm: 0, recipe: null, copies: Array.from({ length: p.copies }, (_, c) => `${i}.${c}`) })) }
}
