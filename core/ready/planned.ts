import { loadsOf, type Role } from '../contract'
import { planForest, rolesOfTips, type NotHeld } from '../plan'
import { prove, type Proven } from '../proof'
import { solidsOfPart } from '../raft'
import type { ScanResult } from '../scan'
import { PlanDraft } from '../stilts'
import type { Ready, ToReady } from './make-ready'
import { strengthened } from './strengthen'

/** Times that a forest is grown and made strong at the most: what becomes thicker may let something hang, and what is added has to bear. */
const MOST_TURNS = 2

/**
 * Plans a part: tips under all that hangs, gathered on shared trunks, as thick as what they carry asks for, scanned and proved. What stands
 * already is kept as it is. It never moves the part. Yields a sentence between steps.
 * @param of its scan has the loads of the resin; its stilts are set here
 */
export function* planned(of: ToReady): Generator<string, Ready, void> {
  const { scan, surface, part, raft, resin, gauges, plate } = of, own = [...of.index.nodes.values()].filter(n => n.part === part).map(n => n.id), kept = new Set([...own, ...[...of.index.beams.values()].filter(b => b.part === part).map(b => b.id)])
  const draft = new PlanDraft(of.index, own)
  scan.setLoads(loadsOf(resin))
  let notHeld: readonly NotHeld[] = []
  function* scannedAsPrinted(): Generator<string, ScanResult, void> {
    scan.setStilts(solidsOfPart(draft.index, part, raft))
    const steps = scan.run()
    let step = steps.next()
    for (; !step.done; step = steps.next()) yield `Scanning as printed: ${Math.round((100 * step.value.done) / Math.max(1, step.value.total))} %`
    return step.value
  }
  let result: ScanResult | null = null
  for (let turn = 0; turn < MOST_TURNS; turn++) {
    const steps = planForest(scan, surface, draft.index, part, { gauges, plate, webMm: resin.webMm, ledges: true })
    let step = steps.next()
    for (; !step.done; step = steps.next()) yield step.value ?? 'Choosing tips'
    const { notHeldBy } = step.value, before = notHeldBy(step.value.result).length
    draft.apply(step.value.change)
    yield* strengthened(of, draft, id => !kept.has(id))
    result = yield* scannedAsPrinted()
    notHeld = notHeldBy(result)
    if (notHeld.length <= before) break
  }
  result ??= yield* scannedAsPrinted()
  const roles = rolesOfTips(scan, result, draft.index.stiltsOf(part))
  const proven: Proven = { ...of, result, index: draft.index, roleOf: (tip): Role => roles.get(tip) ?? 'detail' }
  const change = draft.change('plan'), stood = new Set(own)
  return { change, proof: yield* prove(proven), proven, placed: (change.put?.nodes ?? []).filter(n => n.kind === 'tip' && !stood.has(n.id)).length, braces: 0, thickened: 0, notHeld }
}
