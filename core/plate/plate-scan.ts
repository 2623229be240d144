import type { CupOnPlate } from '../contract'
import { joinMeshes, type Mesh } from '../mesh'
import { after, AS_IS, moveMesh, movePoint, plateOf, type RigidMotion, type Stand } from '../pose'
import { ModelScan, signalsTogether, type Loads, type Raster, type ScanResult, type ScanSettings, type Signals } from '../scan'
import type { StandingCopy } from './check'
import { convexHull, footprintOf, outlineOnPlate, outlinesMeet, type Footprint, type FlatPoint } from './footprint'

/** A part with its stilts, as it stands by itself, and what its own scan found. */
export interface ScannedPart {
  readonly id: string
  readonly mesh: Mesh
  readonly stand: Stand
  /** Its supports, one closed solid each, in the stand. */
  readonly solids: readonly Mesh[]
  readonly result: ScanResult
}

/** What all copies come to when they are printed at once; places are in the coordinates of the plate. */
export interface PlateScanResult {
  readonly signals: Signals
  /** Spaces that no part encloses by itself, but several do where they stand side by side; and the copies that do. */
  readonly cups: readonly { readonly cup: CupOnPlate; readonly copies: readonly string[] }[]
}

/**
 * The scan of a plate. Parts are not scanned again: what stands clear of everything else adds what its own scan found, wherever it
 * stands and however it is turned (turned pixels differ by the noise of the raster). Only copies whose outlines come within a
 * pixel are scanned together, in one piece. Yields the share that is done.
 */
export function* scanPlate(parts: readonly ScannedPart[], copies: readonly StandingCopy[], raster: Raster, settings: ScanSettings, loads: Loads): Generator<number, PlateScanResult, void> {
  const of = new Map(parts.map(p => [p.id, p])), footprints = new Map<string, Footprint>()
  const standing = copies.flatMap(copy => {
    const part = of.get(copy.part)
    if (!part) return []
    let footprint = footprints.get(part.id)
    if (!footprint) footprints.set(part.id, (footprint = footprintOf([{ mesh: part.mesh, motion: part.stand }, ...part.solids.map(mesh => ({ mesh, motion: AS_IS }))])))
    return [{ copy, part, outline: grown(outlineOnPlate(footprint, copy.shift), raster.pixelMm) }]
  })
  const signals: { signals: Signals; toPlate: RigidMotion<'stand', 'plate'> }[] = [], cups: { cup: CupOnPlate; copies: readonly string[] }[] = []
  for (const group of groupsOf(standing, (a, b) => outlinesMeet(a.outline, b.outline))) {
    if (group.length === 1) {
      signals.push({ signals: group[0].part.result.signals, toPlate: plateOf(group[0].copy.shift) })
      continue
    }
    const scan = new ModelScan(joinMeshes(group.map(({ part, copy }) => moveMesh(part.mesh, after(plateOf(copy.shift), part.stand)))), raster, AS_IS, settings)
    scan.setLoads(loads)
    scan.setStilts(group.flatMap(({ part, copy }) => part.solids.map(s => moveMesh(s, plateOf(copy.shift)))))
    const together = yield* toReach(scan)
    signals.push({ signals: together.signals, toPlate: AS_IS })
    const known = group.flatMap(({ part, copy }) => part.result.cups.map(cup => ({ ...cup, at: movePoint(plateOf(copy.shift), cup.at) })))
    // what was scanned together stood on the plate as it was
    const onPlate = together.cups.map(({ at: [x, y, z], ...cup }): CupOnPlate => ({ ...cup, at: [x, y, z] }))
    for (const cup of onPlate) if (!known.some(k => sameSpace(k, cup))) cups.push({ cup, copies: group.map(s => s.copy.id) })
  }
  return { signals: signalsTogether(signals, loads), cups }
}

function* toReach(scan: ModelScan): Generator<number, ScanResult, void> {
  for (const steps = scan.run(); ;) {
    const step = steps.next()
    if (step.done) return step.value
    if (step.value.result && step.value.stage === 'reach') return step.value.result
    yield step.value.done / Math.max(1, step.value.total)
  }
}

/** An outline with a margin on all sides. */
function grown(outline: readonly FlatPoint[], byMm: number): FlatPoint[] {
  return convexHull(outline.flatMap(([x, y]): FlatPoint[] => [[x - byMm, y - byMm], [x + byMm, y - byMm], [x + byMm, y + byMm], [x - byMm, y + byMm]]))
}

/** Things in groups of those that meet, directly or through others. */
function groupsOf<T>(things: readonly T[], meet: (a: T, b: T) => boolean): T[][] {
  const groups: T[][] = []
  for (const thing of things) {
    const met = groups.filter(g => g.some(other => meet(other, thing)))
    for (const g of met) groups.splice(groups.indexOf(g), 1)
    groups.push([...met.flat(), thing])
  }
  return groups
}

/** Whether two cups share layers and lie in the same place. */
function sameSpace(a: CupOnPlate, b: CupOnPlate): boolean {
  return a.firstLayer <= b.lastLayer && b.firstLayer <= a.lastLayer && Math.hypot(a.at[0] - b.at[0], a.at[1] - b.at[1]) <= Math.sqrt(Math.max(a.peakAreaMm2, b.peakAreaMm2))
}
