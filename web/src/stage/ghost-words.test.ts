import { describe, expect, it } from 'vitest'
import { uprightShape } from '../../../core/testing/jobs'
import type { GhostFacts } from '../workers/ghost-facts'
import { gaugeOf } from '../../../core/stilts'
import { ghostWords } from './ghost-words'

const fine: GhostFacts = { gapMm: 0.62, tight: false, worth: 0, scarMm2: 0.096, tipMm: 0.35, thicknessMm: 4, share: 0.042, nearTipMm: 3, cutterRoom: true }
const said = (more: Partial<GhostFacts> = {}, shape = uprightShape(0)): string => ghostWords(shape, { ...fine, ...more }, 0.5, gaugeOf('light'))

describe('what is said before the click', () => {
  it('is length, lean, gap, scar with the worth of the face, and the share of the load', () => {
    expect(said()).toBe('1.5 mm, upright, gap 0.62 mm, scar 0.096 mm² on plain skin, about 4 % of the load')
  })
  it('says what speaks against it', () => {
    expect(said({ nearTipMm: 0.31 })).toContain('0.31 mm to another tip, under 0.50 this resin webs')
    expect(said({ thicknessMm: 0.25 })).toContain('thicker than what it holds, 0.35 on 0.25 mm (1.4 ×)')
    expect(said({ cutterRoom: false, tight: true, worth: 1 })).toMatch(/on prized skin.*; the gap is tight; it scars a prized face; no room for the cutter$/)
    const ball = uprightShape(0, { sizes: { ...uprightShape(0).sizes, tipShape: 'ball' } })
    expect([said({}, ball).includes('bead'), said({ thicknessMm: 1 }, ball).includes('its ball leaves a bead')]).toEqual([false, true])
    expect(said({}, uprightShape(0, { forced: 'Every way down is blocked.' }))).toContain('against advice: Every way down is blocked.')
    expect(said({}, uprightShape(0, { path: [[0, 0, 40], [0, 0, 37], [0, 0, 0]] }))).toContain('slender, as thick as it is good for 25 mm')
    // twice as thick as its gauge has it, it is good for twice as long
    expect(said({}, uprightShape(0, { path: [[0, 0, 40], [0, 0, 37], [0, 0, 0]], sizes: { ...uprightShape(0).sizes, kneeDiameterMm: 1.8, shaftFootDiameterMm: 2 } }))).not.toContain('slender')
  })
})
