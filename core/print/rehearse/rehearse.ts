import { pixelMmOf, type PackageManifest } from '../../contract'
import { AS_IS } from '../../pose'
import { DEFAULT_LOADS, DEFAULT_SETTINGS, ModelScan, type Loads, type ScanResult, type ScanSettings } from '../../scan'
import type { OpenPackage } from '../package/read-package'
import { PictureLayers } from './picture-layers'

/** What is wrong with the pictures themselves, whatever they show. Layers are counted from 0. */
export interface PictureFault {
  /** Nothing is lit; a layer lies not between its neighbours; a picture lights something else than the manifest says; something reaches the edge. */
  readonly kind: 'empty' | 'misplaced' | 'lit' | 'edge'
  readonly layer: number
  /** How many layers in a row. */
  readonly layers: number
  readonly sentence: string
}

/** A print as its pictures alone show it. */
export interface Rehearsal {
  readonly manifest: PackageManifest
  readonly faults: readonly PictureFault[]
  /** Islands, suction and signals of all that is lit, parts and supports alike; ledges are not looked for. */
  readonly result: ScanResult
  /** Regions of the first layer, and what it covers, mm². */
  readonly firstLayer: { readonly regions: number; readonly areaMm2: number }
  readonly scan: ModelScan
}

/** A layer that its neighbours share so much more with each other than with it lies elsewhere. */
const MISPLACED_SHARE = 0.15
/** What is lit may differ from what is said by rounding, in pixels and as a share. */
const LIT_PIXELS = 2, LIT_SHARE = 0.003

/**
 * Goes through a package as a printer does, from its pictures alone: what each layer would be laid on, what begins in the air, what pulls like
 * a cup. Yields what it does and how far.
 * @throws PackageError `picture` or `altered`
 */
export function* rehearse(found: OpenPackage, settings: ScanSettings = DEFAULT_SETTINGS, loads: Loads = DEFAULT_LOADS): Generator<{ readonly stage: 'pictures' | 'layers'; readonly share: number }, Rehearsal, void> {
  const { manifest } = found, count = manifest.layers.length, looked = PictureLayers.of(found)
  let step = looked.next()
  for (; !step.done; step = looked.next()) yield { stage: 'pictures', share: step.value / count }
  const layers = step.value, scan = new ModelScan(layers, { pixelMm: pixelMmOf(manifest.printer), layerMm: manifest.layerMm }, AS_IS, settings)
  scan.setLoads(loads)
  let result: ScanResult | null = null
  for (const { stage, done, total, result: so } of scan.run()) {
    if (stage === 'layers') yield { stage, share: done / Math.max(1, total) }
    if (stage === 'graph' && so) {
      result = so
      break
    }
  }
  if (!result) throw new Error('A rehearsal ended without a result.')
  return { manifest, faults: faultsOf(layers, manifest), result, firstLayer: { regions: result.signals.pieces[0] ?? 0, areaMm2: result.signals.areaMm2[0] ?? 0 }, scan }
}

function faultsOf({ solidPixels, litPixels, edgePixels, overBelow, overNext }: PictureLayers, { layers }: PackageManifest): PictureFault[] {
  const count = layers.length, faults: PictureFault[] = []
  const told = (kind: PictureFault['kind'], is: (k: number) => boolean, sentence: (first: number, last: number) => string): void => {
    for (let k = 0; k < count; k++) {
      if (!is(k)) continue
      const first = k
      while (k + 1 < count && is(k + 1)) k++
      faults.push({ kind, layer: first, layers: k - first + 1, sentence: sentence(first, k) })
    }
  }
  const name = (first: number, last: number): string => (first === last ? `Layer ${first + 1}` : `Layers ${first + 1} to ${last + 1}`), be = (first: number, last: number, one: string, more: string): string => (first === last ? one : more)
  told('empty', k => solidPixels[k] === 0, (a, b) => `${name(a, b)} ${be(a, b, 'is', 'are')} black: nothing is printed there${b < count - 1 ? ', and what follows is laid on nothing' : ''}.`)
  // of three layers the outer two share much, and neither shares as much with the middle one
  told('misplaced', k => {
    if (k === 0 || k + 1 >= count || solidPixels[k] === 0) return false
    const least = Math.min(solidPixels[k - 1], solidPixels[k + 1])
    if (least === 0) return false
    return overNext[k + 1] / least - Math.max(overBelow[k], overBelow[k + 1]) / Math.min(least, solidPixels[k]) > MISPLACED_SHARE
  }, (a, b) => `${name(a, b)} ${be(a, b, 'does', 'do')} not lie between ${be(a, b, 'its', 'their')} neighbours: these share more with each other than with ${be(a, b, 'it', 'them')}. ${be(a, b, 'It is', 'They are')} mirrored, shifted or of another print.`)
  told('lit', k => Math.abs(litPixels[k] - layers[k].litPixels) > LIT_PIXELS + LIT_SHARE * layers[k].litPixels, (a, b) => `${name(a, b)} ${be(a, b, 'lights', 'light')} ${Math.round(litPixels[a])} pixels; the package says ${Math.round(layers[a].litPixels)}${b > a ? ' for the first of them' : ''}.`)
  told('edge', k => edgePixels[k] > 0, (a, b) => `${name(a, b)} ${be(a, b, 'reaches', 'reach')} the edge of the picture: what lies beyond is cut off.`)
  return faults.sort((a, b) => a.layer - b.layer)
}
