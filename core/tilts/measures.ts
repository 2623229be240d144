import type { Cup, Island, IslandClass, Resin, ScanSettings } from '../contract'
import type { Mesh, Vec3 } from '../mesh'
import { movePoint, standOf, upOfTilt, type Stand, type TiltAngles } from '../pose'
import { secondsOfLayers } from '../print'
import { coarseScan, ModelScan, type Loads, type Raster, type ScanResult, type Signals } from '../scan'
import { scarOf, type SkinTable } from './skin'

/** What a tilt comes to, without stilts. Lengths in mm, loads and resin of stilts are estimates. */
export interface TiltMeasures {
  /** Pixel that it was measured on; a coarse one tells ranks better than numbers. */
  readonly pixelMm: number
  /** Islands that hang, by class; the part as a whole, where it is lifted, is not among them. */
  readonly islands: Readonly<Record<Exclude<IslandClass, 'body'>, number>>
  /** Weight on them, mm²: what grows out of each as the face of a cube, so that few heavy ones and many light ones both count. */
  readonly hangingMm2: number
  /** Skin that reaches out too far; null where that was not measured: coarse grids do not tell. */
  readonly ledgesMm2: number | null
  /** Skin that leans out too little to carry itself, by worth: plain, prized, spare, off-limits. */
  readonly steepMm2: readonly [number, number, number, number]
  /** Scars to come, as so many mm² of plain skin. */
  readonly scarMm2: number
  /** Most that a layer pulls, N. */
  readonly peelN: number
  readonly cups: number
  readonly cupMm3: number
  readonly heightMm: number
  /** Time that its ordinary layers take, s. */
  readonly seconds: number
  /** Resin of the stilts that it would ask for, ml. */
  readonly stiltMl: number
}

/** What tilts of a part are measured with. */
export interface TiltBasis {
  readonly liftMm: number
  readonly settings: ScanSettings
  readonly resin: Resin
  readonly layerMm: number
  readonly skin: SkinTable
}

/** Section of a usual stilt, mm²: 1 mm across. From memory. */
const STILT_MM2 = Math.PI / 4

/** Loads without bottom layers: these depend on the lift, not on the tilt. */
function loadsOf({ releaseStressNMm2, cupVacuumNMm2 }: Resin): Loads {
  return { releaseStressNMm2, cupVacuumNMm2, bottomLayers: 0, transitionLayers: 0, bottomReleaseFactor: 1 }
}

/** Where a part stands, tilted and lifted. */
export function standAt(mesh: Mesh, tilt: TiltAngles, { liftMm }: Pick<TiltBasis, 'liftMm'>, pixelMm: number): Stand {
  return standOf(mesh.positions, { ...tilt, liftMm }, pixelMm)
}

/** Measures a tilt on cubes of one size. @param mesh the part, or a lighter one */
export function measureCoarsely(mesh: Mesh, tilt: TiltAngles, cellMm: number, basis: TiltBasis): TiltMeasures {
  const stand = standAt(mesh, tilt, basis, cellMm), scan = coarseScan(mesh, cellMm, stand, basis.settings, loadsOf(basis.resin))
  return measuresOf({ ...scan, ledgesMm2: null, pixelMm: cellMm, heightMm: scan.layerCount * cellMm }, stand, upOfTilt(tilt), basis)
}

/** Measures a tilt by the real scan. Yields between short steps; the last value is the answer. */
export function* measureFully(mesh: Mesh, tilt: TiltAngles, pixelMm: number, basis: TiltBasis): Generator<number, TiltMeasures, void> {
  const raster: Raster = { pixelMm, layerMm: basis.layerMm }, stand = standAt(mesh, tilt, basis, pixelMm)
  const scan = new ModelScan(mesh, raster, stand, basis.settings)
  scan.setLoads(loadsOf(basis.resin))
  for (const { stage, done, total, result } of scan.run()) {
    // what follows the reach is where holes would go
    if (stage === 'reach' && result) return fullMeasures(result, pixelMm, stand, tilt, basis)
    yield (stage === 'reach' ? 0.5 : 0) + 0.5 * (done / Math.max(1, total))
  }
  throw new Error('A scan ended without its reach.')
}

function fullMeasures(result: ScanResult, pixelMm: number, stand: Stand, tilt: TiltAngles, basis: TiltBasis): TiltMeasures {
  const ledgesMm2 = result.ledges.filter(l => l.state === 'open' || l.state === 'partly').reduce((sum, l) => sum + l.hangingMm2, 0)
  return measuresOf({ ...result, ledgesMm2, pixelMm, heightMm: result.layerCount * result.layerMm }, stand, upOfTilt(tilt), basis)
}

/** What a scan of either kind knows. */
interface Scanned {
  readonly islands: readonly Island[]
  readonly cups: readonly Cup[]
  readonly signals: Signals
  readonly ledgesMm2: number | null
  readonly pixelMm: number
  readonly heightMm: number
}

function measuresOf({ islands, cups, signals, ledgesMm2, pixelMm, heightMm }: Scanned, stand: Stand, up: Vec3, { settings, skin, resin, layerMm }: TiltBasis): TiltMeasures {
  const open = islands.filter(i => i.state === 'open' && i.class !== 'body')
  const { byWorth, underMm3 } = skin.steep(up, settings.slopeDeg, movePoint(stand, [0, 0, 0])[2])
  const tipMm2 = Math.PI * settings.tipHoldMm ** 2
  const stiltMm = underMm3 / tipMm2 + open.reduce((sum, i) => sum + i.zMm, 0)
  let peelN = 0
  for (const n of signals.peelN) peelN = Math.max(peelN, n)
  const count = (c: IslandClass): number => open.filter(i => i.class === c).length
  return {
    pixelMm, islands: { limb: count('limb'), detail: count('detail'), flake: count('flake') },
    hangingMm2: open.reduce((sum, i) => sum + (i.class === 'flake' ? 0 : Math.cbrt(i.volumeMm3) ** 2), 0),
    ledgesMm2, steepMm2: byWorth, scarMm2: scarOf(byWorth), peelN,
    cups: cups.length, cupMm3: cups.reduce((sum, c) => sum + c.volumeMm3, 0),
    heightMm, seconds: secondsOfLayers(Math.round(heightMm / layerMm), resin), stiltMl: (stiltMm * STILT_MM2) / 1000,
  }
}
