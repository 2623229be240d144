import { describe, expect, it } from 'vitest'
import { joinMeshes } from '../../../core/mesh'
import { uprightShape } from '../../../core/testing/jobs'
import { bowl, box, sphere } from '../../../core/testing/shapes'
import { SLAB_MM } from '../stores/bench'
import { OPEN_ONLY } from '../findings'
import { fakeBench, scanned } from './bench-context.fake'
import { createEditing } from './editing'
import { ventLines } from './vent-lines'
import { createWalking } from './walking'

const mesh = joinMeshes([bowl(6, 1, 7, 1, 0, 48), box([-0.5, 12, 0], [0.5, 13, 10]), sphere([12, 0, 6], 2, 24), sphere([0, -14, 7], 0.4, 16)])
const result = scanned(mesh)

async function bench() {
  const flights: { at: readonly number[]; from: readonly number[]; distance: number }[] = []
  const preferred: (readonly number[][])[] = [], enclosed = { now: false }
  const viewFrom = (_at: readonly number[], first: readonly number[][]): Promise<object> => {
    preferred.push(first)
    return Promise.resolve({ from: first[0] ?? [0, -1, 0.3], enclosed: enclosed.now })
  }
  const context = await fakeBench(mesh, { surface: { viewFrom } })
  context.state.result = result
  context.state.setPlayhead(0)
  context.flyTo.value = (at, from, distance) => flights.push({ at, from, distance })
  return { context, state: context.state, flights, preferred, enclosed, ...createWalking(context) }
}

describe('walking the findings', () => {
  it('gives back what it cut off for a cup when one leaves, but not what a person cut off', async () => {
    const { state, goTo, leave } = await bench(), [cup] = state.worklist.findings.filter(f => f.kind === 'cup')
    await goTo(cup)
    expect(state.cut).toBe('above')
    leave()
    expect(state.cut).toBe('none')
    state.cut = 'above'
    await goTo(cup)
    leave()
    expect(state.cut).toBe('above')
  })
  it('makes the outside faint for what lies within, and only as long', async () => {
    const { state, enclosed, goTo } = await bench(), [island] = state.worklist.findings.filter(f => f.kind === 'island')
    enclosed.now = true
    await goTo(island)
    expect(state.seeThrough).toBe(true)
    enclosed.now = false
    await goTo(island)
    expect(state.seeThrough).toBe(false)
    // what the person made faint stays so
    state.seeThrough = true
    await goTo(island)
    expect(state.seeThrough).toBe(true)
  })

  it('goes around the list in both directions, worst first', async () => {
    const { state, step } = await bench()
    expect(state.shown.map(f => f.name)).toEqual(['Limb', 'Cup', 'Detail'])
    step(1)
    expect(state.finding?.name).toBe('Limb')
    step(1)
    expect(state.finding?.name).toBe('Cup')
    step(1)
    step(1)
    expect(state.finding?.name).toBe('Limb')
    step(-1)
    expect(state.finding?.name).toBe('Detail')
  })
  it('begins at the end where one goes back first, and goes only through what is shown', async () => {
    const { state, step } = await bench()
    step(-1)
    expect(state.finding?.name).toBe('Detail')
    state.filter = { kinds: ['cup'], classes: null, states: OPEN_ONLY }
    step(1)
    step(1)
    expect(state.finding?.name).toBe('Cup')
    state.filter = { kinds: ['pool'], classes: null, states: OPEN_ONLY }
    step(1)
    expect(state.finding?.name).toBe('Cup')
  })
  it('flies to an island from where it can be seen, at its first layer, nearer to what is small', async () => {
    const { state, flights, goTo } = await bench()
    state.cut = 'above'
    const [limb, , detail] = state.shown
    await goTo(limb)
    expect([state.playhead, state.cut]).toEqual([limb.layer, 'none'])
    expect(flights[0]).toEqual({ at: [...limb.at], from: [0, -1, 0.3], distance: 60 })
    await goTo(detail)
    expect(flights[1].distance).toBeLessThan(60)
  })
  it('flies to the newest only, where the one before is still asked about', async () => {
    const { state, flights, goTo, heading } = await bench()
    const [limb, , detail] = state.shown
    const both = [goTo(limb), goTo(detail)]
    expect(heading()).toBe(true)
    await Promise.all(both)
    expect([flights.map(f => f.at), heading()]).toEqual([[[...detail.at]], false])
  })
  it('cuts a cup open at its widest layer and looks down into it', async () => {
    const { state, flights, goTo } = await bench()
    await goTo(state.shown[1])
    expect(state.cut).toBe('above')
    expect(state.playhead).toBe(result.cups[0].peakLayer)
    expect(flights[0].from[2]).toBeGreaterThan(0)
  })
  it('looks at two stilts that are too near from a side from which both are seen, and selects them', async () => {
    const { context, state, flights, preferred, goTo } = await bench()
    const [a, b] = createEditing(context).addStilts('place', [uprightShape(1), uprightShape(2)])
    state.nearStilts = { pairs: [{ stilts: [a.id, b.id], gapMm: 0.2, at: [1.5, 0, 4] }], more: 0 }
    const near = state.worklist.findings.find(f => f.kind === 'near')
    if (!near) throw new Error('The pair is not listed.')
    await goTo(near)
    expect(state.selectedStilts).toEqual([a.id, b.id])
    // across the line between them, the front first
    const along = [b.path[0][0] - a.path[0][0], b.path[0][1] - a.path[0][1]]
    for (const d of preferred[0]) expect(d[0] * along[0] + d[1] * along[1]).toBeCloseTo(0, 9)
    expect([preferred[0].length, preferred[0][0][1] <= 0, flights[0].from]).toEqual([4, true, preferred[0][0]])
  })
  it('shows findings again where they were hidden', async () => {
    const { state, goTo } = await bench()
    state.setLook('findings', 'hidden')
    await goTo(state.shown[0])
    expect(state.findingsShown).toBe(true)
  })
})

describe('what a cut leaves', () => {
  it('is bounded by the layer under the playhead', async () => {
    const { state } = await bench()
    state.setPlayhead(40)
    expect(state.visibleMm).toEqual([-Infinity, Infinity])
    state.cut = 'above'
    expect(state.visibleMm[1]).toBeCloseTo(4.1, 9)
    state.cut = 'below'
    expect(state.visibleMm[0]).toBeCloseTo(4, 9)
    state.cut = 'slab'
    expect(state.visibleMm[1] - state.visibleMm[0]).toBeCloseTo(SLAB_MM, 9)
    // above the last layer nothing is left to be cut
    state.setPlayhead(1e6)
    expect([state.playhead, state.visibleMm]).toEqual([state.layerCount - 1, [-Infinity, Infinity]])
    state.setPlayhead(-3)
    expect(state.playhead).toBe(0)
  })
  it('counts no layers above the last that has material', async () => {
    const { state } = await bench()
    const areaMm2 = Float64Array.from([...result.areaMm2, 0, 0])
    state.result = { ...result, layerCount: result.layerCount + 2, areaMm2 }
    expect(state.layerCount).toBe(100)
  })
})

describe('a proposed vent', () => {
  it('is drawn through the wall and out, with a ring at both its ends', () => {
    const lines = ventLines({ at: [1, 2, 3], direction: [0, 1, 0], wallMm: 2 })
    const ends: number[][] = []
    for (let i = 0; i < lines.length; i += 3) ends.push([lines[i], lines[i + 1], lines[i + 2]])
    const along = ends.map(p => p[1] - 2)
    expect(Math.min(...along)).toBeLessThan(0)
    expect(Math.max(...along)).toBeGreaterThan(2)
    for (const depth of [0, 2]) {
      const ring = ends.filter(p => Math.abs(p[1] - 2 - depth) < 1e-5 && Math.hypot(p[0] - 1, p[2] - 3) > 0.1)
      expect(ring.length).toBeGreaterThanOrEqual(48)
      for (const p of ring) expect(Math.hypot(p[0] - 1, p[2] - 3)).toBeCloseTo(0.8, 5)
    }
  })
})
