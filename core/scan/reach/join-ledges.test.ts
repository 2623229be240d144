import { describe, expect, it } from 'vitest'
import { joinLedges } from './join-ledges'
import { labelOf, layerOfLabel, pieceOfLabel, type LayerReach, type ReachPiece } from './reach-pieces'

const piece = (over: Partial<ReachPiece>): ReachPiece => ({ pixels: 10, bridged: 0, reach: 25, row: 0, pixel: 0, firstRow: 0, firstPixel: 0, sumX: 0, sumY: 0, span: 0, from: [], ...over })
const layer = (pieces: ReachPiece[], closed: [number, number][] = []): LayerReach => ({ pieces, runs: new Int32Array(0), closed })

describe('labels', () => {
  it('name a piece by its layer and number', () => {
    for (const [k, n] of [[0, 0], [7, 3], [3300, 65535]]) expect([layerOfLabel(labelOf(k, n)), pieceOfLabel(labelOf(k, n))]).toEqual([k, n])
  })
})

describe('pieces of over-reach', () => {
  it('that grew out of each other are one ledge, others are several', () => {
    const records = joinLedges([layer([piece({ reach: 22 }), piece({ reach: 30, row: 9 })]), layer([piece({ from: [labelOf(0, 0)], reach: 41, row: 4, pixel: 5 })]), null, layer([piece({ from: [labelOf(1, 0)] })])])
    expect(records.map(r => [r.firstLayer, r.lastLayer, r.pixels, r.reach, r.row, r.pixel, r.layer])).toEqual([[0, 3, 30, 41, 4, 5, 1], [0, 0, 10, 30, 9, 0, 0]])
  })
  it('that meet in one above are one ledge from there down', () => {
    const [one, ...more] = joinLedges([layer([piece({}), piece({}), piece({})]), layer([piece({ from: [labelOf(0, 0), labelOf(0, 2)] })]), layer([piece({ from: [labelOf(1, 0), labelOf(0, 1)] })])])
    expect(more).toEqual([])
    expect([one.pixels, one.pieces.length]).toEqual([50, 5])
  })
  it('count as bridged at once or when they close later, never more than they are', () => {
    const [one] = joinLedges([layer([piece({ pixels: 10, bridged: 3 })]), layer([piece({ pixels: 6, from: [labelOf(0, 0)] })], [[labelOf(0, 0), 4]]), layer([], [[labelOf(0, 0), 99], [labelOf(1, 0), 2]])])
    expect([one.pixels, one.bridged]).toEqual([16, 12])
    expect(one.pieces.map(p => p.hanging)).toEqual([0, 4])
  })
  it('have the narrowest span of all, and none where no fronts met', () => {
    const [wide, none] = joinLedges([layer([piece({ span: 80 }), piece({ row: 5 })]), layer([piece({ span: 64, from: [labelOf(0, 0)] })])])
    expect([wide.span, none.span]).toEqual([64, 0])
  })
  it('are none where no layer has any', () => {
    expect(joinLedges([null, layer([]), undefined])).toEqual([])
  })
})
