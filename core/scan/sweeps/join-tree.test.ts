import { describe, expect, it } from 'vitest'
import { joinMeshes } from '../../mesh'
import { box } from '../../testing/shapes'
import { islandBy, ModelScan } from '../index'

describe('the join tree', () => {
  it('tells what an island is part of by some layer', () => {
    // three legs of other widths; the middle one meets the widest in layer 20, the thinnest both in layer 30, and all of it what stands on the plate in 40
    const scan = new ModelScan(joinMeshes([
      box([0, 0, 1], [1, 1, 3.1]), box([3, 0, 1], [5, 1, 2.1]), box([6, 0, 1], [10, 1, 2.1]), box([3, 0, 2], [10, 1, 3.1]), box([0, 0, 3], [10, 1, 4.1]), box([0, 0, 4], [13, 1, 5]), box([12, 0, 0], [13, 1, 4.1]),
    ]), { pixelMm: 0.1, layerMm: 0.1 })
    scan.runToEnd()
    const { tree, graph } = scan.modelTree ?? expect.fail('no tree')
    const [thin, middle, wide] = tree.islands.map((island, id) => ({ id, pixels: graph.solidPixels[island.component] })).sort((a, b) => a.pixels - b.pixels).map(i => i.id)
    expect(tree.islands).toHaveLength(3)
    const by = (layers: number): number[] => [thin, middle, wide].map(id => islandBy(tree, id, layers))
    expect([by(20), by(21), by(30), by(31), by(40), by(41)]).toEqual([[thin, middle, wide], [thin, wide, wide], [thin, wide, wide], [wide, wide, wide], [wide, wide, wide], [-1, -1, -1]])
  })
})
