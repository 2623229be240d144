import { describe, expect, it } from 'vitest'
import { BAND_LAYERS, BandedBody } from './banded-body'

describe('the bands of a body', () => {
  it('beyond what is kept are made once for who goes through their layers and looks at neighbours', () => {
    // 26 MB a band: seven are kept, the others are not
    const made: number[] = [], rows = 200_000, body = BandedBody.ofLayers({
      frame: { row0: 0, rows, layerCount: 12 * BAND_LAYERS }, pixel0: 0, firstLayer: 0, columns: 1,
      spans: (firstLayer, layers) => {
        made.push(firstLayer / BAND_LAYERS)
        return { firstLayer, layers, starts: new Int32Array(layers * rows + 1), pairs: new Int32Array(0), unclosedRows: new Int32Array(layers) }
      },
    })
    const through = (): void => {
      for (let k = 0; k < 12 * BAND_LAYERS; k += 4) for (const near of [k - 1, k, k + 1]) if (near >= 0) expect(body.layer(near).spans.firstLayer).toBe(Math.floor(near / BAND_LAYERS) * BAND_LAYERS)
    }
    through()
    expect(made).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11])
    through()
    expect(made.slice(12)).toEqual([7, 8, 9, 10, 11])
    // what is handed over is not kept
    body.release(11)
    body.layer(11 * BAND_LAYERS)
    expect(made.at(-1)).toBe(11)
    expect(made).toHaveLength(18)
  })
})
