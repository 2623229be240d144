import { describe, expect, it } from 'vitest'
import { DEFAULT_RESIN, loadsOf, NO_RAFT } from '../contract'
import { joinMeshes, type Mesh } from '../mesh'
import { solidsOfPart } from '../raft'
import { gaugeOf, PlanIndex, raisedRows } from '../stilts'
import { heldScene } from '../testing/held-scene'
import { box, moved } from '../testing/shapes'
import { AS_IS } from '../pose'
import { ModelScan } from '../scan'
import { proposeStagger, raisedPull, thinnestUnder } from './stagger'

const raster = { pixelMm: 0.1, layerMm: 0.1 }
/** A plate of 2 mm that a post stands on. */
const mushroom: Mesh = joinMeshes([box([-6, -4, 8], [6, 4, 10]), box([-1, -1, 10], [1, 1, 20])]), points: [number, number][] = [-5, 0, 5].flatMap(x => [-3, 3].map((y): [number, number] => [x, y]))
const scanned = (mesh: Mesh, index: PlanIndex): Float64Array => {
  const scan = new ModelScan(mesh, raster, AS_IS)
  scan.setLoads(loadsOf(DEFAULT_RESIN))
  scan.setStilts(solidsOfPart(index, 'part', NO_RAFT))
  return Float64Array.from(scan.runToEnd().signals.peelN)
}

describe('copies at several heights', () => {
  it('pull what one copy pulls at each height, drawn out where only shafts stand: as the scan of a raised one has it', () => {
    const { index } = heldScene(mushroom, points, gaugeOf('medium'), raster), low = scanned(mushroom, index), at = thinnestUnder(low, 80)
    const raised = raisedRows(index, 'part', 2.5), high = scanned(moved(mushroom, [0, 0, 2.5]), new PlanIndex(new Map(raised.map(n => [n.id, n])), index.beams)), told = raisedPull(low, at, 25)
    // feet stay where they are
    expect(raised.filter(n => n.kind === 'foot').map(n => n.at[2])).toEqual([...index.nodes.values()].filter(n => n.kind === 'foot').map(n => n.at[2]))
    expect(at).toBeGreaterThan(9)
    expect(high.length).toBe(told.length)
    // shafts grow thicker downwards: what is drawn out differs by that
    const most = Math.max(...high)
    for (let k = 0; k < told.length; k++) expect(Math.abs(told[k] - high[k])).toBeLessThan(0.03 * most)
  })
  it('are as few and as low as do it: what pulls in one layer only is moved by one layer', () => {
    const spike = [9, 9, 1, 1, 1, 1, 12, 1, 1], flat = Array<number>(20).fill(5)
    // of four, two steps do as well as three; of three they do not
    expect(proposeStagger(spike, [], 4, 6, 10)).toEqual({ stepLayers: 1, copies: [2, 2], wasN: 48, mostN: 26 })
    expect(proposeStagger(spike, [], 3, 6, 10)).toEqual({ stepLayers: 1, copies: [1, 1, 1], wasN: 36, mostN: 14 })
    expect(proposeStagger(spike, [], 2, 6, 10)).toEqual({ stepLayers: 1, copies: [1, 1], wasN: 24, mostN: 13 })
    // a slope wins nothing but by going far, a wall nothing at all
    expect(proposeStagger(flat, [], 4, 6, 8)).toBeNull()
    expect([proposeStagger(spike, [], 1, 6, 10), proposeStagger(spike, [], 4, 0, 10)]).toEqual([null, null])
  })
  it('reckon with what else stands on the plate', () => {
    const spike = [1, 1, 1, 1, 12, 1, 1, 1, 1, 1], other = [0, 0, 0, 0, 0, 20, 0, 0, 0, 0]
    // one layer up it would meet the other
    expect(proposeStagger(spike, other, 2, 4, 4)?.stepLayers).not.toBe(1)
    expect(proposeStagger(spike, Array<number>(10).fill(500), 2, 4, 4)).toBeNull()
  })
})
