import type { Cup, ScanReport, StandPoint } from '@oak-stilts/core/contract'
import type { PreparedMesh } from '@oak-stilts/core/mesh'
import type { ScanResult } from '@oak-stilts/core/scan'

/** A scan as it is published. */
export function reportOf(prepared: PreparedMesh, r: ScanResult, seconds: number): ScanReport {
  const { sizeMm, ...mesh } = prepared.report
  const s = r.signals
  const known = (values: Float64Array): (number | null)[] => Array.from(values, v => (Number.isFinite(v) ? v : null))
  const ventOf = ({ vent }: Cup): ScanReport['suction'][number]['vent'] => vent && { at: xyz(vent.at), direction: xyz(vent.direction), wallMm: vent.wallMm }
  return {
    layerHeightMm: r.layerMm, pixelMm: r.pixelMm, layerCount: r.layerCount,
    mesh: { ...mesh, sizeMm: [...sizeMm] },
    islands: r.islands.map(i => ({ layer: i.layer, zMm: i.zMm, areaMm2: i.areaMm2, center: xyz(i.center), joinsLayer: i.joinsLayer, volumeMm3: i.volumeMm3, class: i.class, state: i.state, heldShare: i.heldShare, hangingMm2: i.hangingMm2 })),
    ledges: r.ledges.map(l => ({ kind: l.kind, firstLayer: l.firstLayer, lastLayer: l.lastLayer, reachMm: l.reachMm, areaMm2: l.areaMm2, heldShare: l.heldShare, hangingMm2: l.hangingMm2, spanMm: l.spanMm, wide: l.wide, state: l.state, at: xyz(l.at) })),
    folded: { ...r.folded },
    suction: r.cups.map(c => ({ firstLayer: c.firstLayer, lastLayer: c.lastLayer, peakAreaMm2: c.peakAreaMm2, volumeMm3: c.volumeMm3, ends: c.ends, pullN: c.pullN, at: xyz(c.at), bySupports: c.bySupports, narrowVent: c.narrowVent, vent: ventOf(c) })),
    sealed: r.cups.filter(c => c.ends === 'closed' && !c.narrowVent).map(c => ({ firstLayer: c.firstLayer, lastLayer: c.lastLayer, volumeMm3: c.volumeMm3, at: xyz(c.at), vent: ventOf(c) })),
    pools: r.pools.map(p => ({ firstLayer: p.firstLayer, lastLayer: p.lastLayer, volumeMm3: p.volumeMm3, peakAreaMm2: p.peakAreaMm2, at: xyz(p.at) })),
    floatingStilts: r.floating.map(f => ({ layer: f.layer, center: xyz(f.center) })),
    layers: { areaMm2: Array.from(r.areaMm2), unclosedRows: r.unclosedRows },
    signals: {
      areaMm2: Array.from(s.areaMm2), newMm2: Array.from(s.newMm2), hangingMm2: Array.from(s.hangingMm2), pieces: Array.from(s.pieces), enclosedMm2: Array.from(s.enclosedMm2),
      peelN: Array.from(s.peelN), centerX: known(s.centerX), centerY: known(s.centerY), offCenterMm: known(s.offCenterMm), jumps: Array.from(s.jumps),
    },
    seconds,
  }
}

function xyz([x, y, z]: StandPoint): [number, number, number] {
  return [x, y, z]
}
