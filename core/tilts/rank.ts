import type { Vec3 } from '../mesh'
import type { TiltAngles } from '../pose'
import { angleBetween } from './directions'
import type { TiltMeasures } from './measures'
import { imagesOf, type Symmetry } from './symmetry'

/** What a tilt can be good for. */
export const AIMS = ['hanging', 'scars', 'pull', 'cups', 'height', 'resin'] as const
export type Aim = (typeof AIMS)[number]
/** How much each counts, from 0 to 5; by its square, so that what is wanted most can outweigh all else. */
export type Weights = Readonly<Record<Aim, number>>
/** Our own choice: what fails a print or spoils it before what costs time. */
export const DEFAULT_WEIGHTS: Weights = { hanging: 3, scars: 3, pull: 2, cups: 2, height: 1, resin: 1 }
/** Whoever marks faces as prized means it. */
export const PRIZED_WEIGHTS: Weights = { ...DEFAULT_WEIGHTS, scars: 5 }

/** A tilt that was measured. */
export interface TriedTilt {
  /** The direction of the part that looks up. */
  readonly up: Vec3
  readonly tilt: TiltAngles
  readonly measures: TiltMeasures
}

/** The figure of an aim: less is better. */
export function figureOf(aim: Aim, m: TiltMeasures): number {
  switch (aim) {
    case 'hanging': return m.hangingMm2
    case 'scars': return m.scarMm2
    case 'pull': return m.peelN
    case 'cups': return m.cupMm3
    case 'height': return m.heightMm
    case 'resin': return m.stiltMl
  }
}

/** The least of every figure, and the range over which it is told apart: up to what nineteen of twenty tilts stay under. */
export type Scales = Readonly<Record<Aim, { readonly least: number; readonly range: number }>>

export function scalesOf(tried: readonly TriedTilt[]): Scales {
  const of = (aim: Aim): { least: number; range: number } => {
    const figures = tried.map(t => figureOf(aim, t.measures)).sort((a, b) => a - b)
    const least = figures[0] ?? 0
    return { least, range: (figures[Math.floor(0.95 * (figures.length - 1))] ?? 0) - least }
  }
  return Object.fromEntries(AIMS.map(a => [a, of(a)])) as unknown as Scales
}

/** A figure on its scale: 0 is the best of all that were tried, 1 what few exceed; 0 where all are alike. The first scars are the worst: they go by their root. */
export function onScale(aim: Aim, m: TiltMeasures, scales: Scales): number {
  const { least, range } = scales[aim], share = range > 1e-9 ? (figureOf(aim, m) - least) / range : 0
  return aim === 'scars' ? Math.sqrt(Math.max(0, share)) : share
}

/** The mean of the aims by their weights, on their scales; less is better. */
export function scoreOf(m: TiltMeasures, scales: Scales, weights: Weights, aims: readonly Aim[] = AIMS): number {
  const all = aims.reduce((sum, a) => sum + weights[a] ** 2, 0)
  return all > 0 ? aims.reduce((sum, a) => sum + weights[a] ** 2 * onScale(a, m, scales), 0) / all : 0
}

/** What is weighed against each other: how much hangs, the scars, and risk with time. */
const AXES: readonly (readonly Aim[])[] = [['hanging'], ['scars'], ['pull', 'cups', 'height', 'resin']]
/** What differs by less than this share of a range is alike. */
const ALIKE = 0.02
/** Tilts nearer than this to a better one are the same to a person, degrees. */
const APART_DEG = 15

/**
 * The few tilts that are worth a look, best first: each is worse than none of the others in everything; the best of each axis is among
 * them, and no two are alike.
 */
export function worthALook(tried: readonly TriedTilt[], scales: Scales, weights: Weights, symmetry: Symmetry, count: number): TriedTilt[] {
  const axes = AXES.filter(aims => aims.some(a => weights[a] > 0))
  const rows = tried.map(t => ({ t, score: scoreOf(t.measures, scales, weights), at: axes.map(aims => scoreOf(t.measures, scales, weights, aims)) }))
  rows.sort((a, b) => a.score - b.score)
  const dominates = (a: number[], b: number[]): boolean => a.every((v, i) => v <= b[i]) && a.some((v, i) => v < b[i] - ALIKE)
  const front = rows.filter(r => !rows.some(o => dominates(o.at, r.at)))
  const chosen: typeof rows = []
  const take = (r: (typeof rows)[number] | undefined): void => {
    if (r && chosen.length < count && isApart(r.t.up, chosen.map(c => c.t.up), symmetry, APART_DEG)) chosen.push(r)
  }
  take(front[0])
  axes.forEach((_, i) => take(front.reduce<(typeof rows)[number] | undefined>((best, r) => (!best || r.at[i] < best.at[i] - 1e-12 ? r : best), undefined)))
  for (const r of front) take(r)
  return chosen.sort((a, b) => a.score - b.score).map(r => r.t)
}

/** Whether a direction is so far from others, and from all that are the same as these. */
export function isApart(up: Vec3, others: readonly Vec3[], symmetry: Symmetry, deg: number): boolean {
  return others.every(o => imagesOf(symmetry, o).every(i => angleBetween(i, up) >= deg))
}

/** The order of tilts that were measured by the real scan: as by score, with what reaches out too far counted along with what hangs. */
export function ranked(full: readonly TriedTilt[], scales: Scales, weights: Weights): TriedTilt[] {
  const most = Math.max(0, ...full.map(t => t.measures.ledgesMm2 ?? 0)), all = AIMS.reduce((sum, a) => sum + weights[a] ** 2, 0)
  const total = (t: TriedTilt): number => scoreOf(t.measures, scales, weights) + (most > 0 && all > 0 ? (weights.hanging ** 2 / all) * ((t.measures.ledgesMm2 ?? 0) / most) : 0)
  return [...full].sort((a, b) => total(a) - total(b))
}
