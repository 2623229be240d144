import { boundsOf, joinMeshes, type Box, type Mesh, type Vec3 } from '../triangle-mesh'
import type { ModelNote, ModelObject } from './model-file'
import { damaged, tooManyTriangles } from './refusals'
import { touching } from './touching'

/** Four rows of three for row vectors; the last one is the shift, mm. */
export type Matrix = readonly number[]
export const IDENTITY: Matrix = [1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0]

/** An object of a package: a mesh, or what is built from others. */
export interface Resource {
  readonly name: string
  /** Of a type that is not to be printed. */
  readonly other: boolean
  readonly mesh: Mesh
  readonly components: readonly { readonly object: string; readonly matrix: Matrix }[]
}
export interface BuildItem {
  readonly object: string
  readonly matrix: Matrix
}

/** Pieces that one item may be built from, components of components counted. */
const MOST_PIECES = 100000
/** Objects that may nest. */
const MOST_LEVELS = 200
/** Items that are looked at pair by pair for whether they touch. */
const MOST_COMPARED = 2000

/** What is built: components worked in, copies found, what touches joined. */
export function objectsOfBuild(resources: ReadonlyMap<string, Resource>, given: readonly BuildItem[], mostTriangles: number): { objects: ModelObject[]; notes: ModelNote[] } {
  const notes: ModelNote[] = []
  let items = given
  if (items.length === 0) {
    const within = new Set([...resources.values()].flatMap(r => r.components.map(c => c.object)))
    items = [...resources.keys()].filter(k => !within.has(k)).map(object => ({ object, matrix: IDENTITY }))
    if (items.length > 0) notes.push({ kind: 'no-build' })
  }
  const weights = new Weights(resources)
  const kinds = new Map<string, { name: string; mesh: Mesh; places: Vec3[] }>()
  let triangles = 0
  for (const { object, matrix } of items) {
    if (resources.get(object)?.other) continue
    const weight = weights.of(object)
    if (weight.triangles === 0) continue
    const straight = [...matrix.slice(0, 9), 0, 0, 0], key = `${object} ${straight.join(' ')}`
    let kind = kinds.get(key)
    if (!kind) {
      triangles += weight.triangles
      if (triangles > mostTriangles) throw tooManyTriangles(mostTriangles)
      kind = { name: resources.get(object)?.name ?? '', mesh: built(resources, object, straight), places: [] }
      kinds.set(key, kind)
    }
    kind.places.push([matrix[9], matrix[10], matrix[11]])
  }
  return { ...joinTouching([...kinds.values()]), ...(notes.length > 0 && { notes }) }
}

/** How much an object amounts to, with what it is built from; each is counted once. */
class Weights {
  readonly #resources: ReadonlyMap<string, Resource>
  readonly #known = new Map<string, { triangles: number; pieces: number }>()
  readonly #open = new Set<string>()

  constructor(resources: ReadonlyMap<string, Resource>) {
    this.#resources = resources
  }

  /** @throws MeshError where it is built from itself, from what is not there, or from too much */
  of(object: string): { readonly triangles: number; readonly pieces: number } {
    const known = this.#known.get(object)
    if (known) return known
    const resource = this.#resources.get(object)
    if (!resource) throw damaged(`it is built from the object ${object.slice(object.indexOf('#') + 1) || 'without a number'}, which is not there`)
    if (this.#open.has(object)) throw damaged('its components contain one another in a circle')
    if (this.#open.size > MOST_LEVELS) throw damaged('its components are nested too deeply')
    this.#open.add(object)
    let triangles = resource.mesh.triangles.length / 3, pieces = 1
    for (const c of resource.components) {
      const weight = this.of(c.object)
      triangles += weight.triangles
      pieces += weight.pieces
    }
    this.#open.delete(object)
    if (pieces > MOST_PIECES) throw damaged(`one of its objects is built from over ${MOST_PIECES} pieces`)
    const weight = { triangles, pieces }
    this.#known.set(object, weight)
    return weight
  }
}

function built(resources: ReadonlyMap<string, Resource>, object: string, matrix: Matrix): Mesh {
  const meshes: Mesh[] = []
  const visit = (id: string, m: Matrix): void => {
    const resource = resources.get(id)
    if (!resource) return
    if (resource.mesh.triangles.length > 0) meshes.push(transformed(resource.mesh, m))
    for (const c of resource.components) visit(c.object, product(c.matrix, m))
  }
  visit(object, matrix)
  return meshes.length === 1 ? meshes[0] : joinMeshes(meshes)
}

/** First one, then the other. */
function product(first: Matrix, then: Matrix): Matrix {
  const out: number[] = []
  for (let row = 0; row < 4; row++) {
    for (let c = 0; c < 3; c++) out.push(first[3 * row] * then[c] + first[3 * row + 1] * then[3 + c] + first[3 * row + 2] * then[6 + c] + (row === 3 ? then[9 + c] : 0))
  }
  return out
}

/** A mesh moved; one that is mirrored keeps its outside outside. */
function transformed({ positions: p, triangles }: Mesh, m: Matrix): Mesh {
  if (m.every((v, i) => v === IDENTITY[i])) return { positions: p, triangles }
  const positions = new Float32Array(p.length)
  for (let i = 0; i < p.length; i += 3) for (let c = 0; c < 3; c++) positions[i + c] = p[i] * m[c] + p[i + 1] * m[3 + c] + p[i + 2] * m[6 + c] + m[9 + c]
  const determinant = m[0] * (m[4] * m[8] - m[5] * m[7]) - m[1] * (m[3] * m[8] - m[5] * m[6]) + m[2] * (m[3] * m[7] - m[4] * m[6])
  if (determinant >= 0) return { positions, triangles }
  const turned = triangles.slice()
  for (let i = 0; i < turned.length; i += 3) [turned[i + 1], turned[i + 2]] = [turned[i + 2], turned[i + 1]]
  return { positions, triangles: turned }
}

/** Objects that touch, or lie in one another, as one. */
function joinTouching(kinds: readonly { readonly name: string; readonly mesh: Mesh; readonly places: readonly Vec3[] }[]): { objects: ModelObject[]; notes: ModelNote[] } {
  const placed = kinds.flatMap(kind => {
    const box = boundsOf(kind.mesh.positions)
    return kind.places.map(at => ({ kind, at, box: { min: sum(box.min, at), max: sum(box.max, at) } as Box }))
  })
  const group = placed.map((_, i) => i)
  const find = (i: number): number => {
    while (group[i] !== i) i = group[i] = group[group[i]]
    return i
  }
  if (placed.length <= MOST_COMPARED) {
    placed.forEach((a, i) => {
      for (let j = i + 1; j < placed.length; j++) {
        const b = placed[j]
        if (find(i) !== find(j) && touching(a.kind.mesh, a.at, a.box, b.kind.mesh, b.at, b.box)) group[find(j)] = find(i)
      }
    })
  }
  const members = new Map<number, typeof placed>()
  placed.forEach((p, i) => members.set(find(i), [...(members.get(find(i)) ?? []), p]))
  const joined: ModelObject[] = [], notes: ModelNote[] = []
  for (const pieces of members.values()) {
    if (pieces.length === 1) continue
    notes.push({ kind: 'joined', count: pieces.length })
    joined.push({ name: pieces[0].kind.name, mesh: joinMeshes(pieces.map(p => transformed(p.kind.mesh, [...IDENTITY.slice(0, 9), ...p.at]))), places: [[0, 0, 0]] })
  }
  const alone = kinds.flatMap(kind => {
    const places = placed.filter((p, i) => p.kind === kind && (members.get(find(i))?.length ?? 0) === 1).map(p => p.at)
    return places.length > 0 ? [{ ...kind, places }] : []
  })
  return { objects: [...alone, ...joined], notes }
}

function sum(a: Vec3, b: Vec3): Vec3 {
  return [a[0] + b[0], a[1] + b[1], a[2] + b[2]]
}
