import { expose, transfer } from 'comlink'
import type { LayerTimes, PackageManifest, ScanSettings } from '@oak-stilts/core/contract'
import { sourceOfFile, type ByteSource, type Mesh } from '@oak-stilts/core/mesh'
import { checkDigest, openPackage, PackageWriter, PlateView, rebuild, rehearse, type OpenPackage, type PackageAbout, type Rehearsal, type SlicedLayer } from '@oak-stilts/core/print'
import type { Loads } from '@oak-stilts/core/scan'
import { breathe } from './breathe'
import { holdLife } from './supervised'

/** A package that is there, and what it says of itself. */
export interface MadePackage {
  readonly blob: Blob
  readonly manifest: PackageManifest
  /** Of all its bytes. */
  readonly sha256: string
}
/** What a rehearsal found, without what stays here. */
export type ToldRehearsal = Omit<Rehearsal, 'scan' | 'manifest'>

/** As workers have it; the page's own types do not know it. */
declare class FileReaderSync {
  readAsArrayBuffer(blob: Blob): ArrayBuffer
}

/** What has gathered goes to where the browser keeps it, bytes. */
const PIECE = 4 << 20

let writer: PackageWriter | null = null, view: PlateView | null = null, times: readonly LayerTimes[] = []
let pieces: Blob[] = [], gathered: Uint8Array[] = [], gatheredBytes = 0
/** Bands that came before the ones below them. */
let early = new Map<number, readonly SlicedLayer[]>(), next = 0, cutPixels = 0
let open: OpenPackage | null = null
/** Counts what was asked for last; what came before it stops. */
let asked = 0

function gather(bytes: Uint8Array): void {
  gathered.push(bytes.slice())
  gatheredBytes += bytes.length
  if (gatheredBytes > PIECE) settle()
}
function settle(): void {
  pieces.push(new Blob(gathered as BlobPart[]))
  gathered = []
  gatheredBytes = 0
}

function sourceOfBlob(blob: Blob): ByteSource {
  const reader = new FileReaderSync()
  return sourceOfFile(blob.size, (buffer, at) => {
    const bytes = new Uint8Array(reader.readAsArrayBuffer(blob.slice(at, at + buffer.length)))
    buffer.set(bytes)
    return bytes.length
  })
}

/** Puts a package of layers together as they come, reads it back, and goes through it as a printer would. */
const packageWorker = {
  begin(about: PackageAbout, layerTimes: readonly LayerTimes[]): void {
    pieces = []
    gathered = []
    gatheredBytes = next = cutPixels = 0
    early = new Map()
    times = layerTimes
    writer = new PackageWriter(about, gather)
    view = new PlateView(layerTimes.length, about.printer.pixelsX, about.printer.pixelsY)
  },

  /** The layers of a band, in any order of bands. @throws PackageError `too-large` */
  take(band: number, layers: readonly SlicedLayer[]): void {
    early.set(band, layers)
    for (let ready = early.get(next); ready; ready = early.get(next)) {
      early.delete(next++)
      for (const layer of ready) {
        if (!writer || !view) return
        cutPixels += layer.cutPixels
        view.add(writer.layers, layer.png)
        writer.add(layer, times[writer.layers])
      }
    }
  },

  /** The whole package, read back to its last byte. @throws PackageError */
  async finish(): Promise<MadePackage & { cutPixels: number }> {
    if (!writer || !view) throw new Error('No package was begun.')
    writer.picture(view.png())
    const manifest = writer.finish(), { sha256 } = writer
    settle()
    const blob = new Blob(pieces, { type: 'application/zip' })
    writer = view = null
    pieces = []
    await this.open(blob)
    const own = open as OpenPackage | null
    for (let k = 0; own && k < manifest.layers.length; k++) own.layer(k)
    return { blob, manifest, sha256, cutPixels }
  },

  /** Opens a package; gives what it says of itself. @throws PackageError */
  async open(blob: Blob): Promise<PackageManifest> {
    const source = sourceOfBlob(blob)
    for (const steps = checkDigest(source); !steps.next().done;);
    open = await openPackage(source, found => Promise.resolve(found))
    return open.manifest
  },

  /** Leaves off what is under way, which then gives null; the package stays open. */
  leaveOff(): void {
    asked++
  },

  /** The picture of a layer, PNG. @throws PackageError */
  layer(k: number): Uint8Array | null {
    if (!open || k < 0 || k >= open.manifest.layers.length) return null
    const png = open.layer(k)
    return transfer(png, [png.buffer as ArrayBuffer])
  },

  /** What the pictures of the open package make. @throws PackageError */
  async rebuild(told: (words: string, share: number) => void): Promise<Mesh | null> {
    if (!open) return null
    const steps = rebuild(open), ticket = ++asked
    let last = performance.now()
    for (let step = steps.next(); ; step = steps.next()) {
      if (ticket !== asked) return null
      if (step.done) return transfer(step.value, [step.value.positions.buffer, step.value.triangles.buffer])
      if (performance.now() - last < 100) continue
      last = performance.now()
      told('Building it from its pictures', step.value)
      await breathe()
    }
  },

  /** Goes through the open package from its pictures alone. @throws PackageError */
  async rehearse(settings: ScanSettings, loads: Loads, told: (words: string, share: number) => void): Promise<ToldRehearsal | null> {
    if (!open) return null
    const steps = rehearse(open, settings, loads), ticket = ++asked
    let last = performance.now()
    for (let step = steps.next(); ; step = steps.next()) {
      if (ticket !== asked) return null
      if (step.done) {
        const { faults, result, firstLayer } = step.value
        return { faults, result, firstLayer }
      }
      if (performance.now() - last < 100) continue
      last = performance.now()
      told(step.value.stage === 'pictures' ? 'Looking through the pictures' : 'Looking at what each layer is laid on', step.value.share)
      await breathe()
    }
  },
}

export type PackageWorker = typeof packageWorker
expose(packageWorker)
holdLife()
