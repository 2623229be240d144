import { joinMeshes, type Mesh, type Vec3 } from '../mesh'
import type { Stilt } from './stilt'
import { shaftShare } from './stilt'

/** Sides of every ring. Inscribed, so a stilt is never thicker than its sizes say. */
const SIDES = 16

/** A foot on the model narrows to this share inside it, so that it does not break out again beside an edge. */
const FOOT_END_SHARE = 0.4

interface Ring {
  readonly center: Vec3
  /** Direction of travel, from tip to foot. */
  readonly along: Vec3
  readonly radius: number
}

/** One stilt as one closed, outward-facing solid: a tube swept from the end of its tip, inside the part, to the plate. */
export function solidOfStilt(stilt: Stilt): Mesh {
  if (stilt.foot === 'none') return { positions: new Float32Array(0), triangles: new Uint32Array(0) }
  return sweep(ringsOf(stilt))
}

/** All stilts that reach the ground, as one mesh of closed solids. */
export function solidOfStilts(stilts: readonly Stilt[]): Mesh {
  return joinMeshes(stilts.map(solidOfStilt))
}

/** The axis of a stilt: its path, with the last bend on top of the foot, so that a foot always stands upright. */
export function axisOf(stilt: Stilt): Vec3[] {
  if (stilt.foot === 'model') return [...stilt.path]
  const foot = stilt.path[stilt.path.length - 1]
  return [...stilt.path.slice(0, -1), [foot[0], foot[1], stilt.sizes.footHeightMm]]
}

function ringsOf(stilt: Stilt): Ring[] {
  const { sizes, path } = stilt
  const axis = axisOf(stilt)
  const last = axis.length - 1
  const directions = axis.slice(0, -1).map((p, i) => unit(sub(axis[i + 1], p)))
  const down: Vec3 = [0, 0, -1]
  const rings: Ring[] = []
  const tip = axis[0], first = directions[0]
  const tipRadius = sizes.tipDiameterMm / 2
  if (sizes.penetrationMm > 0) {
    rings.push({ center: [tip[0] - first[0] * sizes.penetrationMm, tip[1] - first[1] * sizes.penetrationMm, tip[2] - first[2] * sizes.penetrationMm], along: first, radius: tipRadius })
  }
  rings.push({ center: tip, along: first, radius: tipRadius })
  for (let i = 1; i < last; i++) {
    const t = stilt.foot === 'model' && i === last - 1 ? 1 : shaftShare(path, i)
    const diameter = sizes.kneeDiameterMm + (sizes.shaftFootDiameterMm - sizes.kneeDiameterMm) * t
    rings.push({ center: axis[i], along: unit(add(directions[i - 1], directions[i])), radius: diameter / 2 })
  }
  const foot = axis[last]
  if (stilt.foot === 'model') {
    const d = directions[last - 1], deep = sizes.footPenetrationMm
    rings.push({ center: foot, along: d, radius: sizes.footDiameterMm / 2 })
    if (deep > 0) rings.push({ center: [foot[0] + d[0] * deep, foot[1] + d[1] * deep, foot[2] + d[2] * deep], along: d, radius: sizes.footDiameterMm / 2 * FOOT_END_SHARE })
    return rings
  }
  rings.push({ center: foot, along: down, radius: sizes.shaftFootDiameterMm / 2 })
  const rim = Math.max(sizes.footDiameterMm, sizes.shaftFootDiameterMm) / 2
  rings.push({ center: [foot[0], foot[1], sizes.footHeightMm * 0.4], along: down, radius: rim })
  rings.push({ center: [foot[0], foot[1], 0], along: down, radius: rim })
  return rings
}

function sweep(rings: readonly Ring[]): Mesh {
  const n = rings.length
  const positions = new Float32Array((n * SIDES + 2) * 3)
  const triangles = new Uint32Array((2 * SIDES * (n - 1) + 2 * SIDES) * 3)
  let side = perpendicular(rings[0].along)
  rings.forEach((ring, i) => {
    // carry the frame along without twist
    side = unit(sub(side, scale(ring.along, dot(side, ring.along))))
    const up = cross(ring.along, side)
    for (let s = 0; s < SIDES; s++) {
      const a = (2 * Math.PI * s) / SIDES, c = Math.cos(a) * ring.radius, d = Math.sin(a) * ring.radius
      for (let x = 0; x < 3; x++) positions[3 * (i * SIDES + s) + x] = ring.center[x] + c * side[x] + d * up[x]
    }
  })
  const top = n * SIDES, bottom = top + 1
  positions.set(rings[0].center, 3 * top)
  positions.set(rings[n - 1].center, 3 * bottom)
  let t = 0
  const put = (a: number, b: number, c: number): void => {
    triangles[t++] = a
    triangles[t++] = b
    triangles[t++] = c
  }
  for (let s = 0; s < SIDES; s++) {
    const u = (s + 1) % SIDES
    put(top, u, s)
    for (let i = 0; i + 1 < n; i++) {
      const a = i * SIDES + s, b = i * SIDES + u, c = a + SIDES, d = b + SIDES
      put(a, b, d)
      put(a, d, c)
    }
    put(bottom, (n - 1) * SIDES + s, (n - 1) * SIDES + u)
  }
  return { positions, triangles }
}

function perpendicular(v: Vec3): Vec3 {
  return unit(cross(v, Math.abs(v[0]) < 0.8 ? [1, 0, 0] : [0, 1, 0]))
}
function add(a: Vec3, b: Vec3): Vec3 {
  return [a[0] + b[0], a[1] + b[1], a[2] + b[2]]
}
function sub(a: Vec3, b: Vec3): Vec3 {
  return [a[0] - b[0], a[1] - b[1], a[2] - b[2]]
}
function scale(v: Vec3, s: number): Vec3 {
  return [v[0] * s, v[1] * s, v[2] * s]
}
function dot(a: Vec3, b: Vec3): number {
  return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
}
function cross(a: Vec3, b: Vec3): Vec3 {
  return [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]]
}
function unit(v: Vec3): Vec3 {
  const l = Math.hypot(v[0], v[1], v[2]) || 1
  return [v[0] / l, v[1] / l, v[2] / l]
}
