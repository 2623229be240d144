import { transfer } from 'comlink'
import { pegsUnder, type FoundPeg } from '@oak-stilts/core/bed'
import type { Anchor, Gauge, Spread, SpreadWay } from '@oak-stilts/core/contract'
import { PLAIN, runsOf } from '@oak-stilts/core/marks'
import { NO_SOURCE, type Patches, type Vec3 } from '@oak-stilts/core/mesh'
import { alongLine, anchorOf, awayFrom, bordersOf, distanceToRun, edgesOf, placeSpread, spotsOf, type BorderRun, type SpotWay, type SpreadOut, type WayPoint } from '@oak-stilts/core/spread'
import { fromSource, normalFromSource } from '@oak-stilts/core/pose'
import { gaugeOf, tipRefused, type Others, type Plate, type Surface } from '@oak-stilts/core/stilts'
import { breathe } from './breathe'

/** What is known of the part on the bench. */
interface SpreadGround {
  surface(): Surface
  patches(): Patches
  gauges(): readonly Gauge[]
  plate(): Plate
  /** Where tips stand already. @param but tips that are left out */
  tips(but: ReadonlySet<string>): Vec3[]
  /** What new stilts keep clear of; new ones may be added to it. */
  others(but: ReadonlySet<string>): Others
}

type Heights = readonly [number, number]
/** What may be picked to spread over: a flat, or all up to its creases. Where skin is marked, all of that mark. */
export type FaceBy = 'flat' | 'patch'

/** A way to spread along or over, and its outline in the stand: x, y, z of both ends of its segments. */
export interface PickedWay {
  readonly way: SpotWay
  readonly outline: Float32Array
  /** Its length or its area, mm or mm². */
  readonly measure: number
}

/** Where tips would stand: x, y, z of each; 1 where something can; and how many were left out beside tips that stand. */
export interface SpreadPreview {
  readonly points: Float32Array
  readonly stands: Uint8Array
  readonly kept: number
}

/** Nothing is looked for that is named: a spread that stands by itself. */
const NONE: ReadonlySet<string> = new Set()
/** Stilts that are tried between two turns of others. */
const TRIED_AT_ONCE = 4
/** Pegs that are looked at between two turns of others. */
const PEGS_AT_ONCE = 40

function outlineOf({ points, closed }: BorderRun): Float32Array {
  const ends = points.flatMap((p, i) => (i + 1 < points.length || closed ? [...p.point, ...points[(i + 1) % points.length].point] : []))
  return Float32Array.from(ends)
}

/** Spreading, as the worker of the surface does it. */
export function createSpreadWork(ground: SpreadGround) {
  let newestBed = 0
  const wayOf = (surface: Surface, { points, closed }: BorderRun): SpotWay => ({ kind: 'edge', closed, points: points.map(p => anchorOf(surface, p)) })
  const lengthOf = ({ points, closed }: BorderRun): number => points.reduce((sum, p, i) => {
    const next = i + 1 < points.length ? points[i + 1] : closed ? points[0] : p
    return sum + Math.hypot(next.point[0] - p.point[0], next.point[1] - p.point[1], next.point[2] - p.point[2])
  }, 0)

  return {
    /** The point of the skin that a ray meets, as it is kept; null where it meets none. */
    wayPointAt(origin: Vec3, direction: Vec3, visibleMm: Heights): { readonly at: Vec3; readonly anchor: Anchor } | null {
      const own = ground.surface(), hit = own.castBetween(origin, direction, visibleMm)
      return hit && { at: hit.point, anchor: anchorOf(own, hit) }
    },

    /** The skin nearest to a point, as it is kept; null where there is none so near. */
    wayPointNear(point: Vec3, withinMm: number): { readonly at: Vec3; readonly anchor: Anchor } | null {
      const own = ground.surface(), near = own.nearest(point, withinMm)
      return near && { at: near.point, anchor: anchorOf(own, near) }
    },

    /** Points of the skin from one of it to another, about so far from each other. */
    wayBetween(from: Anchor, to: Anchor, stepMm: number): { readonly at: Vec3; readonly anchor: Anchor }[] {
      const own = ground.surface(), on = ({ point, normal }: Anchor): WayPoint => ({ point: fromSource(own, point), normal: normalFromSource(own, normal) })
      return alongLine(own, on(from), on(to), stepMm).map(s => ({ at: s.point, anchor: anchorOf(own, s) }))
    },

    /** The edge that a ray meets within so many mm, else the border of the face there; null where it meets none. */
    edgeAt(origin: Vec3, direction: Vec3, visibleMm: Heights, nearMm: number): PickedWay | null {
      const own = ground.surface(), hit = own.castBetween(origin, direction, visibleMm)
      if (!hit) return null
      const patches = ground.patches(), flat = patches.flatAt(hit.face).faces, patch = patches.patchAt(hit.face)
      const nearestOf = (runs: readonly BorderRun[]): BorderRun | null => runs.reduce<BorderRun | null>((best, r) => (best && distanceToRun(best, hit.point) <= distanceToRun(r, hit.point) ? best : r), null)
      // a single triangle of curved skin has no border that anybody means
      const borders = bordersOf(own, patches, flat.length > 1 || patch.length === 1 ? flat : patch), creases = bordersOf(own, patches, patch)
      const edge = nearestOf([...borders, ...creases].flatMap(edgesOf)), run = edge && distanceToRun(edge, hit.point) <= nearMm ? edge : nearestOf(borders)
      return run && { way: wayOf(own, run), outline: outlineOf(run), measure: lengthOf(run) }
    },

    /** The faces that a ray meets, to spread over; null where it meets none. */
    faceAt(origin: Vec3, direction: Vec3, visibleMm: Heights, by: FaceBy, pattern: 'hexagonal' | 'square', marginMm: number): PickedWay | null {
      const own = ground.surface(), hit = own.castBetween(origin, direction, visibleMm)
      if (!hit) return null
      const patches = ground.patches(), worth = own.worthOf(hit.face)
      const faces = worth !== PLAIN ? patches.grown(hit.face, (_, to) => own.worthOf(to) === worth) : by === 'flat' ? patches.flatAt(hit.face).faces : patches.patchAt(hit.face)
      const { from } = own.faces, sources = from ? faces.map(f => from[f]).filter(f => f !== NO_SOURCE) : faces
      if (sources.length === 0) return null
      const outline = Float32Array.from(bordersOf(own, patches, faces).flatMap(b => [...outlineOf(b)]))
      return { way: { kind: 'face', runs: runsOf(sources), pattern, marginMm }, outline, measure: faces.length }
    },

    /** Where the tips of a spread would stand. @param but tips of its own, where it is taken up again */
    spreadPreview(way: SpotWay, spacingMm: number, keepMm: number, gauge: string, but: readonly string[] = []): SpreadPreview {
      const own = ground.surface(), g = gaugeOf(gauge, ground.gauges()), all = spotsOf(own, ground.patches(), { way, spacingMm }, g)
      const spots = awayFrom(all, ground.tips(but.length > 0 ? new Set(but) : NONE), keepMm)
      const points = Float32Array.from(spots.flatMap(s => [...s.point])), stands = Uint8Array.from(spots, s => (tipRefused(own, s.point, s.normal, g.tipDiameterMm) ? 0 : 1))
      return transfer({ points, stands, kept: all.length - spots.length }, [points.buffer, stands.buffer])
    },

    /** What every peg of a bed would come to where it lies. The newest question wins: null for one that was overtaken. @param but tips of its own, where it is moved */
    async bedPreview(way: Extract<SpreadWay, { kind: 'bed' }>, keepMm: number, but: readonly string[]): Promise<FoundPeg[] | null> {
      const own = ++newestBed, surface = ground.surface(), ids = new Set(but)
      for (const steps = pegsUnder(surface, way.pattern, way, { plate: ground.plate(), tips: ground.tips(ids), others: ground.others(ids), keepMm }); ;) {
        const step = steps.next()
        if (step.done) return step.value
        if (step.value.done % PEGS_AT_ONCE !== PEGS_AT_ONCE - 1) continue
        await breathe()
        if (own !== newestBed || ground.surface() !== surface) return null
      }
    },

    /** Stands the stilts of a spread, as far as something can stand. @param but tips of its own, which make room */
    async placeSpread(spread: Pick<Spread, 'id' | 'gauge' | 'spacingMm' | 'keepMm' | 'way'>, but: readonly string[], say: (done: number, of: number) => void): Promise<SpreadOut> {
      const own = ground.surface(), { stand } = own, ids = new Set(but)
      for (const steps = placeSpread(own, ground.patches(), spread, { gauges: ground.gauges(), plate: ground.plate(), tips: ground.tips(ids), others: ground.others(ids) }); ;) {
        const step = steps.next()
        if (step.done) return step.value
        if (step.value.done % TRIED_AT_ONCE !== TRIED_AT_ONCE - 1) continue
        say(step.value.done, step.value.of)
        // the pointer has its turn in between
        await breathe()
        if (own.stand !== stand || ground.surface() !== own) throw new Error('The part was moved meanwhile.')
      }
    },
  }
}
