import { loadsOf, type Role } from '../contract'
import { rolesOfTips } from '../plan'
import { prove, type Proof, type Proven } from '../proof'
import { solidsOfPart } from '../raft'
import type { ModelScan } from '../scan'
import type { ToReady } from './make-ready'

/** Scans a part with a plan as it is, and proves it. Yields a sentence between steps. @param of its scan has the loads of the resin; its stilts are set here */
export function* proved(of: ToReady): Generator<string, { readonly proof: Proof; readonly proven: Proven }, void> {
  const { scan, index, part, raft, resin } = of
  scan.setLoads(loadsOf(resin))
  scan.setStilts(solidsOfPart(index, part, raft))
  const steps = scan.run()
  let step = steps.next()
  for (; !step.done; step = steps.next()) yield `Scanning as printed: ${Math.round((100 * step.value.done) / Math.max(1, step.value.total))} %`
  const result = step.value, roles = rolesOfTips(scan, result, index.stiltsOf(part)), proven: Proven = { ...of, result, roleOf: (tip): Role => roles.get(tip) ?? 'detail' }
  return { proof: yield* prove(proven), proven }
}

/** The areas of the layers of a part without its stilts, mm². Its stilts are to be set anew afterwards. */
export function* areasAlone(scan: ModelScan): Generator<string, Float64Array, void> {
  scan.setStilts([])
  for (const steps = scan.run(); ;) {
    const step = steps.next(), found = step.done ? step.value : step.value.result
    // areas are known with the first stage that tells anything
    if (found) return Float64Array.from(found.areaMm2)
    yield 'Measuring the part alone'
  }
}
