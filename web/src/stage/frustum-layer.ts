import { BufferAttribute, BufferGeometry, DataTexture, FloatType, type Material, Mesh, type MeshBasicMaterial, RGBAFormat } from 'three'
import type { Vec3 } from '@oak-stilts/core/mesh'

/** Sides of every frustum; one means a ribbon that faces the eye, which is how thousands are drawn. */
export const SIDES = 12, RIBBON = 1
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
  readonly beamSides: { readonly value: number }
  readonly beamCorners: { value: number }
}

/** Corners around both ends of a frustum, then the middles of both caps. */
const FRUSTUM_SHAPE = `
  bool middle = corner >= 2 * beamSides;
  float beamEnd = middle ? float(corner - 2 * beamSides) : float(corner / beamSides);
  float beamAngle = float(corner % beamSides) * 6.283185307 / float(beamSides);
  vec3 beamSide = normalize(cross(beamAxis, abs(beamAxis.x) < 0.8 ? vec3(1.0, 0.0, 0.0) : vec3(0.0, 1.0, 0.0)));
  vec3 beamOut = middle ? vec3(0.0) : cos(beamAngle) * beamSide + sin(beamAngle) * cross(beamAxis, beamSide);
  vec3 beamOffset = beamOut * mix(beamA.w, beamB.w, beamEnd);
  vec3 beamPlane = beamTexel(beam, beamEnd < 0.5 ? 2 : 3).xyz;
  beamOffset -= beamAxis * (dot(beamOffset, beamPlane) / dot(beamAxis, beamPlane));
  vec3 beamPoint = mix(beamA.xyz, beamB.xyz, beamEnd) + beamOffset;
  // the middle of a cap faces along the axis
  vec3 beamNormal = middle ? beamAxis * (beamEnd < 0.5 ? -1.0 : 1.0) : beamOut;`
/** Two corners at both ends, on either hand as the eye sees them. */
const RIBBON_SHAPE = `
  float beamEnd = float(corner / 2), radius = mix(beamA.w, beamB.w, beamEnd);
  beamHand = float(corner % 2) * 2.0 - 1.0;
  vec3 beamPoint = mix(beamA.xyz, beamB.xyz, beamEnd);
  vec3 beamNormal = normalize(transpose(mat3(modelMatrix)) * (cameraPosition - modelMatrix[3].xyz) - beamPoint);
  vec3 across = cross(beamAxis, beamNormal);
  across = dot(across, across) < 1e-6 ? normalize(cross(beamNormal, vec3(0.3, 0.8, 0.5))) : normalize(across);
  vec3 along = cross(beamNormal, across);
  // seen along its axis it is as long as it is wide
  beamPoint += radius * (across * beamHand + along * sign(dot(along, beamAxis)) * (2.0 * beamEnd - 1.0) * abs(dot(beamNormal, beamAxis)));`

/** Gives a material the shape of its frustums. Whatever it does with points and normals then goes by them. */
export function shapeFrustums<M extends Material>(material: M, more?: (shader: { vertexShader: string }) => void): M {
  return shape(material, SIDES, FRUSTUM_SHAPE, more)
}

/** Gives a material the shape of ribbons, a little darker toward their edges, so that they look round. */
export function shapeRibbons(material: MeshBasicMaterial): MeshBasicMaterial {
  return shape(material, RIBBON, RIBBON_SHAPE, shader => {
    shader.vertexShader = shader.vertexShader.replace('void main() {', 'varying float beamHand;\nvoid main() {')
    shader.fragmentShader = shader.fragmentShader.replace('void main() {', 'varying float beamHand;\nvoid main() {')
      .replace('#include <color_fragment>', 'diffuseColor.rgb *= 1.12 - 0.16 * beamHand - 0.5 * beamHand * beamHand;')
  })
}

function shape<M extends Material>(material: M, sides: number, points: string, more?: (shader: { vertexShader: string; fragmentShader: string }) => void): M {
  const told: Told = { beamData: { value: null }, beamSides: { value: sides }, beamCorners: { value: 0 } }
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
  vec3 beamAxis = normalize(beamB.xyz - beamA.xyz);
${points}`)
      .replace('#include <beginnormal_vertex>', 'vec3 objectNormal = beamNormal;')
      .replace('#include <begin_vertex>', 'vec3 transformed = beamPoint;')
    more?.(shader)
  }
  return material
}

function cornersOf(sides: number, closed: boolean): number {
  return sides === RIBBON ? 4 : 2 * sides + (closed ? 2 : 0)
}

/** Triangles of so many frustums, by the numbers of their corners. */
function trianglesOf(count: number, sides: number, closed: boolean): Uint32Array {
  const corners = cornersOf(sides, closed), one: number[] = sides === RIBBON ? [0, 1, 3, 0, 3, 2] : []
  for (let s = 0; s < sides && sides !== RIBBON; s++) {
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
  readonly #sides: number
  #closed = true
  #data = new Float32Array(0)

  constructor(material: M) {
    super(new BufferGeometry(), material)
    this.#told = material.userData.told as Told
    this.#sides = this.#told.beamSides.value
    this.frustumCulled = false
    this.visible = false
    this.#make(64)
  }

  /** Shows some frustums; none where there are none. @param closed whether their ends may be seen */
  setFrustums(lists: readonly Frustums[], closed = true): void {
    const count = lists.reduce((n, l) => n + l.length, 0) / FLOATS, more = count > this.#room
    if (more || closed !== this.#closed) {
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
    const rows = Math.max(1, Math.ceil(room / A_ROW)), { beamData, beamCorners } = this.#told
    beamData.value?.dispose()
    this.#data = new Float32Array(rows * A_ROW * TEXELS * 4)
    beamData.value = new DataTexture(this.#data, A_ROW * TEXELS, rows, RGBAFormat, FloatType)
    beamCorners.value = cornersOf(this.#sides, this.#closed)
    this.geometry.dispose()
    const geometry = new BufferGeometry()
    geometry.setIndex(new BufferAttribute(trianglesOf(room, this.#sides, this.#closed), 1))
    this.#room = room
    this.geometry = geometry
  }
}
