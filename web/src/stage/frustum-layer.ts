import { InstancedBufferAttribute, InstancedBufferGeometry, BufferAttribute, type Material, Mesh } from 'three'
import type { Vec3 } from '@oak-stilts/core/mesh'

/** Sides of every frustum. */
const SIDES = 12
/** Numbers of one frustum: both ends, the planes that it ends in, both radii. */
const FLOATS = 14

/** Frustums as numbers, one after another: drawn as instances of one shape, so that thousands cost what one does and a little. */
export type Frustums = Float32Array

/** A tapered beam between two points; it ends in the planes with these normals, so that bent beams meet without a gap. */
export function frustum(a: Vec3, b: Vec3, radiusA: number, radiusB: number, planeA: Vec3, planeB: Vec3): number[] {
  return [...a, ...b, ...planeA, ...planeB, radiusA, radiusB]
}

/** A unit frustum: cosine and sine around, 0 or 1 along; closed at both ends. */
function unitShape(): { positions: Float32Array; triangles: number[] } {
  const positions = new Float32Array(3 * (2 * SIDES + 2)), triangles: number[] = []
  for (let s = 0; s < SIDES; s++) {
    const angle = (2 * Math.PI * s) / SIDES
    for (const end of [0, 1]) positions.set([Math.cos(angle), Math.sin(angle), end], 3 * (end * SIDES + s))
    const u = (s + 1) % SIDES
    triangles.push(s, u, SIDES + u, s, SIDES + u, SIDES + s, 2 * SIDES, u, s, 2 * SIDES + 1, SIDES + s, SIDES + u)
  }
  positions.set([0, 0, 0, 0, 0, 1], 3 * 2 * SIDES)
  return { positions, triangles }
}
const UNIT = unitShape()

/** Gives a material the shape of its frustums. Whatever it does with points and normals then goes by them. */
export function shapeFrustums<M extends Material>(material: M, more?: (shader: { vertexShader: string }) => void): M {
  material.onBeforeCompile = shader => {
    shader.vertexShader = shader.vertexShader
      .replace('void main() {', `attribute vec3 beamA;
attribute vec3 beamB;
attribute vec3 planeA;
attribute vec3 planeB;
attribute vec2 beamRadius;
void main() {
  vec3 beamAxis = normalize(beamB - beamA);
  vec3 beamSide = normalize(cross(beamAxis, abs(beamAxis.x) < 0.8 ? vec3(1.0, 0.0, 0.0) : vec3(0.0, 1.0, 0.0)));
  vec3 beamOut = position.x * beamSide + position.y * cross(beamAxis, beamSide);
  vec3 beamOffset = beamOut * mix(beamRadius.x, beamRadius.y, position.z);
  vec3 beamPlane = position.z < 0.5 ? planeA : planeB;
  beamOffset -= beamAxis * (dot(beamOffset, beamPlane) / dot(beamAxis, beamPlane));
  vec3 beamPoint = mix(beamA, beamB, position.z) + beamOffset;
  // the middle of a cap faces along the axis
  vec3 beamNormal = dot(position.xy, position.xy) > 0.5 ? beamOut : beamAxis * (position.z < 0.5 ? -1.0 : 1.0);`)
      .replace('#include <beginnormal_vertex>', 'vec3 objectNormal = beamNormal;')
      .replace('#include <begin_vertex>', 'vec3 transformed = beamPoint;')
    more?.(shader)
  }
  return material
}

/** Many frustums of one material. */
export class FrustumMesh<M extends Material> extends Mesh<InstancedBufferGeometry, M> {
  #room = 0

  constructor(material: M) {
    super(new InstancedBufferGeometry(), material)
    this.frustumCulled = false
    this.visible = false
    this.#make(64)
  }

  /** Shows some frustums; none where there are none. */
  setFrustums(lists: readonly Frustums[]): void {
    const count = lists.reduce((n, l) => n + l.length, 0) / FLOATS
    if (count > this.#room) this.#make(Math.ceil(count * 1.5))
    const ends = this.geometry.attributes, room = this.#room
    const at = [ends.beamA, ends.beamB, ends.planeA, ends.planeB].map(a => a.array as Float32Array), radius = ends.beamRadius.array as Float32Array
    let i = 0
    for (const list of lists) {
      for (let f = 0; f < list.length; f += FLOATS, i++) {
        for (let k = 0; k < 4; k++) {
          at[k][3 * i] = list[f + 3 * k]
          at[k][3 * i + 1] = list[f + 3 * k + 1]
          at[k][3 * i + 2] = list[f + 3 * k + 2]
        }
        radius[2 * i] = list[f + 12]
        radius[2 * i + 1] = list[f + 13]
      }
    }
    for (const name of ['beamA', 'beamB', 'planeA', 'planeB', 'beamRadius']) {
      const attribute = ends[name] as InstancedBufferAttribute
      attribute.clearUpdateRanges()
      attribute.addUpdateRange(0, Math.min(room, i) * attribute.itemSize)
      attribute.needsUpdate = true
    }
    this.geometry.instanceCount = i
    this.visible = i > 0
  }

  #make(room: number): void {
    this.geometry.dispose()
    const geometry = new InstancedBufferGeometry()
    geometry.setAttribute('position', new BufferAttribute(UNIT.positions, 3))
    geometry.setIndex(UNIT.triangles)
    for (const name of ['beamA', 'beamB', 'planeA', 'planeB']) geometry.setAttribute(name, new InstancedBufferAttribute(new Float32Array(3 * room), 3))
    geometry.setAttribute('beamRadius', new InstancedBufferAttribute(new Float32Array(2 * room), 2))
    this.#room = room
    this.geometry = geometry
  }
}
