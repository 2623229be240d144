import { NO_RAFT, type Gauge, type PlanBeam, type PlanNode, type Raft, type Tilt } from '../contract'
import { boundsOf, type Mesh, type Vec3 } from '../mesh'
import { movePoint, normalToSource, standOf, toSource, UNSHAPED, type Stand } from '../pose'
import { diametersOf, gaugeFor, placeNear, PlanDraft, PlanIndex, rowsOfBraces, rowsOfBranch, rowsOfProp, rowsOfStilt, sizesOf, type Joint, type Stilt, type StiltShape, type StiltSizes } from '../stilts'
import type { BuiltIn, BuiltInSupport } from './recognise'

/** A model without the supports that it arrived with, and these as stilts. */
export interface LiftedOut {
  /** In the coordinates of the file. */
  readonly model: Mesh
  /** How it stood: as in the file, so high above the plate. */
  readonly pose: Tilt
  readonly nodes: readonly PlanNode[]
  readonly beams: readonly PlanBeam[]
  readonly raft: Raft
  readonly stilts: number
}

/**
 * Takes the supports that were found out of a mesh: the model is left whole where they were, and they become stilts that can be edited, as
 * they stood. Their sizes count as set by hand, so that they stay as they were printed.
 * @param pixelMm of the scan; it decides where the part is centred
 */
export function liftOut(mesh: Mesh, found: BuiltIn, gauges: readonly Gauge[], pixelMm: number, part: string): LiftedOut {
  const model = compacted(mesh, found.model), pose: Tilt = { tiltXDeg: 0, tiltYDeg: 0, liftMm: Math.max(0, boundsOf(model.positions).min[2] - found.plateMm) }
  const stand = standOf(model.positions, pose, pixelMm), draft = new PlanDraft(new PlanIndex(new Map(), new Map()), [])
  const tips: (string | null)[] = []
  found.supports.forEach((s, i) => {
    const host = s.end.on === 'support' ? stiltAt(draft, tips[s.end.host]) : null
    const rows = s.end.on === 'support' ? (host ? rowsInto(draft, s, host, i + 1, stand, gauges) : null) : rowsOfStilt(shapeOf(s, stand, gauges), { part, number: i + 1 })
    if (rows) draft.put(rows)
    tips.push(rows?.nodes.find(n => n.kind === 'tip')?.id ?? null)
  })
  const braces: { readonly lower: Joint; readonly upper: Joint; readonly diameterMm: number }[] = []
  for (const { from, to, diameterMm } of found.braces) {
    const a = stiltAt(draft, tips[from.support]), upper = a && placeNear(a, movePoint(stand, from.at))
    if (!upper) continue
    if ('foot' in to) {
      const [x, y] = movePoint(stand, to.foot), sizes = { ...upper.host.sizes, shaftFootDiameterMm: diameterMm, footDiameterMm: to.footDiameterMm, footHeightMm: to.footHeightMm }
      draft.put(rowsOfProp(draft.index, { ok: true, at: upper, foot: [x, y, 0], sizes, gapMm: 0 }))
      continue
    }
    const b = stiltAt(draft, tips[to.support]), lower = b && placeNear(b, movePoint(stand, to.at))
    if (lower) braces.push({ diameterMm, lower, upper })
  }
  draft.put(rowsOfBraces(draft.index, braces))
  const { put } = draft.change('')
  return {
    model, pose, nodes: put?.nodes ?? [], beams: put?.beams ?? [], stilts: tips.filter(t => t !== null).length,
    raft: found.raft ? { ...NO_RAFT, kind: found.raft.whole ? 'plate' : 'pads', thicknessMm: Math.max(0.1, round(found.raft.thicknessMm)) } : NO_RAFT,
  }
}

function stiltAt(draft: PlanDraft, tip: string | null | undefined): Stilt | null {
  return tip ? draft.index.stilt(tip) : null
}

function sizesFor({ tip, path, kneeDiameterMm, endDiameterMm, end }: BuiltInSupport, gauge: Gauge): StiltSizes {
  const [a, b] = path, made = { ...sizesOf(gauge), tipShape: tip.shape, tipDiameterMm: round(tip.diameterMm), penetrationMm: round(tip.depthMm > 0 ? tip.depthMm : gauge.penetrationMm), coneLengthMm: round(Math.hypot(b[0] - a[0], b[1] - a[1], b[2] - a[2])), kneeDiameterMm: round(kneeDiameterMm), shaftFootDiameterMm: round(endDiameterMm) }
  if (end.on === 'plate') return { ...made, footDiameterMm: round(end.footDiameterMm), footHeightMm: round(end.footHeightMm), footPenetrationMm: 0 }
  if (end.on === 'model') return { ...made, footDiameterMm: round(end.diameterMm), footHeightMm: round(end.coneMm), footPenetrationMm: round(end.depthMm) }
  return made
}

function shapeOf(s: BuiltInSupport, stand: Stand, gauges: readonly Gauge[]): StiltShape {
  const gauge = gaugeFor({ gauge: '', sizes: { tipDiameterMm: s.tip.diameterMm } }, gauges), sizes = sizesFor(s, gauge), at = { shape: UNSHAPED, stand }
  const anchored = (point: Vec3, normal: Vec3): StiltShape['anchor'] => ({ point: toSource(at, movePoint(stand, point) as never), normal: [...normalToSource(at, normal)] })
  return {
    gauge: gauge.id, role: 'structural', sizes, own: sizes, anchor: anchored(s.tip.at, s.tip.normal), path: s.path.map(p => movePoint(stand, p)),
    foot: s.end.on === 'model' ? 'model' : 'plate', footPinned: false, ...(s.end.on === 'model' && { footAnchor: anchored(s.path[s.path.length - 1], s.end.normal) }),
  }
}

/** The rows of a support that ends in another one. */
function rowsInto(draft: PlanDraft, s: BuiltInSupport, host: Stilt, number: number, stand: Stand, gauges: readonly Gauge[]): ReturnType<typeof rowsOfBranch> | null {
  const whole = shapeOf(s, stand, gauges), own = whole.path.length - 1, joint = placeNear(host, whole.path[own])
  if (!joint) return null
  const shape: StiltShape = {
    ...whole, foot: host.foot, ...(host.footAnchor && { footAnchor: host.footAnchor }),
    path: [...whole.path.slice(0, own), joint.at, ...host.path.slice(joint.segment + 1)], shared: { from: own, diameters: diametersOf(host).slice(joint.segment) },
  }
  return rowsOfBranch(draft.index, shape, joint, number)
}

/** Some triangles of a mesh as one of their own. */
function compacted({ positions, triangles }: Mesh, some: Uint32Array): Mesh {
  const at = new Map<number, number>(), out = new Uint32Array(3 * some.length), points: number[] = []
  some.forEach((t, i) => {
    for (let c = 0; c < 3; c++) {
      const v = triangles[3 * t + c]
      let n = at.get(v)
      if (n === undefined) {
        at.set(v, (n = at.size))
        points.push(positions[3 * v], positions[3 * v + 1], positions[3 * v + 2])
      }
      out[3 * i + c] = n
    }
  })
  return { positions: Float32Array.from(points), triangles: out }
}

function round(mm: number): number {
  return Math.round(mm * 1000) / 1000
}
