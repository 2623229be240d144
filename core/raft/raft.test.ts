import Module from 'manifold-3d'
import { describe, expect, it } from 'vitest'
import { NO_RAFT, type Raft } from '../contract'
import { prepareMesh, type Mesh } from '../mesh'
import { ModelScan } from '../scan'
import { box } from '../testing/shapes'
import { raftOf, raftSolid, type RaftFoot } from './index'

const wasm = await Module()
wasm.setup()
const solid = (mesh: Mesh): InstanceType<typeof wasm.Manifold> => {
  const m = new wasm.Mesh({ numProp: 3, vertProperties: mesh.positions, triVerts: mesh.triangles })
  m.merge()
  return new wasm.Manifold(m)
}
const foot = (x: number, y: number, radiusMm = 1.6): RaftFoot => ({ x, y, radiusMm })
const made = (raft: Partial<Raft>, feet: readonly RaftFoot[]): Mesh => {
  const mesh = raftSolid({ ...NO_RAFT, ...raft }, feet)
  if (!mesh) throw new Error('no raft')
  return mesh
}
/** Area of a regular polygon, as circles are made here. */
const polygon = (radius: number, sides = 48): number => (sides / 2) * radius ** 2 * Math.sin((2 * Math.PI) / sides)

describe('rafts', () => {
  it('are none where there is no foot, none is asked for, or the part stands on the plate', () => {
    expect(raftSolid({ ...NO_RAFT, kind: 'plate' }, [])).toBe(null)
    expect(raftSolid(NO_RAFT, [foot(0, 0)])).toBe(null)
    const raft: Raft = { ...NO_RAFT, kind: 'plate' }
    expect([raftOf({ raft, pose: { tiltXDeg: 0, tiltYDeg: 0, liftMm: 0 } }).kind, raftOf({ raft, pose: { tiltXDeg: 0, tiltYDeg: 0, liftMm: 5 } }).kind]).toEqual(['none', 'plate'])
  })
  it('as pads are truncated cones: wider at the top by the lip, so that a scraper gets under', () => {
    const one = solid(made({ kind: 'pads', thicknessMm: 1, marginMm: 1, lipDeg: 45 }, [foot(0, 0)]))
    // frustum of the volume h/3 (A1 + A2 + √(A1 A2))
    const [a, b] = [polygon(2.6), polygon(1.6)]
    expect(one.volume()).toBeCloseTo((a + b + Math.sqrt(a * b)) / 3, 4)
    expect([one.slice(1e-4).area(), one.slice(1 - 1e-4).area()]).toEqual([expect.closeTo(b, 1), expect.closeTo(a, 1)])
    expect(solid(made({ kind: 'pads', lipDeg: 90 }, [foot(0, 0), foot(9, 0)])).decompose().length).toBe(2)
  })
  it('join pads that stand near to each other, and no others', () => {
    const feet = [foot(0, 0), foot(8, 0), foot(16, 0), foot(60, 0)], joined = solid(made({ kind: 'joined', reachMm: 15 }, feet))
    expect([joined.status(), joined.slice(0.4).decompose().length]).toEqual(['NoError', 2])
    expect(solid(made({ kind: 'joined', reachMm: 5 }, feet)).slice(0.4).decompose().length).toBe(4)
    const mesh = made({ kind: 'joined' }, feet), { report } = prepareMesh(mesh)
    expect([report.unclosedEdges, report.turnedShells, report.shells]).toEqual([0, 0, 6])
  })
  it('as a whole plate hold all feet, are vented, and keep their volume (hull and vents by an independent library)', () => {
    const feet = [foot(-20, -10), foot(20, -10), foot(20, 10), foot(-20, 10), foot(0, 0, 2.5)], raft = { kind: 'plate', thicknessMm: 1, marginMm: 1.5, lipDeg: 60, ventMm: 2, ventEveryMm: 6 } as const
    const whole = solid(made({ ...raft, ventMm: 0 }, feet)), vented = solid(made(raft, feet))
    const hull = (extra: number): number => wasm.CrossSection.hull(feet.map(f => wasm.CrossSection.circle(f.radiusMm + extra, 96).translate([f.x, f.y]))).area()
    expect(whole.slice(0.999).area() / hull(1.5)).toBeCloseTo(1, 2)
    expect(whole.slice(0.001).area() / hull(1.5 - 1 / Math.tan(Math.PI / 3))).toBeCloseTo(1, 2)
    const hole = polygon(1, 16), holes = (whole.volume() - vented.volume()) / hole
    expect([vented.status(), vented.genus()]).toEqual(['NoError', Math.round(holes)])
    expect(holes).toBeCloseTo(Math.round(holes), 3)
    expect(holes).toBeGreaterThan(10)
    // no vent under a foot
    for (const f of feet) expect(vented.slice(0.5).intersect(wasm.CrossSection.circle(f.radiusMm, 48).translate([f.x, f.y])).area()).toBeCloseTo(polygon(f.radiusMm), 2)
    const { report } = prepareMesh(made(raft, feet))
    expect([report.unclosedEdges, report.turnedShells]).toEqual([0, 0])
  })
  it('in a line are closed as well, and of one foot', () => {
    for (const feet of [[foot(0, 0)], [foot(-10, 0), foot(0, 0), foot(10, 0)]]) for (const kind of ['pads', 'joined', 'plate'] as const) expect(solid(made({ kind }, feet)).status()).toBe('NoError')
  })
  it('are seen by the scan: the first layer is theirs, and nothing of it hangs', () => {
    const scan = new ModelScan(box([-1, -1, 5], [1, 1, 8]), { pixelMm: 0.05, layerMm: 0.05 }), mesh = made({ kind: 'plate', lipDeg: 90, ventMm: 0 }, [foot(0, 0)])
    scan.setStilts([mesh])
    const result = scan.runToEnd()
    expect([result.floating.length, result.islands.length]).toEqual([0, 1])
    expect(result.signals.areaMm2[0]).toBeCloseTo(polygon(2.6), 0)
  })
})
