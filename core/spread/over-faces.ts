import Flatbush from 'flatbush'
import { cross, dot, PointGrid, sub, triangleArea, unit, type Mesh, type Patches, type Vec3 } from '../mesh'
import { moveDirection, moveDirectionBack, movePoint } from '../pose'
import type { Surface } from '../stilts'
import { cornersOf, stepsIn, type Spot } from './along'

/** How tips are laid out within an outline. */
export type Pattern = 'hexagonal' | 'square'

/** A tip within keeps this share of the spacing to others; what is left open beyond the second is filled. */
const LEAST_SHARE = 0.75, OPEN_SHARE = 0.9
/** Faces whose mean normal is less than this look to all sides alike. */
const LEAST_SIDE = 0.02
/** A face looks down where it does by this much, as a cosine. */
const LEAST_DOWN = 0.1
/** Steps of a spacing by which what is left open is looked for. */
const FILL_STEPS = 4
/** More tips than that are no help to anybody. */
export const MOST_SPOTS = 20000

type Flat = readonly [number, number]

/** Faces laid flat: seen along their mean normal. */
class Sheet {
  readonly normal: Vec3
  readonly #u: Vec3
  readonly #v: Vec3
  readonly #mesh: Mesh
  readonly #faces: readonly number[]
  readonly #triangles: Flatbush
  readonly loops: readonly (readonly Flat[])[]
  readonly #borders: Flatbush | null
  readonly #segments: readonly (readonly [Flat, Flat])[]

  /** @param down where tips come from: the side that is meant of faces that look to all sides alike, or more up than down */
  constructor(mesh: Mesh, patches: Patches, faces: readonly number[], down: Vec3) {
    this.#mesh = mesh
    this.#faces = faces
    let sum: Vec3 = [0, 0, 0], total = 0
    for (const f of faces) {
      const n = patches.normalOf(f), area = triangleArea(mesh, f)
      total += area
      sum = [sum[0] + n[0] * area, sum[1] + n[1] * area, sum[2] + n[2] * area]
    }
    const wraps = dot(sum, down) < 0 && faces.some(f => dot(patches.normalOf(f), down) > LEAST_DOWN)
    this.normal = wraps || Math.hypot(...sum) <= LEAST_SIDE * total ? down : unit(sum)
    const loops = patches.loopsOf(faces)
    this.#u = this.#longestEdge(loops)
    this.#v = cross(this.normal, this.#u)
    this.loops = loops.map(loop => loop.map(v => this.flat(this.#vertex(v))))
    this.#triangles = new Flatbush(faces.length)
    for (const f of faces) {
      const c = this.#corners(f).map(p => this.flat(p))
      this.#triangles.add(Math.min(c[0][0], c[1][0], c[2][0]), Math.min(c[0][1], c[1][1], c[2][1]), Math.max(c[0][0], c[1][0], c[2][0]), Math.max(c[0][1], c[1][1], c[2][1]))
    }
    this.#triangles.finish()
    this.#segments = this.loops.flatMap(loop => loop.map((p, i) => [p, loop[(i + 1) % loop.length]] as const))
    this.#borders = this.#segments.length > 0 ? new Flatbush(this.#segments.length) : null
    for (const [a, b] of this.#segments) this.#borders?.add(Math.min(a[0], b[0]), Math.min(a[1], b[1]), Math.max(a[0], b[0]), Math.max(a[1], b[1]))
    this.#borders?.finish()
  }

  #vertex(v: number): Vec3 {
    const { positions: p } = this.#mesh
    return [p[3 * v], p[3 * v + 1], p[3 * v + 2]]
  }
  #corners(face: number): [Vec3, Vec3, Vec3] {
    const { triangles: t } = this.#mesh
    return [this.#vertex(t[3 * face]), this.#vertex(t[3 * face + 1]), this.#vertex(t[3 * face + 2])]
  }
  /** The direction of the longest straight of the border, within the sheet: rows go along it. */
  #longestEdge(loops: readonly (readonly number[])[]): Vec3 {
    let best: Vec3 = Math.abs(this.normal[0]) < 0.8 ? [1, 0, 0] : [0, 1, 0], longest = 0
    for (const loop of loops) {
      loop.forEach((v, i) => {
        const d = sub(this.#vertex(loop[(i + 1) % loop.length]), this.#vertex(v)), l = Math.hypot(...d)
        if (l > longest + 1e-6) {
          longest = l
          best = d
        }
      })
    }
    const up = dot(best, this.normal)
    return unit([best[0] - up * this.normal[0], best[1] - up * this.normal[1], best[2] - up * this.normal[2]])
  }

  flat(p: Vec3): Flat {
    return [dot(p, this.#u), dot(p, this.#v)]
  }

  /** The skin at a place of the sheet, the outermost as it looks; null outside its faces. */
  skinAt([x, y]: Flat): { readonly point: Vec3; readonly face: number } | null {
    let best: { readonly point: Vec3; readonly face: number } | null = null, out = -Infinity
    for (const i of this.#triangles.search(x, y, x, y)) {
      const [a, b, c] = this.#corners(this.#faces[i]), [p, q, r] = [this.flat(a), this.flat(b), this.flat(c)]
      const area = (q[0] - p[0]) * (r[1] - p[1]) - (r[0] - p[0]) * (q[1] - p[1])
      // what looks the other way is not meant
      if (area < 1e-12) continue
      const s = ((x - p[0]) * (r[1] - p[1]) - (r[0] - p[0]) * (y - p[1])) / area, t = ((q[0] - p[0]) * (y - p[1]) - (x - p[0]) * (q[1] - p[1])) / area
      if (s < -1e-9 || t < -1e-9 || s + t > 1 + 1e-9) continue
      const point: Vec3 = [a[0] + s * (b[0] - a[0]) + t * (c[0] - a[0]), a[1] + s * (b[1] - a[1]) + t * (c[1] - a[1]), a[2] + s * (b[2] - a[2]) + t * (c[2] - a[2])], far = dot(point, this.normal)
      if (far <= out) continue
      out = far
      best = { point, face: this.#faces[i] }
    }
    return best
  }

  /** Whether a place is nearer to the border than a distance. */
  nearBorder([x, y]: Flat, mm: number): boolean {
    return (this.#borders?.search(x - mm, y - mm, x + mm, y + mm) ?? []).some(i => {
      const [a, b] = this.#segments[i], dx = b[0] - a[0], dy = b[1] - a[1], l2 = dx * dx + dy * dy
      const t = l2 > 0 ? Math.max(0, Math.min(1, ((x - a[0]) * dx + (y - a[1]) * dy) / l2)) : 0
      return Math.hypot(x - a[0] - t * dx, y - a[1] - t * dy) < mm
    })
  }

  /** The smallest and the largest place of its faces. */
  get box(): readonly [Flat, Flat] {
    const { minX, minY, maxX, maxY } = this.#triangles
    return [[minX, minY], [maxX, maxY]]
  }
}

/** A border moved inside by a distance: each of its places where the lines beside it meet. */
function movedIn(loop: readonly Flat[], mm: number): Flat[] {
  const n = loop.length, out: Flat[] = []
  // what lies to the left of the way is inside
  const inward = (i: number): Flat | null => {
    const a = loop[i % n], b = loop[(i + 1) % n], l = Math.hypot(b[0] - a[0], b[1] - a[1])
    return l < 1e-9 ? null : [-(b[1] - a[1]) / l, (b[0] - a[0]) / l]
  }
  for (let i = 0; i < n; i++) {
    const before = inward((i + n - 1) % n), after = inward(i)
    if (!before || !after) continue
    const along = before[0] * after[0] + before[1] * after[1]
    // where it turns back on itself the lines meet nowhere
    const k = mm / Math.max(0.15, 1 + along)
    out.push([loop[i][0] + (before[0] + after[0]) * k, loop[i][1] + (before[1] + after[1]) * k])
  }
  return out
}

/**
 * Spots over faces: along their outline first, evenly from corner to corner and by a margin inside, then within it in rows; what is left
 * open between both is filled. Spacings are measured on the faces as seen along their mean normal.
 * @returns spots in the stand; empty where there are no faces
 */
export function overFaces(surface: Surface, patches: Patches, faces: readonly number[], spacingMm: number, pattern: Pattern, marginMm: number): Spot[] {
  if (faces.length === 0) return []
  const { stand } = surface, sheet = new Sheet(surface.faces, patches, faces, moveDirectionBack(stand, [0, 0, -1]))
  const spots: Spot[] = [], taken = new PointGrid(spacingMm)
  const take = (at: Flat, apartMm: number): void => {
    const skin = sheet.skinAt(at)
    // in the plane of the sheet, so that steep skin gets no more than what is seen of it
    if (!skin || spots.length >= MOST_SPOTS || taken.near([at[0], at[1], 0], apartMm)) return
    taken.add([at[0], at[1], 0])
    spots.push({ point: movePoint(stand, skin.point), normal: moveDirection(stand, patches.normalOf(skin.face)) })
  }
  for (const loop of sheet.loops) {
    const line = movedIn(loop, marginMm), n = line.length, corners = cornersOf(line.map(([x, y]) => [x, y, 0]), true)
    const starts = corners.length > 0 ? corners : n > 0 ? [0] : []
    const free = (p: Flat): boolean => !sheet.nearBorder(p, marginMm * 0.98)
    // corners first: they hold most
    for (const c of corners) if (free(line[c])) take(line[c], spacingMm / 2)
    starts.forEach((a, s) => {
      const b = s + 1 < starts.length ? starts[s + 1] : starts[0] + n
      const lengths = Array.from({ length: b - a }, (_, i) => Math.hypot(line[(a + i + 1) % n][0] - line[(a + i) % n][0], line[(a + i + 1) % n][1] - line[(a + i) % n][1]))
      const total = lengths.reduce((x, y) => x + y, 0), steps = stepsIn(total, spacingMm)
      let passed = 0, next = corners.length > 0 ? 1 : 0
      lengths.forEach((long, i) => {
        for (; next < steps && (next * total) / steps <= passed + long + 1e-9; next++) {
          const t = long > 0 ? ((next * total) / steps - passed) / long : 0, p = line[(a + i) % n], q = line[(a + i + 1) % n], at: Flat = [p[0] + (q[0] - p[0]) * t, p[1] + (q[1] - p[1]) * t]
          if (free(at)) take(at, spacingMm / 2)
        }
        passed += long
      })
    })
  }
  const [low, high] = sheet.box, middle: Flat = [(low[0] + high[0]) / 2, (low[1] + high[1]) / 2]
  const rowMm = pattern === 'hexagonal' ? (spacingMm * Math.sqrt(3)) / 2 : spacingMm
  const rows = Math.ceil((high[1] - low[1]) / 2 / rowMm), columns = Math.ceil((high[0] - low[0]) / 2 / spacingMm) + 1
  const inside = (at: Flat, apartMm: number): void => {
    if (!sheet.nearBorder(at, marginMm)) take(at, apartMm)
  }
  if ((2 * rows + 1) * (2 * columns + 1) < 25 * MOST_SPOTS) {
    for (let r = -rows; r <= rows; r++) {
      const shift = pattern === 'hexagonal' && r % 2 !== 0 ? 0.5 : 0
      for (let c = -columns; c <= columns; c++) inside([middle[0] + (c + shift) * spacingMm, middle[1] + r * rowMm], spacingMm * LEAST_SHARE)
    }
    const step = spacingMm / FILL_STEPS
    for (let y = low[1]; y <= high[1] && spots.length < MOST_SPOTS; y += step) for (let x = low[0]; x <= high[0]; x += step) inside([x, y], spacingMm * OPEN_SHARE)
  }
  return spots.length > 0 ? spots : middleOf(surface, patches, faces, sheet)
}

/** Faces too small for any margin get one spot, in the middle of them or of their largest triangle. */
function middleOf(surface: Surface, patches: Patches, faces: readonly number[], sheet: Sheet): Spot[] {
  const { faces: mesh, stand } = surface, center = (f: number): Vec3 => [0, 1, 2].map(k => (mesh.positions[3 * mesh.triangles[3 * f] + k] + mesh.positions[3 * mesh.triangles[3 * f + 1] + k] + mesh.positions[3 * mesh.triangles[3 * f + 2] + k]) / 3) as unknown as Vec3
  const areas = faces.map(f => triangleArea(mesh, f)), total = areas.reduce((a, b) => a + b, 0) || 1
  const mean = faces.reduce<Vec3>((sum, f, i) => {
    const c = center(f)
    return [sum[0] + (c[0] * areas[i]) / total, sum[1] + (c[1] * areas[i]) / total, sum[2] + (c[2] * areas[i]) / total]
  }, [0, 0, 0])
  const largest = faces[areas.indexOf(areas.reduce((a, b) => Math.max(a, b), 0))], skin = sheet.skinAt(sheet.flat(mean)) ?? { point: center(largest), face: largest }
  return [{ point: movePoint(stand, skin.point), normal: moveDirection(stand, patches.normalOf(skin.face)) }]
}
