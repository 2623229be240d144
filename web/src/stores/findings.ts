import type { Waiver } from '@oak-stilts/core/contract'
import type { Cup, FloatingStilt, Island, IslandClass, Ledge, Pool, ScanResult } from '@oak-stilts/core/scan'
import type { PlateCheck } from '@oak-stilts/core/plate'
import type { Stilt } from '@oak-stilts/core/stilts'

export type FindingKind = 'island' | 'ledge' | 'cup' | 'sealed' | 'pool' | 'floating' | 'lost' | 'outside' | 'overlap'
export type ShownState = 'open' | 'partly' | 'settled' | 'waived'
export const KINDS: readonly FindingKind[] = ['island', 'ledge', 'cup', 'sealed', 'pool', 'floating', 'lost', 'outside', 'overlap']
export const STATES: readonly ShownState[] = ['open', 'partly', 'settled', 'waived']
export const STATE_NAMES: Record<ShownState, string> = { open: 'open', partly: 'partly held', settled: 'settled', waived: 'waived' }

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
  readonly ledge?: Ledge
  readonly cup?: Cup
  readonly pool?: Pool
  /** Id of the stilt that it is about. */
  readonly stilt?: string
  readonly waiver?: Waiver
  /** Copies on the plate that it is about. */
  readonly copies?: readonly string[]
}

/** Which rows of the worklist are shown; null for all of a kind of thing. */
export interface Filter {
  readonly kinds: readonly FindingKind[] | null
  readonly classes: readonly IslandClass[] | null
  readonly states: readonly ShownState[]
}
export const OPEN_ONLY: readonly ShownState[] = ['open', 'partly']
export const NO_FILTER: Filter = { kinds: null, classes: null, states: OPEN_ONLY }

export function passes(f: Finding, filter: Filter): boolean {
  return filter.states.includes(f.state) && (!filter.kinds || filter.kinds.includes(f.kind)) && (!filter.classes || !f.island || filter.classes.includes(f.island.class))
}

export const CLASS_NAMES: Record<IslandClass, string> = { body: 'Body', limb: 'Limb', detail: 'Detail', flake: 'Flake' }

/** Volumes read in mm³ up to 1000, then in cm³. */
export function volumeText(mm3: number): string {
  return mm3 >= 1000 ? `${(mm3 / 1000).toFixed(2)} cm³` : mm3 >= 0.1 ? `${mm3.toFixed(2)} mm³` : `${mm3.toFixed(3)} mm³`
}
/** A share in percent, never rounded up to all. */
export function shareText(share: number): string {
  const percent = Math.min(share >= 1 ? 100 : 99.9, Math.round(share * 1000) / 10)
  return `${percent >= 99.5 && percent < 100 ? percent.toFixed(1) : percent.toFixed(0)} %`
}

export interface Worklist {
  readonly findings: Finding[]
  /** Flakes that join at once: one folded row. */
  readonly noted: number
  /** Spans and arches that carry themselves: one folded row. */
  readonly bridges: number
  /** Low spaces that feet close at the plate: one folded row. */
  readonly pockets: number
  readonly open: number
}

/** Findings of one kind and class, worst first. */
export interface FindingGroup {
  readonly key: string
  readonly kind: FindingKind
  readonly class?: IslandClass
  readonly findings: readonly Finding[]
}

/** Findings in groups; those come in the order of their worst. */
export function groupsOf(findings: readonly Finding[]): FindingGroup[] {
  const groups = new Map<string, { key: string; kind: FindingKind; class?: IslandClass; findings: Finding[] }>()
  for (const f of findings) {
    const key = f.island ? f.island.class : f.ledge?.wide ? 'span' : f.cup?.choked ? 'narrow' : f.kind
    const group = groups.get(key)
    if (group) group.findings.push(f)
    else groups.set(key, { key, kind: f.kind, class: f.island?.class, findings: [f] })
  }
  return [...groups.values()]
}

/** A space that supports close below this height is a pocket between feet, mm. */
const POCKET_MM = 3

/** Order of the worklist: what is lost, then what carries most; a large cup comes before details. The scan's own order holds within. */
function weightOf(f: Finding): number {
  if (f.kind === 'lost' || f.kind === 'floating' || f.kind === 'outside' || f.kind === 'overlap') return 0
  if (f.island) return { body: 1, limb: 2, detail: 5, flake: 8 }[f.island.class]
  if (f.ledge) return f.ledge.areaMm2 >= LARGE_LEDGE_MM2 ? 3 : 6
  if (f.pool) return 7
  return (f.cup?.volumeMm3 ?? 0) >= LARGE_CUP_MM3 ? 4 : 7
}
const LARGE_CUP_MM3 = 100
const LARGE_LEDGE_MM2 = 4

/** How far a finding may have moved from the place that was waived, mm. */
const SAME_PLACE_MM: Record<Waiver['kind'], number> = { island: 0.4, floating: 0.4, ledge: 1.5, cup: 2, sealed: 2, pool: 2 }

type ToSource = (at: readonly [number, number, number]) => readonly [number, number, number]

/**
 * Everything the scan wants the person to look at, worst first, and stilts that lost their foot.
 * @param toSource from the stand of the part to its own coordinates, in which waivers are kept
 * @param plate what is wrong with how parts stand on the plate
 */
export function worklistOf(result: ScanResult | null, stilts: readonly Stilt[], waivers: readonly Waiver[] = [], toSource: ToSource = at => at, plate: readonly Finding[] = []): Worklist {
  const findings: Finding[] = [...plate]
  for (const s of stilts) {
    if (s.foot === 'lost') findings.push({ key: `lost-${s.id}`, kind: 'lost', state: 'open', name: 'Lost foot', figure: `stilt ${s.number}`, layer: 0, lastLayer: 0, at: [s.path[0][0], s.path[0][1], s.path[0][2]], stilt: s.id })
  }
  let noted = 0, bridges = 0, pockets = 0
  if (result) {
    const mm = (v: number): string => v.toFixed(1)
    result.floating.forEach((f: FloatingStilt) => findings.push({ key: `floating-${f.layer}-${mm(f.center[0])}-${mm(f.center[1])}`, kind: 'floating', state: 'open', name: 'Floating stilt', figure: `${(f.layer * result.layerMm).toFixed(2)} mm`, layer: f.layer, lastLayer: f.layer, at: f.center }))
    for (const i of result.islands) {
      if (i.state === 'noted') {
        noted++
        continue
      }
      findings.push({
        key: `island-${i.id}`, kind: 'island', state: i.state === 'held' ? 'settled' : i.state === 'partly' ? 'partly' : 'open', name: CLASS_NAMES[i.class], figure: i.state === 'partly' ? `${shareText(i.heldShare)} held` : volumeText(i.volumeMm3),
        layer: i.layer, lastLayer: i.joinsLayer ?? result.layerCount - 1, at: i.aim, island: i,
      })
    }
    for (const l of result.ledges) {
      if (l.state === 'noted') {
        bridges++
        continue
      }
      const state = l.state === 'held' ? 'settled' : l.state === 'partly' ? 'partly' : 'open'
      findings.push({
        key: `ledge-${l.firstLayer}-${mm(l.at[0])}-${mm(l.at[1])}`, kind: 'ledge', state, name: l.wide ? 'Wide span' : 'Ledge', figure: state === 'partly' ? `${shareText(l.heldShare)} held` : `${l.reachMm.toFixed(2)} mm out`,
        layer: Math.round(l.worst[2] / result.layerMm - 0.5), lastLayer: l.lastLayer, at: l.worst, ledge: l,
      })
    }
    for (const c of result.cups) {
      if (c.bySupports && c.firstLayer === 0 && (c.lastLayer + 1) * result.layerMm <= POCKET_MM) {
        pockets++
        continue
      }
      const sealed = c.ends === 'closed' && !c.choked
      findings.push({ key: `cup-${c.firstLayer}-${mm(c.at[0])}-${mm(c.at[1])}`, kind: sealed ? 'sealed' : 'cup', state: 'open', name: sealed ? 'Sealed' : c.choked ? 'Narrow vent' : 'Cup', figure: volumeText(c.volumeMm3), layer: c.firstLayer, lastLayer: c.lastLayer, at: c.at, cup: c })
    }
    for (const p of result.pools) findings.push({ key: `pool-${p.firstLayer}-${mm(p.at[0])}-${mm(p.at[1])}`, kind: 'pool', state: 'open', name: 'Pool', figure: volumeText(p.volumeMm3), layer: p.firstLayer, lastLayer: p.lastLayer, at: p.at, pool: p })
  }
  const judged = waivers.length > 0 ? findings.map(f => waived(f, waivers, toSource)) : findings
  judged.sort((a, b) => weightOf(a) - weightOf(b))
  return { findings: judged, noted, bridges, pockets, open: judged.filter(f => OPEN_ONLY.includes(f.state)).length }
}

/** Rows for what is wrong with how copies stand on the plate. @param toStand from the plate to where marks are drawn */
export function plateFindings(check: PlateCheck | null, nameOf: (copy: string) => string, toStand: (at: readonly [number, number, number]) => readonly [number, number, number], layerMm: number): Finding[] {
  if (!check) return []
  const layerOf = (at: readonly number[]): number => (layerMm > 0 ? Math.max(0, Math.floor(at[2] / layerMm)) : 0)
  const row = (kind: 'outside' | 'overlap', key: string, name: string, figure: string, at: readonly [number, number, number], copies: readonly string[]): Finding => ({ key: `${kind}-${key}`, kind, state: 'open', name, figure, layer: layerOf(at), lastLayer: layerOf(at), at: toStand(at), copies })
  return [
    ...check.outside.map(o => row('outside', o.copy, 'Out of the plate', `${nameOf(o.copy)}, ${o.overMm > 0 ? `${o.overMm.toFixed(2)} mm over` : `${o.aboveMm.toFixed(2)} mm too high`}`, o.at, [o.copy])),
    ...check.overlaps.map(o => row('overlap', o.copies.join('-'), 'Into another part', `${nameOf(o.copies[0])}, ${nameOf(o.copies[1])}`, o.at, o.copies)),
  ]
}

/** The place that a finding is known by, whatever stilts have been placed under it since. */
export function knownAt(f: Finding): readonly [number, number, number] {
  return f.ledge?.at ?? f.at
}

function waived(f: Finding, waivers: readonly Waiver[], toSource: ToSource): Finding {
  if (f.kind === 'lost' || f.kind === 'outside' || f.kind === 'overlap' || f.state === 'settled') return f
  const at = toSource(knownAt(f)), kind = f.kind
  const waiver = waivers.find(w => w.kind === kind && Math.hypot(w.at[0] - at[0], w.at[1] - at[1], w.at[2] - at[2]) <= SAME_PLACE_MM[kind])
  return waiver ? { ...f, state: 'waived', waiver } : f
}

/** Two sentences for a finding: why it matters, what usually helps. */
export function adviceFor(finding: Finding): { why: string; help: string } {
  if (finding.state === 'waived') return { why: `Left as it is: ${(finding.waiver?.reason ?? 'no reason given').replace(/\.$/, '')}.`, help: 'Take the waiver back if that no longer holds.' }
  if (finding.kind === 'island') {
    const i = finding.island
    const grows = i && i.joinsLayer === null ? 'It never joins the rest' : `It joins the rest at layer ${(i?.joinsLayer ?? 0) + 1}`
    if (finding.state === 'settled') return { why: `${grows}; ${finding.figure} hang on it, and all of it is within reach of a grounded stilt or of what that holds.`, help: 'Nothing is left to do here.' }
    if (finding.state === 'partly') return { why: `A stilt touches its first layer, but ${(i?.hangingMm2 ?? 0).toFixed(2)} mm² of it are laid too far from anything that holds them and would sag or tear off.`, help: 'Add tips inside the outline that is drawn on the model, or hold the rest of it at once.' }
    if (i?.class === 'flake' && i.joinsLayer === null) return { why: `Layer ${finding.layer + 1} prints a speck on nothing, and it never joins the rest: cured debris that floats in the vat.`, help: 'Mend the mesh there, or hold it with the finest tip.' }
    return { why: `Layer ${finding.layer + 1} prints this region on nothing. ${grows}; until then ${finding.figure} hang on it.`, help: 'Place a stilt under its lowest point, or tilt the part so that it grows out of what is printed already.' }
  }
  if (finding.kind === 'ledge') {
    const l = finding.ledge
    if (finding.state === 'settled') return { why: `This reaches ${(l?.reachMm ?? 0).toFixed(2)} mm out by itself; with the stilts all of it is within reach of what holds it.`, help: 'Nothing is left to do here.' }
    if (finding.state === 'partly') return { why: `Stilts hold a part of it, but ${(l?.hangingMm2 ?? 0).toFixed(2)} mm² are still laid up to ${(l?.hangingReachMm ?? 0).toFixed(2)} mm from what holds them and would curl up or sag.`, help: 'Add tips inside the outline that is drawn on the model, or hold the rest of it at once.' }
    if (l?.wide) return { why: `This span is held on opposite sides, but ${(l.spanMm ?? 0).toFixed(2)} mm is more than it can carry; ${l.areaMm2.toFixed(1)} mm² would sag.`, help: 'Stand a row of tips under its middle, or tilt the part so that it closes in steps.' }
    return { why: `Skin juts out ${(l?.reachMm ?? 0).toFixed(2)} mm from what holds it; ${(l?.areaMm2 ?? 0).toFixed(1)} mm² would curl up or peel off.`, help: 'Place tips along its outer edge, or tilt the part so that it rises more steeply.' }
  }
  if (finding.kind === 'cup') {
    const c = finding.cup
    if (c?.choked) return { why: 'The space reaches the outside only through a passage too narrow for resin and air to follow, so it pulls like a shut one.', help: 'Widen the passage, or make a vent near its first layers.' }
    return { why: `From layer ${finding.layer + 1} to ${finding.lastLayer + 1} this space is shut against the film and pulls at every layer, with about ${(c?.pullN ?? 0).toFixed(1)} N at its widest.`, help: c?.bySupports ? 'Stilts that touch each other close it: leave a gap between their feet.' : 'Tilt the part so that it opens earlier, or make the proposed vent before printing.' }
  }
  if (finding.kind === 'sealed') return { why: 'This space is closed all around: liquid resin stays locked in and may burst the part later.', help: 'Make a drain hole into it before printing.' }
  if (finding.kind === 'pool') return { why: `As the part hangs from the plate, ${finding.figure} of resin stay in it and harden there or drip later.`, help: 'Tilt the part so that it drains, or make a hole at its lowest place as it hangs.' }
  if (finding.kind === 'outside') return finding.figure.endsWith('too high') ? { why: 'It reaches higher than the printer can print; what is above is not made.', help: 'Tilt the part so that it lies lower, or choose a taller printer.' } : { why: 'It reaches over the edge of the plate; what is beyond is not printed.', help: 'Move or turn it on the plate, or choose a larger printer.' }
  if (finding.kind === 'overlap') return { why: 'Both stand in the same place, and would print as one.', help: 'Move one of them away on the plate.' }
  if (finding.kind === 'floating') return { why: 'A stilt begins here in the air, so it prints on nothing.', help: 'Move its foot to the plate or delete it.' }
  return { why: 'After the change of pose this stilt found no way down, so it is kept but not printed.', help: 'Move its tip, change the pose, or delete it.' }
}
