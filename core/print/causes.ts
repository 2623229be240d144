import type { FailedOutcome, Print, PrintFacts } from '../contract'

/** What probably made a print fail, and what helps against it. */
export type CauseKind = 'first-layers' | 'file' | 'supports-of-copy' | 'thin-tips' | 'pull' | 'film' | 'fused' | 'shaken' | 'exposure'
/** One edit of the job that answers a cause; null where only a person can. */
export type CauseFix = 'stronger-tips' | 'slower-there' | 'longer-first-layers' | 'longer-exposure' | 'hold-there' | 'wider-gaps' | 'higher-raft' | null

export interface Cause {
  readonly kind: CauseKind
  /** How much speaks for it: only to put causes in order. */
  readonly weight: number
  readonly title: string
  /** What was seen, measured or counted that speaks for it. */
  readonly evidence: readonly string[]
  readonly fix: CauseFix
}

/** What is known of the layer where it failed and of what held there. Loads are estimates. */
export interface FailureEvidence {
  /** What that layer pulls, N, what the middle layer and the fullest do; null where nothing was scanned. */
  readonly pull: { readonly atN: number; readonly middleN: number; readonly mostN: number } | null
  /** Tips that carry there, the most loaded first: load over what they can bear, null where the part was not proved, and their diameter. */
  readonly tips: readonly { readonly stilt: number; readonly share: number | null; readonly diameterMm: number }[]
  /** Findings that begin at or a little under that layer and are open. */
  readonly hanging: readonly { readonly layer: number; readonly areaMm2: number }[]
  /** Pairs of supports too near to each other there. */
  readonly near: number
}
export const NO_EVIDENCE: FailureEvidence = { pull: null, tips: [], hanging: [], near: 0 }

/** Prints that failed within this of each other failed at the same height, mm. */
const SAME_HEIGHT_MM = 1
/** Tips of what carries are thin under this, mm; a tip that bears this share of what it can has little left. (Common practice, and the margin of the proof.) */
const THIN_MM = 0.4, LOADED_SHARE = 0.7
/** A layer that pulls so many times what the middle one does pulls much. */
const PULLS_MUCH = 1.5

const count = (n: number, one: string, more: string): string => (n === 1 ? `1 ${one}` : `${n} ${more}`)

/**
 * What probably made a print fail, the likeliest first, each with what speaks for it.
 * Source: rules of the trade (common practice, no source): tips before exposure; one copy of many fails: its supports; all fail at one
 * height: the pull of that layer; twice at the same height: the file, not chance; nothing on the plate: the first layers.
 * @param before prints of the same job, in any order, this one not among them
 */
export function causesOf({ facts, job }: Pick<Print, 'facts' | 'job'>, failed: FailedOutcome, before: readonly Pick<Print, 'facts' | 'job' | 'outcome'>[], found: FailureEvidence): Cause[] {
  const copies = facts.parts.flatMap(p => p.copies), lost = failed.copies.length > 0 ? failed.copies.length : copies.length, several = copies.length > 1, some = several && lost < copies.length
  const { layer, symptom } = failed, first = facts.resin.bottomLayers + facts.resin.transitionLayers, heightOf = (k: number, f: PrintFacts): number => k * f.layerMm
  const same = layer === null ? [] : before.filter(p => p.outcome?.kind === 'failed' && p.outcome.layer !== null && Math.abs(heightOf(p.outcome.layer, p.facts) - heightOf(layer, facts)) <= SAME_HEIGHT_MM)
  const unchanged = same.filter(p => p.job && job && p.job.state === job.state), good = before.filter(p => p.outcome?.kind === 'good' && p.facts.resin.name === facts.resin.name)
  const thin = found.tips.filter(t => t.diameterMm < THIN_MM), loaded = found.tips.filter(t => (t.share ?? 0) >= LOADED_SHARE), [weakest] = found.tips, at = layer === null ? '' : `layer ${layer + 1}`
  const much = found.pull !== null && found.pull.atN >= PULLS_MUCH * Math.max(1e-9, found.pull.middleN)
  const causes: Cause[] = []
  const add = (kind: CauseKind, weight: number, title: string, evidence: readonly (string | false)[], fix: CauseFix): void => {
    if (weight > 0) causes.push({ kind, weight, title, evidence: evidence.filter(e => e !== false), fix })
  }
  const early = layer !== null && layer < first
  add('first-layers', symptom === 'nothing' ? 100 : early ? 80 : 0, 'The first layers did not hold on the plate', [
    symptom === 'nothing' && 'Nothing was on the plate.', early && `It failed in ${at}, one of the first ${first}.`, `They are lit for ${facts.resin.bottomExposureS} s, ${count(facts.resin.bottomLayers, 'layer', 'layers')} of them.`,
  ], 'longer-first-layers')
  add('file', symptom === 'nothing' || early ? 0 : (same.length > 0 ? 40 + 30 * Math.min(2, same.length) + (unchanged.length > 0 ? 10 : 0) : 0) + (found.hanging.length > 0 ? 35 : 0) + (same.length > 0 && !some ? 5 : 0), 'Something in the file is not held there', [
    same.length > 0 && `${same.length === 1 ? 'Another print' : `${same.length} other prints`} failed at the same height${unchanged.length > 0 ? ', from the same layers' : ''}: that is the file, not chance.`,
    found.hanging.length > 0 && `${count(found.hanging.length, 'region begins', 'regions begin')} in the air there, the largest ${Math.max(...found.hanging.map(h => h.areaMm2)).toFixed(2)} mm².`,
  ], 'hold-there')
  const torn = symptom === 'missing' || symptom === 'broken' || symptom === 'stuck'
  add('thin-tips', (thin.length > 0 ? 45 : 0) + (loaded.length > 0 ? 30 : 0) + (torn && found.tips.length > 0 ? 12 : 0) + (symptom === 'broken' ? 15 : 0), 'The tips that carry there are too weak', [
    thin.length > 0 && `${count(thin.length, 'tip is', 'tips are')} under ${THIN_MM.toFixed(2)} mm, the thinnest ${Math.min(...thin.map(t => t.diameterMm)).toFixed(2)} mm.`,
    weakest !== undefined && weakest.share !== null && `The weakest, of stilt ${weakest.stilt}, bears ${Math.round(weakest.share * 100)} % of what it can (estimate).`, loaded.length > 1 && `${loaded.length} bear over ${Math.round(LOADED_SHARE * 100)} %.`,
    'Tips come before exposure.',
  ], 'stronger-tips')
  add('supports-of-copy', some ? 62 + (torn ? 10 : 0) - (same.length > 0 ? 25 : 0) : 0, lost === 1 ? 'The supports of the copy that failed' : 'The supports of the copies that failed', [
    some && `${lost} of ${copies.length} copies failed; the others came out of the same layers with the same light.`,
  ], 'stronger-tips')
  add('pull', symptom === 'nothing' || early ? 0 : (several && !some && layer !== null ? 45 : 0) + (much ? 40 : 0) + (found.pull && found.pull.atN >= 0.9 * found.pull.mostN && much ? 8 : 0), 'That layer pulls too hard on the film', [
    several && !some && layer !== null && `All ${copies.length} copies failed at one height.`,
    found.pull !== null && much && `${at[0]?.toUpperCase() ?? ''}${at.slice(1)} pulls ${found.pull.atN.toFixed(1)} N, ${(found.pull.atN / Math.max(1e-9, found.pull.middleN)).toFixed(1)} times the middle one (estimate).`,
    `The plate goes up at ${facts.resin.travelUpMmMin} mm/min.`,
  ], 'slower-there')
  add('fused', symptom === 'fused' ? 70 + (found.near > 0 ? 20 : 0) : 0, 'Supports stand too near to each other or to the part', [found.near > 0 && `${count(found.near, 'pair stands', 'pairs stand')} nearer than the resin keeps open.`], 'wider-gaps')
  add('film', symptom === 'stuck' ? 40 : 0, 'The film holds too hard, or is worn', [`What is printed stayed on it${layer === null ? '' : ` from ${at} on`}. Look whether it is cloudy or dented there.`], 'slower-there')
  add('shaken', symptom === 'shift' || symptom === 'wobble' ? 50 + (found.pull && much ? 5 : 0) : 0, 'The part moved while it was printed', ['Long, thin or few supports let it sway; a brace or a neighbour stiffens them.'], 'stronger-tips')
  add('exposure', 15 + (good.length === 0 && before.length > 0 ? 8 : 0) - (good.length > 0 ? 10 : 0), 'Light, or the resin', [
    good.length > 0 ? `${count(good.length, 'print', 'prints')} of this job came out of ${facts.resin.name} before.` : `No print of this job in ${facts.resin.name} has come out yet.`, `An ordinary layer is lit for ${facts.resin.exposureS} s.`,
  ], 'longer-exposure')
  return causes.sort((a, b) => b.weight - a.weight)
}

/** What was changed from one print to the next, in words; empty where nothing was. */
export function changesBetween(before: PrintFacts, now: PrintFacts): string[] {
  const out: string[] = [], from = (what: string, a: string | number, b: string | number, unit = ''): void => {
    if (a !== b) out.push(`${what} ${a}${unit} → ${b}${unit}`)
  }
  from('printer', before.printer, now.printer)
  from('layer height', before.layerMm, now.layerMm, ' mm')
  from('resin', before.resin.name, now.resin.name)
  for (const [name, label, unit] of [['exposureS', 'exposure', ' s'], ['bottomExposureS', 'exposure of bottom layers', ' s'], ['bottomLayers', 'bottom layers', ''], ['transitionLayers', 'transition layers', ''], ['restS', 'rest', ' s'], ['travelMm', 'plate travel', ' mm'], ['travelUpMmMin', 'speed up', ' mm/min'], ['travelDownMmMin', 'speed down', ' mm/min']] as const) from(label, before.resin[name], now.resin[name], unit)
  from('shades', before.smoothing, now.smoothing)
  if (JSON.stringify(before.ranges) !== JSON.stringify(now.ranges)) out.push(`ranges of heights ${before.ranges.length} → ${now.ranges.length}`)
  for (const part of now.parts) {
    const old = before.parts.find(p => p.id === part.id) ?? before.parts.find(p => p.name === part.name), of = now.parts.length > 1 ? `${part.name}: ` : ''
    if (!old) {
      out.push(`${part.name} is new`)
      continue
    }
    from(`${of}copies`, old.copies.length, part.copies.length)
    from(`${of}tilt about x`, old.tiltXDeg, part.tiltXDeg, '°')
    from(`${of}tilt about y`, old.tiltYDeg, part.tiltYDeg, '°')
    from(`${of}lift`, old.liftMm, part.liftMm, ' mm')
    from(`${of}raft`, old.raft, part.raft)
    from(`${of}stilts`, old.stilts, part.stilts)
    const tips = ({ leastTipMm, mostTipMm }: typeof part): string => (leastTipMm === mostTipMm ? leastTipMm.toFixed(2) : `${leastTipMm.toFixed(2)} to ${mostTipMm.toFixed(2)}`)
    from(`${of}tips`, tips(old), tips(part), ' mm')
  }
  for (const old of before.parts) if (!now.parts.some(p => p.id === old.id || p.name === old.name)) out.push(`${old.name} is not on the plate any more`)
  return out
}

/** How prints came out, by something that they have in common: those of which it is known, the most first. */
export function tallyBy(prints: readonly Print[], by: (print: Print) => readonly string[]): { readonly name: string; readonly good: number; readonly failed: number }[] {
  const found = new Map<string, { name: string; good: number; failed: number }>()
  for (const p of prints) {
    if (!p.outcome) continue
    for (const name of new Set(by(p))) {
      const row = found.get(name) ?? { name, good: 0, failed: 0 }
      if (p.outcome.kind === 'good') row.good++
      else row.failed++
      found.set(name, row)
    }
  }
  return [...found.values()].sort((a, b) => b.good + b.failed - a.good - a.failed || a.name.localeCompare(b.name))
}
