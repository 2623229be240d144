import { describe, expect, it } from 'vitest'
import { DEFAULT_RESIN, NO_RAFT } from '../contract'
import { joinMeshes, type Mesh } from '../mesh'
import { solidsOfPart } from '../raft'
import { gaugeOf } from '../stilts'
import { heldScene } from '../testing/held-scene'
import { bowl, box, moved } from '../testing/shapes'
import { lookAtLayer, type LayerProof } from './index'

const raster = { pixelMm: 0.1, layerMm: 0.1 }
function looked(mesh: Mesh, points: readonly (readonly [number, number])[], layer: number): LayerProof {
  const { scan, index, surface } = heldScene(mesh, points, gaugeOf('medium'), raster)
  scan.setStilts(solidsOfPart(index, 'part', NO_RAFT))
  return lookAtLayer({ scan, result: scan.runToEnd(), index, part: 'part', surface, resin: DEFAULT_RESIN }, layer)
}

describe('a layer of a part on its stilts', () => {
  // two posts from 12 mm that a bar joins at 16 mm; a third one beside them stays by itself, and ends at 18 mm
  const gate = joinMeshes([box([-8, -2, 12], [-4, 2, 16]), box([4, -2, 12], [8, 2, 16]), box([-8, -2, 16], [8, 2, 19])]), post = box([14, -2, 12], [18, 2, 18]), both = joinMeshes([gate, post])
  const feet: [number, number][] = [[-7, -1], [-7, 1], [-5, 0], [5, 0], [7, -1], [7, 1], [15, 0], [16, 1], [17, -1]]

  it('is carried by what hangs together with it, and by nothing else', () => {
    const under = looked(both, feet, 140), beam = looked(both, feet, 170), top = looked(both, feet, 185)
    // three pieces of 16 mm²; then the bar, 64 mm², and the post; then the bar alone
    expect([under, beam, top].map(l => l.pieces.map(p => [Math.round(p.areaMm2), p.held, p.ends]))).toEqual([[[16, true, 3], [16, true, 3], [16, true, 3]], [[64, true, 6], [16, true, 3]], [[64, true, 6]]])
    expect([under, beam, top].map(l => l.ends.map(e => e.stilt).sort())).toEqual([[1, 2, 3, 4, 5, 6, 7, 8, 9], [1, 2, 3, 4, 5, 6, 7, 8, 9], [1, 2, 3, 4, 5, 6]])
    // what is pulled is what is laid times the stress of the film
    expect(top.pullN).toBeCloseTo(64 * DEFAULT_RESIN.releaseStressNMm2, 2)
    expect([top.areaMm2, top.ends[0].share >= top.ends[5].share, top.ends.every(e => e.share > 0 && e.kind === 'tip' && e.diameterMm === 0.5)]).toEqual([expect.closeTo(64, 1), true, true])
  })
  it('tells what changed before it', () => {
    const { before } = looked(both, feet, 165)
    expect(before.map(e => [e.kind, e.layer])).toEqual([['joins', 160], ['wider', 160]])
    expect(before[1].sentence).toBe('What is laid grows at once from 48.0 to 80.0 mm².')
    const begins = looked(joinMeshes([gate, box([14, -2, 15], [18, 2, 18])]), feet.slice(0, 6), 165).before.filter(e => e.kind === 'begins')
    expect(begins).toEqual([expect.objectContaining({ layer: 150, sentence: '16.00 mm² begins, and nothing holds it.' })])
    expect(looked(both, feet, 130).before.filter(e => e.kind === 'begins').map(e => e.sentence)).toEqual(Array(3).fill('16.00 mm² begins, on 3 stilts.'))
  })
  it('tells what is not held, and a cup that begins and ends', () => {
    const loose = looked(both, feet.slice(0, 6), 150)
    expect(loose.pieces.map(p => p.held)).toEqual([true, true, false])
    const cup = moved(bowl(6, 1, 6, 1, 0), [0, 0, 12]), on: [number, number][] = [[-4, 0], [2, 3.4], [2, -3.4], [0, 0]]
    expect(looked(cup, on, 135).before.filter(e => e.kind === 'closes')).toEqual([expect.objectContaining({ layer: 130 })])
    expect(looked(cup, on, 179).before.filter(e => e.kind === 'opens')).toHaveLength(1)
  })
  it('has no load where only the plate holds', () => {
    const block = looked(box([-3, -3, 0], [3, 3, 6]), [], 30)
    expect(block).toMatchObject({ ends: [], before: [], pieces: [{ onPlate: true, held: true, ends: 0 }] })
  })
})
