import { BufferAttribute, BufferGeometry, DataTexture, FloatType, type Material, Mesh, RGBAFormat } from 'three'
import type { Vec3 } from '@oak-stilts/core/mesh'

/** Sides of every frustum, and where there are thousands. */
export const SIDES = 12, FEW_SIDES = 5
/** Numbers of one frustum: both ends, the planes that it ends in, both radii. */
export const FLOATS = 14
/** A frustum takes this many texels of the texture that holds them, and a row so many frustums. */
const TEXELS = 4, A_ROW = 256

/** Frustums as numbers, one after another: the shader makes their corners, so that thousands are one call and a few megabytes. */
export type Frustums = Float32Array

/** A tapered beam between two points; it ends in the planes with these normals, so that bent beams meet without a gap. */
export function frustum(a: Vec3, b: Vec3, radiusA: number, radiusB: number, planeA: Vec3, planeB: Vec3): number[] {
  return [...a, ...b, ...planeA, ...planeB, radiusA, radiusB]
}

/** What the shader is told of the frustums of a mesh. */
interface Told {
  readonly beamData: { value: DataTexture | null }
  readonly beamSides: { value: number }
  readonly beamCorners: { value: number }
}

/** Gives a material the shape of its frustums. Whatever it does with points and normals then goes by them. */
export function shapeFrustums<M extends Material>(material: M, more?: (shader: { vertexShader: string }) => void): M {
  const told: Told = { beamData: { value: null }, beamSides: { value: SIDES }, beamCorners: { value: 0 } }
  material.userData.told = told
  material.onBeforeCompile = shader => {
    Object.assign(shader.uniforms, told)
    shader.vertexShader = shader.vertexShader
      .replace('void main() {', `uniform highp sampler2D beamData;
uniform int beamSides;
uniform int beamCorners;
vec4 beamTexel(int beam, int part) {
  return texelFetch(beamData, ivec2((beam % ${A_ROW}) * ${TEXELS} + part, beam / ${A_ROW}), 0);
}
void main() {
  int beam = gl_VertexID / beamCorners, corner = gl_VertexID % beamCorners;
  vec4 beamA = beamTexel(beam, 0), beamB = beamTexel(beam, 1);
  // corners around both ends, then the middles of both caps
  bool middle = corner >= 2 * beamSides;
  float beamEnd = middle ? float(corner - 2 * beamSides) : float(corner / beamSides);
  float beamAngle = float(corner % beamSides) * 6.283185307 / float(beamSides);
  vec3 beamAxis = normalize(beamB.xyz - beamA.xyz);
  vec3 beamSide = normalize(cross(beamAxis, abs(beamAxis.x) < 0.8 ? vec3(1.0, 0.0, 0.0) : vec3(0.0, 1.0, 0.0)));
  vec3 beamOut = middle ? vec3(0.0) : cos(beamAngle) * beamSide + sin(beamAngle) * cross(beamAxis, beamSide);
  vec3 beamOffset = beamOut * mix(beamA.w, beamB.w, beamEnd);
  vec3 beamPlane = beamTexel(beam, beamEnd < 0.5 ? 2 : 3).xyz;
  beamOffset -= beamAxis * (dot(beamOffset, beamPlane) / dot(beamAxis, beamPlane));
  vec3 beamPoint = mix(beamA.xyz, beamB.xyz, beamEnd) + beamOffset;
  // the middle of a cap faces along the axis
  vec3 beamNormal = middle ? beamAxis * (beamEnd < 0.5 ? -1.0 : 1.0) : beamOut;`)
      .replace('#include <beginnormal_vertex>', 'vec3 objectNormal = beamNormal;')
      .replace('#include <begin_vertex>', 'vec3 transformed = beamPoint;')
    more?.(shader)
  }
  return material
}

/** Triangles of so many frustums, by the numbers of their corners. */
function trianglesOf(count: number, sides: number, closed: boolean): Uint32Array {
  const corners = 2 * sides + (closed ? 2 : 0), one: number[] = []
  for (let s = 0; s < sides; s++) {
    const u = (s + 1) % sides
    one.push(s, u, sides + u, s, sides + u, sides + s)
    if (closed) one.push(2 * sides, u, s, 2 * sides + 1, sides + s, sides + u)
  }
  const all = new Uint32Array(count * one.length)
  for (let f = 0, o = 0; f < count; f++) for (const corner of one) all[o++] = f * corners + corner
  return all
}

/** Many frustums of one material, which has been given their shape. */
export class FrustumMesh<M extends Material> extends Mesh<BufferGeometry, M> {
  readonly #told: Told
  #room = 0
  #sides = SIDES
  #closed = true
  #data = new Float32Array(0)

  constructor(material: M) {
    super(new BufferGeometry(), material)
    this.#told = material.userData.told as Told
    this.frustumCulled = false
    this.visible = false
    this.#make(64)
  }

  /** Shows some frustums; none where there are none. @param closed whether their ends may be seen */
  setFrustums(lists: readonly Frustums[], sides = SIDES, closed = true): void {
    const count = lists.reduce((n, l) => n + l.length, 0) / FLOATS, more = count > this.#room
    if (more || sides !== this.#sides || closed !== this.#closed) {
      this.#sides = sides
      this.#closed = closed
      this.#make(more ? Math.ceil(count * 1.5) : this.#room)
    }
    const data = this.#data
    let o = 0
    for (const list of lists) {
      for (let f = 0; f < list.length; f += FLOATS, o += 4 * TEXELS) {
        for (let k = 0; k < 3; k++) {
          data[o + k] = list[f + k]
          data[o + 4 + k] = list[f + 3 + k]
          data[o + 8 + k] = list[f + 6 + k]
          data[o + 12 + k] = list[f + 9 + k]
        }
        data[o + 3] = list[f + 12]
        data[o + 7] = list[f + 13]
      }
    }
    const { value: texture } = this.#told.beamData
    if (texture && count > 0) texture.needsUpdate = true
    this.geometry.setDrawRange(0, (count * (this.geometry.index?.count ?? 0)) / this.#room)
    this.visible = count > 0
  }

  #make(room: number): void {
    const rows = Math.max(1, Math.ceil(room / A_ROW)), { beamData, beamSides, beamCorners } = this.#told
    beamData.value?.dispose()
    this.#data = new Float32Array(rows * A_ROW * TEXELS * 4)
    beamData.value = new DataTexture(this.#data, A_ROW * TEXELS, rows, RGBAFormat, FloatType)
    beamSides.value = this.#sides
    beamCorners.value = 2 * this.#sides + (this.#closed ? 2 : 0)
    this.geometry.dispose()
    const geometry = new BufferGeometry()
    geometry.setIndex(new BufferAttribute(trianglesOf(room, this.#sides, this.#closed), 1))
    this.#room = room
    this.geometry = geometry
  }
}
