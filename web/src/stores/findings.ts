import type { Cup, FloatingStilt, Island, ScanResult } from '@oak-stilts/core/scan'
import type { Stilt } from '@oak-stilts/core/stilts'

export type FindingKind = 'island' | 'cup' | 'sealed' | 'floating' | 'lost'
export type ShownState = 'open' | 'settled'

/** One row of the worklist. */
export interface Finding {
  readonly key: string
  readonly kind: FindingKind
  readonly state: ShownState
  readonly name: string
  /** The figure that matters, with its unit. */
  readonly figure: string
  /** First layer, from 0. */
  readonly layer: number
  readonly lastLayer: number
  readonly at: readonly [number, number, number]
  readonly island?: Island
  readonly cup?: Cup
  readonly stilt?: number
}

const CLASS_NAMES = { body: 'Body', limb: 'Limb', detail: 'Detail', flake: 'Flake' } as const

/** Volumes read in mm³ up to 1000, then in cm³. */
export function volumeText(mm3: number): string {
  return mm3 >= 1000 ? `${(mm3 / 1000).toFixed(2)} cm³` : mm3 >= 0.1 ? `${mm3.toFixed(2)} mm³` : `${mm3.toFixed(3)} mm³`
}

export interface Worklist {
  readonly findings: Finding[]
  /** Flakes that join at once: one folded row. */
  readonly noted: number
  readonly open: number
}

/** Order of the worklist: what is lost, then what carries most; a large cup comes before details. The scan's own order holds within. */
function weightOf(f: Finding): number {
  if (f.kind === 'lost' || f.kind === 'floating') return 0
  if (f.island) return { body: 1, limb: 2, detail: 4, flake: 6 }[f.island.class]
  return (f.cup?.volumeMm3 ?? 0) >= LARGE_CUP_MM3 ? 3 : 5
}
const LARGE_CUP_MM3 = 100

/** Everything the scan wants the person to look at, worst first, and stilts that lost their foot. */
export function worklistOf(result: ScanResult | null, stilts: readonly Stilt[]): Worklist {
  const findings: Finding[] = []
  for (const s of stilts) {
    if (s.foot === 'none') findings.push({ key: `lost-${s.id}`, kind: 'lost', state: 'open', name: 'Lost foot', figure: `stilt ${s.id}`, layer: 0, lastLayer: 0, at: [s.path[0][0], s.path[0][1], s.path[0][2]], stilt: s.id })
  }
  let noted = 0
  if (result) {
    result.floating.forEach((f: FloatingStilt, i) => findings.push({ key: `floating-${i}`, kind: 'floating', state: 'open', name: 'Floating stilt', figure: `${(f.layer * result.layerMm).toFixed(2)} mm`, layer: f.layer, lastLayer: f.layer, at: f.center }))
    for (const i of result.islands) {
      if (i.state === 'noted') {
        noted++
        continue
      }
      findings.push({ key: `island-${i.id}`, kind: 'island', state: i.state === 'held' ? 'settled' : 'open', name: CLASS_NAMES[i.class], figure: volumeText(i.volumeMm3), layer: i.layer, lastLayer: i.joinsLayer ?? result.layerCount - 1, at: i.center, island: i })
    }
    for (const c of result.cups) {
      const sealed = c.ends === 'closed'
      findings.push({ key: `cup-${c.id}`, kind: sealed ? 'sealed' : 'cup', state: 'open', name: sealed ? 'Sealed' : 'Cup', figure: volumeText(c.volumeMm3), layer: c.firstLayer, lastLayer: c.lastLayer, at: c.at, cup: c })
    }
  }
  findings.sort((a, b) => weightOf(a) - weightOf(b))
  return { findings, noted, open: findings.filter(f => f.state === 'open').length }
}

/** Two sentences for a finding: why it matters, what usually helps. */
export function adviceFor(finding: Finding): { why: string; help: string } {
  if (finding.kind === 'island') {
    const i = finding.island
    const grows = i && i.joinsLayer === null ? 'It never joins the rest' : `It joins the rest at layer ${(i?.joinsLayer ?? 0) + 1}`
    if (finding.state === 'settled') return { why: `${grows}; ${finding.figure} hang on it. A grounded stilt touches its first layer.`, help: 'Nothing is left to do here.' }
    return { why: `Layer ${finding.layer + 1} prints this region on nothing. ${grows}; until then ${finding.figure} hang on it.`, help: 'Place a stilt under its lowest point, or tilt the part so that it grows out of what is printed already.' }
  }
  if (finding.kind === 'cup') return { why: `From layer ${finding.layer + 1} to ${finding.lastLayer + 1} this space is shut against the film and pulls at every layer.`, help: 'Tilt the part so that it opens earlier, or make a vent near its first layers before printing.' }
  if (finding.kind === 'sealed') return { why: 'This space is closed all around: liquid resin stays locked in and may burst the part later.', help: 'Make a drain hole into it before printing.' }
  if (finding.kind === 'floating') return { why: 'A stilt begins here in the air, so it prints on nothing.', help: 'Move its foot to the plate or delete it.' }
  return { why: 'After the change of pose this stilt found no way down, so it is kept but not printed.', help: 'Move its tip, change the pose, or delete it.' }
}
