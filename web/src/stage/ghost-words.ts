import { WORTHS, type Gauge } from '@oak-stilts/core/contract'
import { PRIZED } from '@oak-stilts/core/marks'
import { longestFree, shaftOf, verdictOf, type StiltShape } from '@oak-stilts/core/stilts'
import { FINE_SKIN_MM } from '../gauges/sizes'
import type { GhostFacts } from '../workers/ghost-facts'

/** What is said of a stilt before it stands: its numbers, then what speaks against it. */
export function ghostWords(shape: StiltShape, facts: GhostFacts, webMm: number, gauge: Gauge): string {
  const { path, sizes } = shape, against: string[] = []
  if (shape.forced !== undefined) against.push(`against advice: ${shape.forced}`)
  if (facts.tight) against.push('the gap is tight')
  if (facts.worth === PRIZED) against.push('it scars a prized face')
  if (facts.nearTipMm < webMm) against.push(`${Math.max(0, facts.nearTipMm).toFixed(2)} mm to another tip, under ${webMm.toFixed(2)} this resin webs`)
  if (facts.tipMm > facts.thicknessMm) against.push(`thicker than what it holds, ${facts.tipMm.toFixed(2)} on ${facts.thicknessMm.toFixed(2)} mm (${(facts.tipMm / facts.thicknessMm).toFixed(1)} ×)`)
  if (sizes.tipShape === 'ball' && (facts.thicknessMm < FINE_SKIN_MM || facts.worth === PRIZED)) against.push('its ball leaves a bead')
  if (!facts.cutterRoom) against.push('no room for the cutter')
  const { lengthMm } = shaftOf(path), longestMm = longestFree(gauge, Math.min(sizes.kneeDiameterMm, sizes.shaftFootDiameterMm))
  if (lengthMm > longestMm) against.push(`slender, as thick as it is good for ${longestMm.toFixed(0)} mm`)
  const scar = `scar ${facts.scarMm2.toFixed(facts.scarMm2 < 0.1 ? 3 : 2)} mm² on ${WORTHS[facts.worth]} skin, about ${(100 * facts.share).toFixed(0)} % of the load`
  return `${shape.foot === 'model' && !shape.shared ? `Stick to the model${shape.legs?.length ? `, on ${shape.legs.length + 1} points` : ''}: ` : ''}${verdictOf(path, facts.gapMm)}, ${scar}${against.length > 0 ? `; ${against.join('; ')}` : ''}`
}
