import { describe, expect, it } from 'vitest'
import { prepareMesh, type Mesh, type Vec3 } from '../mesh'
import { standOf } from '../pose'
import { ModelScan } from '../scan'
import { gaugeOf, sizesOf, solidOfStilt, type StiltShape } from './index'

/** How many pieces of a mesh begin in the air, layer by layer, by the scan of a model. */
function inTheAir(mesh: Mesh): number {
  const sound = prepareMesh(mesh).mesh
  return new ModelScan(sound, { pixelMm: 0.05, layerMm: 0.05 }, standOf(sound.positions, { tiltXDeg: 0, tiltYDeg: 0, liftMm: 0 }, 0.05)).runToEnd().islands.filter(i => i.layer > 0).length
}

/** What comes down aslant toward some side, thick, and bends twice: into a short piece above a low joint. */
function bent(towardDeg: number, shortMm: number, besideMm = 0): StiltShape {
  const a = (towardDeg * Math.PI) / 180, at = (outMm: number, z: number): Vec3 => [besideMm - outMm * Math.cos(a), -outMm * Math.sin(a), z], path = [at(1.7, 6.5), at(1.1, 4), at(0.9, 3.8), at(0, 2.4 + shortMm), at(0, 2.4), at(0, 0)]
  return {
    gauge: 'heavy', role: 'carrier', own: {}, anchor: { point: path[0], normal: [0, 0, -1] }, foot: 'plate', footPinned: false, sizes: { ...sizesOf(gaugeOf('heavy')), tipDiameterMm: 0.67, kneeDiameterMm: 2.3, footDiameterMm: 3 }, path,
    shared: { from: 1, diameters: [[2.38, 2.38], [2.47, 2.45], [2.78, 2.61], [3.06, 2.44]] },
  }
}

describe('a tube that bends', () => {
  it('is closed shells that face outward, a new one where a piece is shorter than what its bends take of it', () => {
    const { report } = prepareMesh(solidOfStilt(bent(20, 0.4)))
    expect([report.unclosedEdges, report.turnedShells, report.shells]).toEqual([0, 0, 3])
  })
  it('begins nowhere in the air, wherever it leans and however short its pieces are', () => {
    for (let k = 0; k < 60; k++) expect(inTheAir(solidOfStilt(bent(5 * k, 0.3 + (k % 10) * 0.04, 0.0137 * k)))).toBe(0)
  })
})
