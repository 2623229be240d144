import type { SaxesTagNS } from 'saxes'
import { MeshError } from '../mesh-error'
import type { ByteSource } from './byte-source'
import { Growing } from './growing'
import { UNIT_MM, type ModelFile, type ModelNote, type ReadOptions, type Unit } from './model-file'
import { Package, pathOf, told } from './package'
import { damaged, noTriangles, requireNumbers, tooManyTriangles } from './refusals'
import { IDENTITY, objectsOfBuild, type BuildItem, type Matrix, type Resource } from './threemf-build'
import { XmlStream } from './xml-stream'

const CORE = /^http:\/\/schemas\.microsoft\.com\/3dmanufacturing\/core\/2015\/02$/
const START_PART = 'http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel'
/** Extensions that a package may require, since what they add is read or may be left out: production, materials, triangle sets, beam lattices. */
const UNDERSTOOD = /\/3dmanufacturing\/(production|material|trianglesets|beamlattice)\//
const BEAMS = /\/3dmanufacturing\/beamlattice\//
const TEXTURES = /^texture2d/, COLOURS = /^(basematerials|colorgroup|compositematerials|multiproperties)$/

/**
 * Reads what a 3MF package builds, in millimetres: components and transforms worked in, every item of the build once. Items that touch
 * belong together and come as one object; items that differ by a shift alone come as one object with several places.
 * The package is read by its directory, its XML as a stream: neither is held as a whole.
 * Source: 3MF Core Specification 1.3; Production Extension 1.1 for objects in other parts; Open Packaging Conventions.
 * @throws MeshError `empty`, `cut-short`, `damaged`, `unsupported`, `not-finite` or `too-large`
 */
export async function readThreemf(source: ByteSource, options: ReadOptions = {}): Promise<ModelFile> {
  return Package.open(source, async found => {
    const start = await startPart(found), findings = new Findings(options.mostTriangles ?? Infinity)
    const total = found.paths.reduce((n, p) => (p.endsWith('.model') ? n + found.sizeOf(p) : n), 0)
    let before = 0
    const waiting = [start], parts = new Set(waiting)
    for (let path = waiting.shift(); path !== undefined; path = waiting.shift()) {
      const part = new ModelPart(path, findings)
      await found.unpack(path, bytes => part.write(bytes), done => options.progress?.(Math.min(1, (before + done) / total)))
      await told(() => Promise.resolve(part.close()))
      before += found.sizeOf(path)
      for (const other of part.others) {
        if (parts.has(other)) continue
        parts.add(other)
        waiting.push(other)
      }
    }
    const { objects, notes } = objectsOfBuild(findings.resources, findings.items, findings.mostTriangles)
    if (objects.length === 0) throw noTriangles('3mf')
    for (const { mesh } of objects) requireNumbers(mesh.positions)
    return { format: '3mf', unit: findings.unit, objects, notes: [...findings.notes(), ...notes] }
  })
}

/** Where the model of a package begins. */
async function startPart(found: Package): Promise<string> {
  const path = (await found.related(START_PART)) || found.paths.find(p => p.endsWith('.model'))
  if (!path || !found.has(path)) throw new MeshError('not-a-model', 'This is a zip file without a 3MF model in it. Unpack it and bring in the model files themselves.')
  return path
}

/** What the model parts of a package hold between them. */
class Findings {
  readonly resources = new Map<string, Resource>()
  readonly items: BuildItem[] = []
  readonly mostTriangles: number
  unit: Unit | null = null
  triangles = 0
  colours = false
  textures = false
  beams = 0

  constructor(mostTriangles: number) {
    this.mostTriangles = mostTriangles
  }

  notes(): ModelNote[] {
    return [...(this.colours ? [{ kind: 'colours' } as const] : []), ...(this.textures ? [{ kind: 'textures' } as const] : []), ...(this.beams ? [{ kind: 'beams', count: this.beams } as const] : [])]
  }
}

/** One model part of a package as it is read. */
class ModelPart {
  /** Parts that objects of this one are built from. */
  readonly others = new Set<string>()
  readonly #path: string
  readonly #found: Findings
  readonly #xml: XmlStream
  #core = ''
  #unitMm = 1
  #object: { id: string; name: string; other: boolean; components: { object: string; matrix: Matrix }[] } | null = null
  #positions = new Growing(Float32Array)
  #triangles = new Growing(Uint32Array)

  constructor(path: string, found: Findings) {
    this.#path = path
    this.#found = found
    this.#xml = new XmlStream(tag => this.#open(tag), tag => this.#close(tag))
  }

  write(bytes: Uint8Array): void {
    this.#xml.write(bytes)
  }

  close(): void {
    this.#xml.close()
    if (!this.#core) throw damaged(`its part ${this.#path} is no model`)
  }

  #open(tag: SaxesTagNS): void {
    const { local, attributes: a } = tag, found = this.#found
    if (!this.#core) {
      this.#begin(tag)
      return
    }
    if (tag.uri !== this.#core) {
      if (TEXTURES.test(local)) found.textures = true
      else if (COLOURS.test(local)) found.colours = true
      else if (local === 'beam' && BEAMS.test(tag.uri)) found.beams++
      return
    }
    if (local === 'vertex') {
      this.#positions.push(coordinate(a.x?.value) * this.#unitMm)
      this.#positions.push(coordinate(a.y?.value) * this.#unitMm)
      this.#positions.push(coordinate(a.z?.value) * this.#unitMm)
    } else if (local === 'triangle') {
      if (++found.triangles > found.mostTriangles) throw tooManyTriangles(found.mostTriangles)
      this.#triangles.push(corner(a.v1?.value))
      this.#triangles.push(corner(a.v2?.value))
      this.#triangles.push(corner(a.v3?.value))
      if (a.pid) found.colours = true
    } else if (local === 'object') {
      if (!a.id?.value) throw damaged('an object has no id')
      this.#object = { id: a.id.value, name: (a.name?.value ?? a.partnumber?.value ?? '').slice(0, 120), other: a.type?.value === 'other', components: [] }
      if (a.pid) found.colours = true
    } else if (local === 'component') this.#object?.components.push({ object: this.#refer(tag), matrix: matrixOf(a.transform?.value, this.#unitMm) })
    else if (local === 'item') found.items.push({ object: this.#refer(tag), matrix: matrixOf(a.transform?.value, this.#unitMm) })
    else if (local === 'basematerials') found.colours = true
  }

  #begin({ local, uri, attributes: a, ns }: SaxesTagNS): void {
    if (local !== 'model' || !CORE.test(uri)) throw damaged(`its part ${this.#path} begins with “${local}”, not with a model`)
    for (const prefix of (a.requiredextensions?.value ?? '').split(/\s+/).filter(p => p)) {
      const extension = ns?.[prefix] ?? ''
      if (!UNDERSTOOD.test(extension)) throw new MeshError('unsupported', `This 3MF can only be read with an extension that is not known here (${extension || prefix}). Export it again as plain meshes.`)
    }
    const unit = a.unit?.value ?? 'millimeter'
    if (!Object.hasOwn(UNIT_MM, unit)) throw damaged(`it is measured in “${unit.slice(0, 40)}”, which is no unit`)
    this.#core = uri
    this.#unitMm = UNIT_MM[unit as Unit]
    this.#found.unit ??= unit as Unit
  }

  #close(tag: SaxesTagNS): void {
    if (tag.local !== 'object' || tag.uri !== this.#core || !this.#object) return
    const { id, name, other, components } = this.#object
    const positions = this.#positions.taken(), triangles = this.#triangles.taken(), vertices = positions.length / 3
    for (const v of triangles) if (v >= vertices) throw damaged(`a triangle of object ${id} names vertex ${v}, and it has ${vertices}`)
    this.#found.resources.set(`${this.#path}#${id}`, { name, other, mesh: { positions, triangles }, components })
    this.#object = null
    this.#positions = new Growing(Float32Array)
    this.#triangles = new Growing(Uint32Array)
  }

  /** The object that a component or an item names, which may lie in another part. */
  #refer({ attributes: a }: SaxesTagNS): string {
    const elsewhere = Object.values(a).find(v => v.local === 'path' && v.uri.includes('/3dmanufacturing/production/'))
    const path = elsewhere ? pathOf(elsewhere.value) : this.#path
    if (path !== this.#path) this.others.add(path)
    return `${path}#${a.objectid?.value ?? ''}`
  }
}

function coordinate(text: string | undefined): number {
  return text?.trim() ? Number(text) : NaN
}

function corner(text: string | undefined): number {
  const v = text?.trim() ? Number(text) : NaN
  if (!Number.isInteger(v) || v < 0 || v >= 2 ** 32) throw damaged(`a triangle names vertex “${text ?? ''}”`)
  return v
}

/** A transform as it is written: four rows of three, the last one the shift. */
function matrixOf(text: string | undefined, unitMm: number): Matrix {
  if (!text?.trim()) return IDENTITY
  const m = text.trim().split(/\s+/).map(Number)
  if (m.length !== 12 || m.some(v => !Number.isFinite(v))) throw damaged(`a transform reads “${text.slice(0, 60)}”`)
  return m.map((v, i) => (i < 9 ? v : v * unitMm))
}
