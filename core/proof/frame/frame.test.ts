import { describe, expect, it } from 'vitest'
import { add, cross, distance, scale, sub, unit, type Vec3 } from '../../mesh'
import { between, random } from '../../testing/random'
import { ALL, bucklingFactor, Frame, FrameFactor, PINNED, type FrameBeam, type Material } from './index'

const E = 400, material: Material = { modulusNMm2: E, poisson: 0.4 }
const inertia = (r: number): number => (Math.PI * r ** 4) / 4
/** A straight chain of even pieces between two points whose nodes are first, first + 1 …; the radius goes over evenly. */
function chain(from: Vec3, to: Vec3, pieces: number, r0: number, r1 = r0, first = 0): { points: Vec3[]; beams: FrameBeam[] } {
  const at = (t: number): Vec3 => add(from, scale(sub(to, from), t)), r = (t: number): number => r0 + (r1 - r0) * t
  return {
    points: Array.from({ length: pieces + 1 }, (_, i) => at(i / pieces)),
    beams: Array.from({ length: pieces }, (_, i) => ({ a: first + i, b: first + i + 1, from: at(i / pieces), to: at((i + 1) / pieces), fromRadiusMm: r(i / pieces), toRadiusMm: r((i + 1) / pieces) })),
  }
}
const loadOf = (frame: Frame, node: number, force: Vec3, moment?: Vec3): Float64Array => {
  const load = new Float64Array(6 * frame.points.length)
  frame.addLoad(load, node, frame.points[node], force, moment)
  return load
}

describe('beams', () => {
  // Published: Timoshenko, Strength of Materials I: cantilever and simply supported beam under a single load
  it('bend as handbooks have it: a cantilever PL³/3EI and PL²/2EI, a beam on two supports PL³/48EI', () => {
    const { points, beams } = chain([0, 0, 20], [0, 0, 0], 1, 0.5), frame = new Frame(points, beams, new Map([[1, ALL]]), material), u = new FrameFactor(frame).solve(loadOf(frame, 0, [0.1, 0, 0]))
    expect(u[0]).toBeCloseTo((0.1 * 20 ** 3) / (3 * E * inertia(0.5)), 8)
    expect(u[4]).toBeCloseTo((0.1 * 20 ** 2) / (2 * E * inertia(0.5)), 8)
    expect(frame.forcesOf(0, u)).toMatchObject({ alongN: expect.closeTo(0, 9), acrossN: expect.closeTo(0.1, 9), fromNmm: expect.closeTo(0, 8), toNmm: expect.closeTo(2, 8) })
    const span = chain([0, 0, 0], [30, 0, 0], 2, 0.5), on = new Frame(span.points, span.beams, new Map([[0, PINNED | 8], [2, 6]]), material)
    expect(new FrameFactor(on).solve(loadOf(on, 1, [0, 0, 0.2]))[8]).toBeCloseTo((0.2 * 30 ** 3) / (48 * E * inertia(0.5)), 7)
  })
  it('draw and twist as handbooks have it: PL/EA, ML/GJ', () => {
    const { points, beams } = chain([3, 1, 20], [3, 1, 0], 1, 0.5), frame = new Frame(points, beams, new Map([[1, ALL]]), material), u = new FrameFactor(frame).solve(loadOf(frame, 0, [0, 0, 2], [0, 0, 0.5]))
    expect(u[2]).toBeCloseTo((2 * 20) / (E * Math.PI * 0.25), 9)
    expect(u[5]).toBeCloseTo((0.5 * 20) / ((E / 2.8) * 2 * inertia(0.5)), 9)
    expect(frame.forcesOf(0, u)).toMatchObject({ alongN: expect.closeTo(2, 9), twistNmm: expect.closeTo(0.5, 9) })
  })
  it('that taper bend as the integral of x²/EI, in one piece as in a hundred, however they lie', () => {
    for (const [a, b] of [[0.2, 0.6], [0.6, 0.2], [0.1, 1.1]]) {
      for (const to of [[0, 0, 0], [7, 3, 1], [-12, 4, 20.1]] as Vec3[]) {
        const from: Vec3 = [0, 0, 20], l = distance(from, to), one = chain(from, to, 1, a, b), across = unit(cross(sub(to, from), [0.3, 1, 0]))
        const frame = new Frame(one.points, one.beams, new Map([[1, ALL]]), material), u = new FrameFactor(frame).solve(loadOf(frame, 0, scale(across, 0.01)))
        // Simpson's rule on x²/EI
        let sum = 0
        for (let i = 0; i < 2000; i++) for (const [at, w] of [[i, 1], [i + 0.5, 4], [i + 1, 1]]) sum += (w / 12000) * l * (((at / 2000) * l) ** 2 / (E * inertia(a + ((b - a) * at) / 2000)))
        expect(Math.hypot(u[0], u[1], u[2]) / (0.01 * sum)).toBeCloseTo(1, 5)
        const many = chain(from, to, 100, a, b), fine = new Frame(many.points, many.beams, new Map([[100, ALL]]), material), v = new FrameFactor(fine).solve(loadOf(fine, 0, scale(across, 0.01)))
        const size = Math.max(...u.map(Math.abs))
        for (let d = 0; d < 6; d++) expect((v[d] - u[d]) / size).toBeCloseTo(0, 5)
      }
    }
  })
})

describe('frames', () => {
  /** A portal of two clamped columns and a bar. */
  const portal = (h: number, l: number, column: number, bar: number, brace = 0): Frame => {
    const points: Vec3[] = [[0, 0, 0], [0, 0, h], [l, 0, h], [l, 0, 0]], beam = (a: number, b: number, r: number): FrameBeam => ({ a, b, from: points[a], to: points[b], fromRadiusMm: r, toRadiusMm: r })
    return new Frame(points, [beam(0, 1, column), beam(1, 2, bar), beam(2, 3, column), ...(brace > 0 ? [beam(0, 2, brace)] : [])], new Map([[0, ALL], [3, ALL]]), material)
  }
  // Published: Kleinlogel, Rahmenformeln, the portal with clamped feet: k = (I bar / I column)(h / l)
  it('a portal sways and bears moments as the handbook has it', () => {
    const h = 40, l = 30, column = 0.5, bar = 0.6, force = 0.05, frame = portal(h, l, column, bar), k = (bar / column) ** 4 * (h / l), u = new FrameFactor(frame).solve(loadOf(frame, 1, [force / 2, 0, 0]).map((v, i) => v + loadOf(frame, 2, [force / 2, 0, 0])[i]))
    const sway = ((force * h ** 3) / (12 * E * inertia(column))) * ((3 * k + 2) / (6 * k + 1))
    // the handbook leaves out how bars are drawn and pressed
    expect(u[6] / sway).toBeCloseTo(1, 2)
    expect(frame.forcesOf(0, u).fromNmm / (((force * h) / 2) * ((3 * k + 1) / (6 * k + 1)))).toBeCloseTo(1, 2)
    expect(frame.forcesOf(0, u).toNmm / (((force * h) / 2) * ((3 * k) / (6 * k + 1)))).toBeCloseTo(1, 2)
  })
  it('a brace across it makes it as stiff as a truss', () => {
    const h = 30, l = 30, frame = portal(h, l, 0.5, 0.6, 0.4), u = new FrameFactor(frame).solve(loadOf(frame, 2, [1, 0, 0])), d = Math.hypot(h, l)
    // Closed form of the truss: the brace is drawn by P·d/l, the column beyond it pressed by P·h/l
    const truss = ((d / l) ** 2 * d) / (E * Math.PI * 0.16) + ((h / l) ** 2 * h) / (E * Math.PI * 0.25)
    expect(u[12] / truss).toBeGreaterThan(0.95)
    expect(u[12] / truss).toBeLessThan(1)
    expect(new FrameFactor(portal(h, l, 0.5, 0.6)).solve(loadOf(frame, 2, [1, 0, 0]))[12] / u[12]).toBeGreaterThan(30)
  })
  it('a rigid plate on n columns goes up by PL/nEA, and leans by its load’s distance from the middle', () => {
    const posts: [number, number][] = [[-10, -6], [10, -6], [10, 6], [-10, 6]], r = 0.3, h = 12
    const points: Vec3[] = [[0, 0, h], ...posts.map(([x, y]): Vec3 => [x, y, 0])], beams = posts.map(([x, y], i): FrameBeam => ({ a: 0, b: 1 + i, from: [x, y, h], to: [x, y, 0], fromRadiusMm: r, toRadiusMm: r }))
    const frame = new Frame(points, beams, new Map(posts.map((_, i) => [1 + i, ALL])), material), factor = new FrameFactor(frame), each = (E * Math.PI * r * r) / h
    expect(factor.solve(loadOf(frame, 0, [0, 0, 3]))[2]).toBeCloseTo(3 / (4 * each), 9)
    const load = new Float64Array(30)
    frame.addLoad(load, 0, [4, 0, h], [0, 0, 3])
    const u = factor.solve(load)
    // Closed form: springs in a row, and the columns' own bending, which is 4EI/L each less what the sway gives back
    const own = 4 * (4 - 3) * ((E * inertia(r)) / h)
    expect(-u[4] / ((3 * 4) / (4 * each * 100 + own))).toBeCloseTo(1, 6)
    expect(posts.map((_, i) => frame.forcesOf(i, u).alongN)).toEqual([0, 1, 2, 3].map(i => expect.closeTo(3 / 4 + (i === 1 || i === 2 ? 1 : -1) * ((each * 10 * 12) / (4 * each * 100 + own)), 6)))
  })
  it('agree with a dense solution of the handbook’s matrix on random graphs', () => {
    const r = random(4)
    for (let scene = 0; scene < 12; scene++) {
      const n = 6 + Math.floor(between(r, 0, 18)), points = Array.from({ length: n }, (): Vec3 => [between(r, -20, 20), between(r, -20, 20), between(r, 0, 40)]), beams: FrameBeam[] = []
      const join = (a: number, b: number): void => void beams.push({ a, b, from: points[a], to: points[b], fromRadiusMm: 0.5, toRadiusMm: 0.5 })
      for (let i = 1; i < n; i++) join(Math.floor(between(r, 0, i)), i)
      for (let i = 0; i < n / 2; i++) {
        const a = Math.floor(between(r, 0, n)), b = Math.floor(between(r, 0, n))
        if (a !== b) join(a, b)
      }
      const held = new Map([[0, ALL], [n - 1, PINNED]]), frame = new Frame(points, beams, held, material), load = Float64Array.from({ length: 6 * n }, () => between(r, -1, 1)), factor = new FrameFactor(frame)
      const u = factor.solve(load), dense = solveDense(points, beams, held, load)
      const size = Math.max(...dense.map(Math.abs))
      for (let i = 0; i < 6 * n; i++) expect(Math.abs(u[i] - dense[i]) / size).toBeLessThan(1e-8)
      // the work of the load is what the beams store
      const free = frame.freeOf(load)
      expect(free.reduce((sum, f, i) => sum + (f * u[i]) / 2, 0) / frame.energy(u)).toBeCloseTo(1, 8)
      // Published: Maxwell's reciprocal theorem
      const [p, q] = [1, n - 2], along = factor.solve(loadOf(frame, p, [1, 0, 0])), back = factor.solve(loadOf(frame, q, [0, 0, 1]))
      expect(along[6 * q + 2] - back[6 * p]).toBeCloseTo(0, 8)
    }
  })
  it('kept nodes alone resist as the whole frame does, and the others follow them', () => {
    const r = random(8), points = Array.from({ length: 12 }, (): Vec3 => [between(r, -9, 9), between(r, -9, 9), between(r, 0, 20)]), beams: FrameBeam[] = []
    for (let i = 1; i < 12; i++) for (const a of new Set([Math.floor(between(r, 0, i)), Math.floor(between(r, 0, i))])) beams.push({ a, b: i, from: points[a], to: points[i], fromRadiusMm: between(r, 0.2, 0.6), toRadiusMm: between(r, 0.2, 0.6) })
    const frame = new Frame(points, beams, new Map([[0, ALL]]), material), kept = [7, 3, 11], part = new FrameFactor(frame, kept), k = part.reduced(), whole = new FrameFactor(frame)
    const load = new Float64Array(72)
    for (const p of kept) for (let d = 0; d < 6; d++) load[6 * p + d] = between(r, -1, 1)
    const u = whole.solve(load), f = Array.from({ length: 18 }, (_, i) => Array.from({ length: 18 }, (_, j) => k[36 * (3 * Math.floor(i / 6) + Math.floor(j / 6)) + 6 * (i % 6) + (j % 6)] * u[6 * kept[Math.floor(j / 6)] + (j % 6)]).reduce((a, b) => a + b, 0))
    f.forEach((v, i) => expect(v).toBeCloseTo(load[6 * kept[Math.floor(i / 6)] + (i % 6)], 7))
    part.follow(u).forEach((v, i) => expect(v).toBeCloseTo(u[i], 7))
  })
  it('are the same wherever they stand, and however bodies are named that move as one', () => {
    const { points, beams } = chain([0, 0, 20], [4, 2, 0], 4, 0.3, 0.6), shift: Vec3 = [130, -40, 7], moved = beams.map(b => ({ ...b, from: add(b.from, shift), to: add(b.to, shift) }))
    const here = new Frame(points, beams, new Map([[4, ALL]]), material), there = new Frame(points.map(p => add(p, shift)), moved, new Map([[4, ALL]]), material)
    const u = new FrameFactor(here).solve(loadOf(here, 0, [0.1, 0.2, 0.3])), v = new FrameFactor(there).solve(loadOf(there, 0, [0.1, 0.2, 0.3]))
    u.forEach((x, i) => expect(v[i]).toBeCloseTo(x, 8))
    // the same body told by another of its points
    const told = new Frame([add(points[0], [5, 5, 5]), ...points.slice(1)], beams, new Map([[4, ALL]]), material), load = new Float64Array(30)
    told.addLoad(load, 0, points[0], [0.1, 0.2, 0.3])
    const w = new FrameFactor(told).solve(load)
    told.displacementOf(w, 0, points[0]).forEach((x, i) => expect(x).toBeCloseTo(u[i], 8))
  })
  it('that nothing holds are said to be loose', () => {
    const { points, beams } = chain([0, 0, 20], [0, 0, 0], 3, 0.5)
    expect([new FrameFactor(new Frame(points, beams, new Map([[3, ALL]]), material)).sound, new FrameFactor(new Frame(points, beams, new Map(), material)).sound]).toEqual([true, false])
  })
})

describe('buckling', () => {
  const r = 0.5, l = 40, euler = (Math.PI ** 2 * E * inertia(r)) / l ** 2
  // Published: Timoshenko and Gere, Theory of Elastic Stability: columns of the four end conditions; K = 2, 1, 0.6992, 0.5
  it.each([['fixed and free', [63, 0], 1 / 4], ['pinned at both ends', [PINNED | 32, 3], 1], ['fixed and pinned', [63, 3], 1 / 0.69916 ** 2], ['fixed at both ends', [63, 63 & ~4], 4]] as const)('of a column that is %s is Euler’s', (_, [foot, head], times) => {
    const { points, beams } = chain([0, 0, 0], [0, 0, l], 10, r), frame = new Frame(points, beams, new Map([[0, foot], [10, head]]), material), factor = new FrameFactor(frame)
    const u = factor.solve(loadOf(frame, 10, [0, 0, -1])), along = beams.map((_, i) => frame.forcesOf(i, u).alongN)
    expect(along[3]).toBeCloseTo(-1, 6)
    expect(bucklingFactor(factor, along) / (times * euler)).toBeCloseTo(1, 3)
  })
  it('of a tapered column is what integrating its curve says', () => {
    for (const [top, foot] of [[0.3, 0.6], [0.4, 0.9]]) {
      const { points, beams } = chain([0, 0, 0], [0, 0, l], 16, foot, top), frame = new Frame(points, beams, new Map([[0, ALL]]), material), factor = new FrameFactor(frame)
      const along = beams.map(() => -1)
      // by shooting: EI v'' = P (δ − v) from the clamped foot, with the head at δ: the curve is upright where it begins and has no moment where it ends
      const missed = (p: number): number => {
        let m = 1, t = 0
        const steps = 4000, h = l / steps
        // moment m = P·(δ − v): m'' = −P/EI m, m'(0) = 0, m(l) = 0
        for (let i = 0; i < steps; i++) {
          const c = (s: number): number => p / (E * inertia(foot + ((top - foot) * s) / l)), x = i * h
          const k1 = [t, -c(x) * m], k2 = [t + (h / 2) * k1[1], -c(x + h / 2) * (m + (h / 2) * k1[0])], k3 = [t + (h / 2) * k2[1], -c(x + h / 2) * (m + (h / 2) * k2[0])], k4 = [t + h * k3[1], -c(x + h) * (m + h * k3[0])]
          m += (h / 6) * (k1[0] + 2 * k2[0] + 2 * k3[0] + k4[0])
          t += (h / 6) * (k1[1] + 2 * k2[1] + 2 * k3[1] + k4[1])
        }
        return m
      }
      // an even column as thick as the foot bears more
      let low = 0, high = (euler / 4) * (foot / r) ** 4
      for (let i = 0; i < 60; i++) {
        const middle = (low + high) / 2
        if (missed(middle) > 0) low = middle
        else high = middle
      }
      expect(bucklingFactor(factor, along) / low).toBeCloseTo(1, 2)
    }
  })
  it('does not come of pulling, and grows with what is pressed less', () => {
    const { points, beams } = chain([0, 0, 0], [0, 0, l], 4, r), factor = new FrameFactor(new Frame(points, beams, new Map([[0, ALL]]), material))
    expect(bucklingFactor(factor, beams.map(() => 1))).toBe(Infinity)
    expect(bucklingFactor(factor, beams.map(() => -0.5)) / bucklingFactor(factor, beams.map(() => -1))).toBeCloseTo(2, 6)
  })
})

/** Displacements by the handbook's 12 × 12 matrix of an even beam (Published: Przemieniecki, Theory of Matrix Structural Analysis) and Gauss's elimination. */
function solveDense(points: readonly Vec3[], beams: readonly FrameBeam[], held: ReadonlyMap<number, number>, load: Float64Array): number[] {
  const n = 6 * points.length, k = Array.from({ length: n }, () => new Array<number>(n + 1).fill(0))
  for (const { a, b, from, to, fromRadiusMm: r } of beams) {
    const l = distance(from, to), i = inertia(r), area = Math.PI * r * r, g = E / 2.8, x = unit(sub(to, from)), y = unit(cross(Math.abs(x[0]) < 0.9 ? [1, 0, 0] : [0, 1, 0], x)), z = cross(x, y), m = Array.from({ length: 12 }, () => new Array<number>(12).fill(0))
    const put = (p: number, q: number, v: number): void => {
      m[p][q] = v
      m[q][p] = v
    }
    for (const [p, v] of [[0, (E * area) / l], [3, (g * 2 * i) / l]]) {
      put(p, p, v)
      put(p + 6, p + 6, v)
      put(p, p + 6, -v)
    }
    for (const [v, t, s] of [[1, 5, 1], [2, 4, -1]]) {
      put(v, v, (12 * E * i) / l ** 3)
      put(v + 6, v + 6, (12 * E * i) / l ** 3)
      put(v, v + 6, (-12 * E * i) / l ** 3)
      put(v, t, (s * 6 * E * i) / l ** 2)
      put(v, t + 6, (s * 6 * E * i) / l ** 2)
      put(v + 6, t, (-s * 6 * E * i) / l ** 2)
      put(v + 6, t + 6, (-s * 6 * E * i) / l ** 2)
      put(t, t, (4 * E * i) / l)
      put(t + 6, t + 6, (4 * E * i) / l)
      put(t, t + 6, (2 * E * i) / l)
    }
    const axes = [x, y, z], dof = (p: number): number => (p < 6 ? 6 * a + p : 6 * b + p - 6)
    for (let p = 0; p < 12; p++) {
      for (let q = 0; q < 12; q++) {
        let sum = 0
        for (let s = 0; s < 3; s++) for (let t = 0; t < 3; t++) sum += axes[s][p % 3] * m[3 * Math.floor(p / 3) + s][3 * Math.floor(q / 3) + t] * axes[t][q % 3]
        k[dof(p)][dof(q)] += sum
      }
    }
  }
  load.forEach((f, i) => (k[i][n] = f))
  for (const [node, bits] of held) {
    for (let d = 0; d < 6; d++) {
      if (!(bits & (1 << d))) continue
      for (let j = 0; j <= n; j++) k[6 * node + d][j] = 0
      for (let j = 0; j < n; j++) k[j][6 * node + d] = 0
      k[6 * node + d][6 * node + d] = 1
    }
  }
  for (let c = 0; c < n; c++) {
    let best = c
    for (let i = c + 1; i < n; i++) if (Math.abs(k[i][c]) > Math.abs(k[best][c])) best = i
    ;[k[c], k[best]] = [k[best], k[c]]
    for (let i = 0; i < n; i++) {
      if (i === c || k[i][c] === 0) continue
      const f = k[i][c] / k[c][c]
      for (let j = c; j <= n; j++) k[i][j] -= f * k[c][j]
    }
  }
  return k.map((row, i) => row[n] / row[i])
}
