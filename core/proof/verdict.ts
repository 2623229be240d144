import type { CheckWaiver, ProofCheck } from '../contract'

/** What is worse than when it was waived by less than this is as good as it was: figures move a little with every edit. */
const SLACK = 1.02

/** How far the worst figure of a check is from its limit, in its unit; 0 where it has none. */
export function beyondLimit({ figure, limit }: ProofCheck): number {
  return figure === null || limit === null ? 0 : Math.abs(figure - limit)
}

/** The waiver by which a check that is not as it should be may stay so; none where it has become worse since. */
export function waiverOf(check: ProofCheck, waivers: readonly CheckWaiver[]): CheckWaiver | undefined {
  return check.state === 'bad' ? waivers.find(w => w.check === check.kind && check.count <= w.count && beyondLimit(check) <= w.beyond * SLACK + 1e-9) : undefined
}

const lowered = (sentence: string): string => `${sentence[0].toLowerCase()}${sentence.slice(1)}`

/** One verdict on all checks: what is to be seen to first, how much more there is, and what was waived. */
export function verdictOf(checks: readonly ProofCheck[], waivers: readonly CheckWaiver[] = []): { readonly ready: boolean; readonly verdict: string } {
  const bad = checks.filter(c => c.state === 'bad'), [first, second, ...others] = bad.filter(c => !waiverOf(c, waivers)), waived = bad.filter(c => waiverOf(c, waivers)).length
  const left = waived === 0 ? '' : waived === 1 ? ' One check is left as it is.' : ` ${waived} checks are left as they are.`
  if (!first) return { ready: true, verdict: `Ready to print.${left}` }
  const more = others.length === 0 ? '' : others.length === 1 ? ' One more check is not as it should be.' : ` ${others.length} more checks are not as they should be.`
  return { ready: false, verdict: `Not ready: ${lowered(first.sentence)}${second ? ` ${second.sentence}` : ''}${more}${left}` }
}
