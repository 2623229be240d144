import { describe, expect, it } from 'vitest'
import { angleBetween, NO_SYMMETRY, sphereLattice, type TiltMeasures, type TriedTilt } from '@oak-stilts/core/tilts'
import { tiltOfUp, upOfTilt } from '@oak-stilts/core/pose'
import { fieldOf, placeOf, tiltAt } from './map-field'

const tried = (up: readonly [number, number, number]): TriedTilt => ({ up, tilt: tiltOfUp(up), measures: {} as TiltMeasures })

describe('the map of tilts', () => {
  it('has a tilt about x above its middle, one about y to the right, and the other way up at its edge', () => {
    expect(placeOf({ tiltXDeg: 0, tiltYDeg: 0 }).every(v => Math.abs(v) < 1e-9 || v === 1)).toBe(true)
    const [x, y] = placeOf({ tiltXDeg: 40, tiltYDeg: 0 }), [u, v] = placeOf({ tiltXDeg: 0, tiltYDeg: 40 })
    expect([Math.abs(x) < 1e-9, y > 0.3, u > 0.3, Math.abs(v) < 1e-9]).toEqual([true, true, true, true])
    expect(Math.hypot(...placeOf({ tiltXDeg: 180, tiltYDeg: 0 }))).toBeCloseTo(1, 6)
    expect(tiltAt(0.9, 0.9)).toBeNull()
  })

  it('finds the tilt of a place, with angles measured from elsewhere too', () => {
    for (const zero of [undefined, [0.5, 0.5, -0.5, 0.5] as [number, number, number, number]]) {
      for (const up of sphereLattice(200)) {
        const tilt = tiltOfUp(up, zero), back = tiltAt(...placeOf(tilt), zero)
        // whole degrees; close to the edge they lie closer together than that
        if (back) expect(angleBetween(upOfTilt(back), up)).toBeLessThan(1)
      }
    }
  })

  it('shows what was tried where it was tried, and nothing where nothing was', () => {
    const points = sphereLattice(300), size = 60
    const field = fieldOf(points.map(tried), NO_SYMMETRY, undefined, t => (t.up[2] > 0 ? 1 : 0), size)
    for (let row = 0; row < size; row++) {
      for (let column = 0; column < size; column++) {
        const r = Math.hypot(((column + 0.5) / size) * 2 - 1, 1 - ((row + 0.5) / size) * 2), value = field.values[row * size + column]
        // upright tilts lie within √½
        if (r < 0.55) expect(value).toBeGreaterThan(0.9)
        if (r > 0.85) expect(value).toBeLessThan(0.1)
        if (r < 1) expect(field.tried[row * size + column]).toBe(1)
      }
    }
    const few = fieldOf([tried([0, 0, 1])], NO_SYMMETRY, undefined, () => 1, size)
    expect(few.tried[(size / 2) * size + size / 2]).toBe(1)
    expect(few.tried[(size / 2) * size + 2]).toBe(0)
  })

  it('shows a part that is the same all around as the same all around', () => {
    const around = fieldOf([tried([0.8, 0, 0.6])], { axis: [0, 0, 1], order: Infinity }, undefined, () => 1, 40)
    const [x] = placeOf({ tiltXDeg: 0, tiltYDeg: 53 })
    for (let a = 0; a < 6; a++) {
      const column = Math.floor(((Math.abs(x) * Math.cos(a) + 1) / 2) * 40), row = Math.floor(((1 - Math.abs(x) * Math.sin(a)) / 2) * 40)
      expect(around.tried[row * 40 + column]).toBe(1)
    }
  })
})
