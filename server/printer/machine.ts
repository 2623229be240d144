import { createHash } from 'node:crypto'
import { EventEmitter } from 'node:events'
import { closeSync, existsSync, fsyncSync, mkdirSync, openSync, readdirSync, readFileSync, readSync, renameSync, rmSync, statSync, writeSync } from 'node:fs'
import { join } from 'node:path'
import { z } from 'zod'
import { HashSchema, IdSchema, NO_FAULTS, newId, NewUploadSchema, pixelMmOf, PrinterDoingSchema, PrinterFaultsSchema, type NewUpload, type PackageManifest, type Printer, type PrinterFaults, type PrinterOrder, type PrinterState, type Simulation, type Upload } from '@oak-stilts/core/contract'
import { sourceOfFile, type ByteSource } from '@oak-stilts/core/mesh'
import { checkDigest, openPackage, PackageError, secondsOf } from '@oak-stilts/core/print'
import { writeSynced } from '../store/write-synced'

/** Something that a printer does not do, with the sentence that says why. */
export class PrinterRefusal extends Error {
  constructor(readonly code: string, readonly status: number, message: string) {
    super(message)
  }
}

/** A full vat, ml, and how fast simulated time runs. */
const FULL_VAT_ML = 250, USUAL_SPEED = 600
const TICK_MS = 50, KEEP_EVERY_MS = 250
/** Uploads that are begun and kept. */
const MOST_UPLOADS = 4

/** What is on the disk of a printer, so that it is there again after the power was gone. */
const KeptSchema = z.object({
  doing: PrinterDoingSchema, says: z.string(), vatMl: z.number(), speed: z.number(), faults: PrinterFaultsSchema,
  loaded: z.object({ sha256: HashSchema, bytes: z.number() }).nullable(),
  run: z.object({ layer: z.number(), resinUsedMl: z.number() }).nullable(),
  uploads: z.array(NewUploadSchema.extend({ id: IdSchema })),
})
type Kept = z.infer<typeof KeptSchema>

/**
 * A simulated printer: it takes packages in pieces, checks them, and runs them in speeded-up time. What it knows is on its disk, so that
 * nothing is lost when its power, or this program, ends.
 */
export class Machine {
  readonly events = new EventEmitter()
  readonly #folder: string
  #kept: Kept
  #manifest: PackageManifest | null = null
  #power = true
  #timer: ReturnType<typeof setInterval> | null = null
  #owed = 0
  #last = 0
  #keptAt = 0
  #checking = new Set<string>()

  constructor(readonly id: string, readonly printer: Printer, folder: string) {
    this.#folder = folder
    mkdirSync(folder, { recursive: true })
    this.#kept = this.#read()
    this.events.setMaxListeners(200)
  }

  /** Finds again what it knew before. */
  async start(): Promise<this> {
    const { loaded } = this.#kept
    if (loaded) this.#manifest = await this.#manifestOf(this.#path(loaded.sha256)).catch(() => null)
    if (loaded && !this.#manifest) this.#change({ loaded: null, run: null, doing: 'idle', says: 'What was in its memory could not be read any more.' })
    if (this.#kept.doing === 'printing') this.#change({ doing: 'interrupted', says: `The power went while it printed layer ${(this.#kept.run?.layer ?? 0) + 1}.` })
    const there = new Set([...this.#kept.uploads.map(u => `${u.id}.part`), ...(loaded ? [`${loaded.sha256}.zip`] : []), 'state.json'])
    for (const name of readdirSync(this.#folder)) if (!there.has(name)) rmSync(join(this.#folder, name), { force: true })
    return this
  }

  end(): void {
    this.#halt()
    this.#keep()
  }

  get power(): boolean {
    return this.#power
  }

  get state(): PrinterState {
    const { doing, says, vatMl, speed, faults, loaded, run } = this.#kept, m = this.#manifest
    return {
      id: this.id, printer: this.printer, simulated: true, speed, doing, says, vatMl, faults,
      loaded: loaded && m && { name: m.name, sha256: loaded.sha256, bytes: loaded.bytes, layers: m.layers.length, job: m.job },
      run: run && m && { ...run, layers: m.layers.length, secondsLeft: Math.max(0, m.layers.slice(run.layer).reduce((sum, l) => sum + secondsOf(l), 0) - this.#owed) },
    }
  }

  /** Begins an upload, or finds again one that was begun. @throws PrinterRefusal `too-large`, `busy` */
  begin(wanted: NewUpload): Upload {
    const limit = this.printer.memoryMb * 1e6, megabytes = (bytes: number): string => `${(bytes / 1e6).toFixed(bytes < 1e7 ? 1 : 0)} MB`
    if (this.#kept.doing === 'printing') throw new PrinterRefusal('busy', 409, `${this.printer.name} is printing. It takes another package once that has ended.`)
    const known = this.#kept.uploads.find(u => u.sha256 === wanted.sha256 && u.bytes === wanted.bytes)
    if (known) return { id: known.id, bytes: known.bytes, offset: this.#arrived(known.id) }
    if (wanted.bytes > limit) throw new PrinterRefusal('too-large', 413, `The package has ${megabytes(wanted.bytes)}; ${this.printer.name} holds ${megabytes(limit)}. Print fewer copies at once, or without shades.`)
    if (this.#kept.faults.fullMemory) throw new PrinterRefusal('full', 507, `The memory of ${this.printer.name} is full: there is no room for ${megabytes(wanted.bytes)}. Clear it at the printer.`)
    const upload = { ...wanted, id: newId() }, dropped = this.#kept.uploads.slice(0, Math.max(0, this.#kept.uploads.length - MOST_UPLOADS + 1))
    for (const d of dropped) rmSync(this.#part(d.id), { force: true })
    writeSynced(this.#part(upload.id), new Uint8Array(0))
    this.#change({ uploads: [...this.#kept.uploads.filter(u => !dropped.includes(u)), upload] })
    return { id: upload.id, bytes: upload.bytes, offset: 0 }
  }

  /** How far an upload has come. @throws PrinterRefusal `no-upload` */
  upload(id: string): Upload {
    const { bytes } = this.#uploadOf(id)
    return { id, bytes, offset: this.#arrived(id) }
  }

  /** The next piece of an upload. @throws PrinterRefusal `offset` where it does not go on from what has arrived */
  append(id: string, offset: number, piece: Uint8Array): Upload {
    const { bytes } = this.#uploadOf(id), arrived = this.#arrived(id)
    if (offset !== arrived) throw new PrinterRefusal('offset', 409, `${arrived} bytes have arrived; this piece begins at ${offset}.`)
    if (offset + piece.length > bytes) throw new PrinterRefusal('too-long', 400, `More is sent than the ${bytes} bytes that were said.`)
    const file = openSync(this.#part(id), 'a')
    try {
      for (let at = 0; at < piece.length;) at += writeSync(file, piece, at)
      fsyncSync(file)
    } finally {
      closeSync(file)
    }
    return { id, bytes, offset: offset + piece.length }
  }

  /** Whether the connection is to break off now. */
  dropsNow(): boolean {
    if (!this.#kept.faults.dropConnection) return false
    this.#change({ faults: { ...this.#kept.faults, dropConnection: false } })
    return true
  }

  /** Checks an upload that is complete, and takes it into its memory. @throws PrinterRefusal with what is wrong */
  async load(id: string): Promise<PrinterState> {
    const { bytes, sha256 } = this.#uploadOf(id), path = this.#part(id), arrived = this.#arrived(id)
    if (arrived < bytes) throw new PrinterRefusal('cut-short', 409, `Only ${arrived} of ${bytes} bytes have arrived. Send the rest.`)
    if (this.#kept.doing === 'printing') throw new PrinterRefusal('busy', 409, `${this.printer.name} is printing. It takes another package once that has ended.`)
    if (this.#checking.has(id)) throw new PrinterRefusal('busy', 409, 'It is being checked already.')
    this.#checking.add(id)
    try {
      const manifest = await this.#manifestOf(path, sha256)
      const { widthMm, depthMm, pixelsX, pixelsY } = manifest.printer, own = this.printer
      if (pixelsX !== own.pixelsX || pixelsY !== own.pixelsY) throw new PrinterRefusal('picture', 422, `The pictures have ${pixelsX} × ${pixelsY} pixels; ${own.name} shows ${own.pixelsX} × ${own.pixelsY}. Slice for this printer.`)
      if (Math.abs(pixelMmOf({ widthMm, pixelsX }) - pixelMmOf(own)) > 1e-4 || Math.abs(depthMm - own.depthMm) > 0.5) throw new PrinterRefusal('picture', 422, `It was sliced for a plate of ${widthMm} × ${depthMm} mm; that of ${own.name} has ${own.widthMm} × ${own.depthMm} mm. Slice for this printer.`)
      const high = manifest.layers.length * manifest.layerMm
      if (high > own.heightMm + manifest.layerMm) throw new PrinterRefusal('height', 422, `The print is ${high.toFixed(2)} mm high; ${own.name} prints ${own.heightMm} mm.`)
      const before = this.#kept.loaded
      renameSync(path, this.#path(sha256))
      this.#manifest = manifest
      this.#owed = 0
      this.#change({ loaded: { sha256, bytes }, run: null, doing: 'ready', says: '', uploads: this.#kept.uploads.filter(u => u.id !== id) })
      if (before && before.sha256 !== sha256) rmSync(this.#path(before.sha256), { force: true })
      return this.state
    } catch (error) {
      // what is wrong in itself is not kept, so that it is not sent on from there
      if (error instanceof PrinterRefusal || error instanceof PackageError) this.#forget(id)
      if (error instanceof PackageError) throw new PrinterRefusal(error.code, 422, error.message)
      throw error
    } finally {
      this.#checking.delete(id)
    }
  }

  /** @throws PrinterRefusal `not-now` */
  order(order: PrinterOrder): PrinterState {
    const { doing, run, loaded } = this.#kept, no = (why: string): never => {
      throw new PrinterRefusal('not-now', 409, why)
    }
    if (order === 'refill') this.#change({ vatMl: FULL_VAT_ML })
    else if (order === 'start') {
      if (!loaded || doing === 'idle') no(`Nothing is loaded in ${this.printer.name}.`)
      if (doing === 'printing' || doing === 'paused' || doing === 'interrupted') no('It has a print under way.')
      this.#owed = 0
      this.#change({ doing: 'printing', says: '', run: { layer: 0, resinUsedMl: 0 } })
      this.#go()
    } else if (order === 'pause') {
      if (doing !== 'printing') no('It is not printing.')
      this.#halt()
      this.#change({ doing: 'paused', says: 'Paused.' })
    } else if (order === 'resume') {
      if (doing !== 'paused' && doing !== 'interrupted') no('There is nothing to go on with.')
      this.#change({ doing: 'printing', says: '' })
      this.#go()
    } else if (order === 'stop') {
      if (doing !== 'printing' && doing !== 'paused' && doing !== 'interrupted') no('It is not printing.')
      this.#halt()
      this.#change({ doing: 'stopped', says: `Stopped at layer ${(run?.layer ?? 0) + 1}.` })
    } else {
      if (doing === 'printing') no('It is printing.')
      if (loaded) rmSync(this.#path(loaded.sha256), { force: true })
      for (const u of this.#kept.uploads) rmSync(this.#part(u.id), { force: true })
      this.#manifest = null
      this.#change({ loaded: null, run: null, doing: 'idle', says: '', uploads: [] })
    }
    return this.state
  }

  /** What is done to it from outside. */
  simulate({ power, faults, speed, vatMl }: Simulation): void {
    if (faults) this.#change({ faults: { ...this.#kept.faults, ...faults } })
    if (speed !== undefined) this.#change({ speed })
    if (vatMl !== undefined) this.#change({ vatMl })
    if (power === false && this.#power) {
      this.#keep()
      this.#halt()
      this.#power = false
      this.events.emit('state')
    } else if (power === true && !this.#power) {
      this.#power = true
      // what it knew is read from its disk again, as after any start
      this.#kept = this.#read()
      void this.start().then(() => this.events.emit('state'))
    }
  }

  #go(): void {
    this.#halt()
    this.#last = performance.now()
    this.#timer = setInterval(() => this.#tick(), TICK_MS)
  }
  #halt(): void {
    if (this.#timer) clearInterval(this.#timer)
    this.#timer = null
  }

  #tick(): void {
    const now = performance.now(), m = this.#manifest
    if (!m || !this.#kept.run) return
    this.#owed += ((now - this.#last) / 1000) * this.#kept.speed
    this.#last = now
    const mlOf = (k: number): number => (m.layers[k].litPixels * (m.printer.widthMm / m.printer.pixelsX) ** 2 * m.layerMm) / 1000
    let { layer, resinUsedMl } = this.#kept.run, { vatMl } = this.#kept, doing: Kept['doing'] = 'printing', says = ''
    while (layer < m.layers.length && this.#owed >= secondsOf(m.layers[layer])) {
      const ml = mlOf(layer), sticks = this.#kept.faults.filmSticksFrom
      if (ml > vatMl) {
        doing = 'paused'
        says = `The vat is empty at layer ${layer + 1}. Fill it and go on.`
        this.#owed = 0
        break
      }
      if (sticks !== null && layer >= sticks) {
        doing = 'failed'
        says = `What is printed stays on the film since layer ${layer + 1}.`
        break
      }
      this.#owed -= secondsOf(m.layers[layer])
      vatMl -= ml
      resinUsedMl += ml
      layer++
    }
    if (doing === 'printing' && layer >= m.layers.length) {
      doing = 'done'
      says = 'Printed.'
    }
    if (doing !== 'printing') this.#halt()
    this.#kept = { ...this.#kept, doing, says, vatMl, run: { layer, resinUsedMl } }
    if (doing !== 'printing' || now - this.#keptAt > KEEP_EVERY_MS) this.#keep()
    this.events.emit('state')
  }

  /** Reads a package to its end. @throws PackageError; PrinterRefusal where its digest is not what was said */
  async #manifestOf(path: string, said?: string): Promise<PackageManifest> {
    const file = openSync(path, 'r')
    try {
      const source: ByteSource = sourceOfFile(statSync(path).size, (buffer, at) => readSync(file, buffer, 0, buffer.length, at)), breathe = (): Promise<void> => new Promise(resolve => setImmediate(resolve))
      const steps = checkDigest(source)
      for (let step = steps.next(); ; step = steps.next()) {
        if (step.done) break
        await breathe()
      }
      if (said !== undefined && (await digestOf(source, breathe)) !== said) throw new PrinterRefusal('altered', 422, 'What arrived is not what was sent: its digest is another one. Send it again.')
      return await openPackage(source, async found => {
        for (let k = 0; k < found.manifest.layers.length; k++) {
          found.layer(k)
          if (k % 100 === 99) await breathe()
        }
        return found.manifest
      })
    } finally {
      closeSync(file)
    }
  }

  #uploadOf(id: string): Kept['uploads'][number] {
    const found = this.#kept.uploads.find(u => u.id === id)
    if (!found || !existsSync(this.#part(id))) throw new PrinterRefusal('no-upload', 404, 'This upload is not there any more. Begin it again.')
    return found
  }
  #arrived(id: string): number {
    return existsSync(this.#part(id)) ? statSync(this.#part(id)).size : 0
  }
  #forget(id: string): void {
    rmSync(this.#part(id), { force: true })
    this.#change({ uploads: this.#kept.uploads.filter(u => u.id !== id) })
  }
  #part(id: string): string {
    return join(this.#folder, `${id}.part`)
  }
  #path(sha256: string): string {
    return join(this.#folder, `${sha256}.zip`)
  }

  #change(change: Partial<Kept>): void {
    this.#kept = { ...this.#kept, ...change }
    this.#keep()
    this.events.emit('state')
  }
  #keep(): void {
    this.#keptAt = performance.now()
    const path = join(this.#folder, 'state.json')
    writeSynced(`${path}.new`, new TextEncoder().encode(JSON.stringify(this.#kept)))
    renameSync(`${path}.new`, path)
  }
  #read(): Kept {
    try {
      return KeptSchema.parse(JSON.parse(readFileSync(join(this.#folder, 'state.json'), 'utf8')))
    } catch {
      return { doing: 'idle', says: '', vatMl: FULL_VAT_ML, speed: USUAL_SPEED, faults: NO_FAULTS as PrinterFaults, loaded: null, run: null, uploads: [] }
    }
  }
}

/** SHA-256 of all bytes. */
async function digestOf(source: ByteSource, breathe: () => Promise<void>): Promise<string> {
  const hash = createHash('sha256')
  for (let at = 0; at < source.size; at += 1 << 20) {
    hash.update(source.read(at, Math.min(1 << 20, source.size - at)))
    await breathe()
  }
  return hash.digest('hex')
}
