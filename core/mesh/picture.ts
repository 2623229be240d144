import { radians, unit } from './vector'
import type { Mesh, Vec3 } from './triangle-mesh'

/** A mesh with its flat colour, red, green, blue from 0 to 255: lit and in full shade. */
export interface Drawn {
  readonly mesh: Mesh
  readonly lit: Vec3
  readonly shade: Vec3
}

export interface Picture {
  readonly width: number
  readonly height: number
  /** Red, green, blue, alpha, row by row from the top. */
  readonly rgba: Uint8Array
}

const INK: Vec3 = [74, 69, 60]
const PAPER: Vec3 = [247, 244, 237]
const SUPER = 2

/**
 * Draws meshes for a thumbnail without a graphics card: parallel projection, a depth buffer, soft light from above left and ink
 * lines where the depth jumps.
 * @param azimuthDeg where the eye stands around the z axis; 0 looks along +y
 * @param elevationDeg how far above the horizon the eye stands
 */
export function drawPicture(drawn: readonly Drawn[], width: number, height: number, azimuthDeg: number, elevationDeg: number): Picture {
  const w = width * SUPER, h = height * SUPER
  const a = radians(azimuthDeg), e = radians(elevationDeg)
  const right: Vec3 = [Math.cos(a), Math.sin(a), 0]
  const toEye: Vec3 = [Math.sin(a) * Math.cos(e), -Math.cos(a) * Math.cos(e), Math.sin(e)]
  const up: Vec3 = [-Math.sin(a) * Math.sin(e), Math.cos(a) * Math.sin(e), Math.cos(e)]
  let minU = Infinity, maxU = -Infinity, minV = Infinity, maxV = -Infinity
  const project = (p: Float32Array, i: number): [number, number, number] => [
    p[i] * right[0] + p[i + 1] * right[1] + p[i + 2] * right[2],
    p[i] * up[0] + p[i + 1] * up[1] + p[i + 2] * up[2],
    p[i] * toEye[0] + p[i + 1] * toEye[1] + p[i + 2] * toEye[2],
  ]
  for (const { mesh } of drawn) {
    for (let i = 0; i < mesh.positions.length; i += 3) {
      const [u, v] = project(mesh.positions, i)
      if (u < minU) minU = u
      if (u > maxU) maxU = u
      if (v < minV) minV = v
      if (v > maxV) maxV = v
    }
  }
  const scale = Math.min((w * 0.92) / (maxU - minU || 1), (h * 0.92) / (maxV - minV || 1))
  const cu = (minU + maxU) / 2, cv = (minV + maxV) / 2
  const depth = new Float32Array(w * h).fill(-Infinity)
  const color = new Uint8Array(w * h * 3)
  for (let i = 0; i < w * h; i++) color.set(PAPER, 3 * i)
  const light = unit([right[0] * -0.5 + up[0] * 0.75 + toEye[0] * 0.6, right[1] * -0.5 + up[1] * 0.75 + toEye[1] * 0.6, right[2] * -0.5 + up[2] * 0.75 + toEye[2] * 0.6])
  for (const { mesh, lit, shade } of drawn) {
    const { positions: p, triangles: t } = mesh
    for (let i = 0; i < t.length; i += 3) {
      const A = project(p, 3 * t[i]), B = project(p, 3 * t[i + 1]), C = project(p, 3 * t[i + 2])
      const ax = (A[0] - cu) * scale + w / 2, ay = h / 2 - (A[1] - cv) * scale
      const bx = (B[0] - cu) * scale + w / 2, by = h / 2 - (B[1] - cv) * scale
      const cx = (C[0] - cu) * scale + w / 2, cy = h / 2 - (C[1] - cv) * scale
      const area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
      if (area >= 0) continue
      const a3 = 3 * t[i], b3 = 3 * t[i + 1], c3 = 3 * t[i + 2]
      const ux = p[b3] - p[a3], uy = p[b3 + 1] - p[a3 + 1], uz = p[b3 + 2] - p[a3 + 2]
      const vx = p[c3] - p[a3], vy = p[c3 + 1] - p[a3 + 1], vz = p[c3 + 2] - p[a3 + 2]
      const n = unit([uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx])
      const f = Math.max(0, Math.min(1, 0.42 + 0.62 * (n[0] * light[0] + n[1] * light[1] + n[2] * light[2])))
      const r = shade[0] + (lit[0] - shade[0]) * f, g = shade[1] + (lit[1] - shade[1]) * f, b = shade[2] + (lit[2] - shade[2]) * f
      const x0 = Math.max(0, Math.floor(Math.min(ax, bx, cx))), x1 = Math.min(w - 1, Math.ceil(Math.max(ax, bx, cx)))
      const y0 = Math.max(0, Math.floor(Math.min(ay, by, cy))), y1 = Math.min(h - 1, Math.ceil(Math.max(ay, by, cy)))
      for (let y = y0; y <= y1; y++) {
        for (let x = x0; x <= x1; x++) {
          const wa = ((bx - x) * (cy - y) - (by - y) * (cx - x)) / area
          const wb = ((cx - x) * (ay - y) - (cy - y) * (ax - x)) / area
          const wc = 1 - wa - wb
          if (wa < 0 || wb < 0 || wc < 0) continue
          const d = wa * A[2] + wb * B[2] + wc * C[2]
          const at = y * w + x
          if (d <= depth[at]) continue
          depth[at] = d
          color[3 * at] = r
          color[3 * at + 1] = g
          color[3 * at + 2] = b
        }
      }
    }
  }
  return { width, height, rgba: shrink(color, depth, w, h, width, height, 6 / scale) }
}

function shrink(color: Uint8Array, depth: Float32Array, w: number, h: number, width: number, height: number, jump: number): Uint8Array {
  const rgba = new Uint8Array(width * height * 4)
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const sum = [0, 0, 0]
      for (let s = 0; s < SUPER * SUPER; s++) {
        const px = x * SUPER + (s % SUPER), py = y * SUPER + Math.floor(s / SUPER)
        const at = py * w + px
        const own = depth[at]
        const nextTo = [px > 0 ? depth[at - 1] : own, px + 1 < w ? depth[at + 1] : own, py > 0 ? depth[at - w] : own, py + 1 < h ? depth[at + w] : own]
        const edge = own > -Infinity && nextTo.some(d => own - d > jump)
        for (let c = 0; c < 3; c++) sum[c] += edge ? INK[c] : color[3 * at + c]
      }
      for (let c = 0; c < 3; c++) rgba[4 * (y * width + x) + c] = sum[c] / (SUPER * SUPER)
      rgba[4 * (y * width + x) + 3] = 255
    }
  }
  return rgba
}
