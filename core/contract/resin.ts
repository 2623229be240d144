import { z } from 'zod'
import { BUILT_IN_GAUGES, GaugeSchema, type Gauge } from './gauge'
import { count, finite, NameSchema, positive } from './primitives'

/** Everything about a resin that something is computed from. */
export const ResinSchema = z.object({
  name: NameSchema,
  /** g/ml */
  densityGMl: positive.min(0.5).max(5),
  pricePerKg: finite.min(0).max(10000),
  /** Seconds of light, of a layer and of the bottom layers; how many these are, and how many lead over to the others. */
  exposureS: positive.max(600),
  bottomExposureS: positive.max(600),
  bottomLayers: count.max(100),
  transitionLayers: count.max(100),
  /** Pause before the light, s. */
  restS: finite.min(0).max(120),
  /** How far the plate goes up between layers, mm, and how fast up and down, mm/min. */
  travelMm: positive.max(50),
  travelUpMmMin: positive.max(2000),
  travelDownMmMin: positive.max(2000),
  /** What a layer pulls as it leaves the film, what it pushes as the plate goes down, and what a shut cup adds, N/mm². */
  releaseStressNMm2: positive.max(1),
  plungeStressNMm2: finite.min(0).max(1),
  cupVacuumNMm2: finite.min(0).max(0.1),
  /** How many times as much bottom layers pull, which are cured longer. */
  bottomReleaseFactor: finite.min(1).max(10),
  /** How much of the peel pulls sideways, since a layer leaves the film from one side on; and by how much what is laid may move under that, mm. */
  sideShare: finite.min(0).max(1).default(0.15),
  swayMm: positive.max(5).default(0.1),
  /** Before it is cured through, N/mm². */
  greenStrengthNMm2: positive.max(200),
  greenModulusNMm2: positive.max(20000),
  /** Capacity over load that is asked for. */
  margin: finite.min(1).max(10),
  /** Supports nearer to each other than this grow together, mm. */
  webMm: finite.min(0.05).max(5),
  /** Narrowest vent, wall of hollow parts, and their holes, mm. */
  ventMm: positive.max(20),
  wallMm: positive.max(20),
  holeMm: positive.max(20),
  holes: count.max(20),
  shrinkagePercent: finite.min(0).max(10),
  /** Values that are guesses, by name: from memory, or not measured. */
  guesses: z.array(z.string().max(40)).max(40),
  /** Support sizes that it brings; none where the usual ones suit it. */
  gauges: z.array(GaugeSchema).max(9).default([]),
})
export type Resin = z.infer<typeof ResinSchema>
export type ResinValue = Exclude<keyof Resin, 'name' | 'guesses' | 'gauges'>

/** What of a resin the loads of layers are estimated from. */
export function loadsOf({ releaseStressNMm2, cupVacuumNMm2, bottomLayers, transitionLayers, bottomReleaseFactor }: Resin): Pick<Resin, 'releaseStressNMm2' | 'cupVacuumNMm2' | 'bottomLayers' | 'transitionLayers' | 'bottomReleaseFactor'> {
  return { releaseStressNMm2, cupVacuumNMm2, bottomLayers, transitionLayers, bottomReleaseFactor }
}

/** Every value by its name, in the order in which it is shown, with the unit it is given in. */
export const RESIN_VALUES: readonly { readonly name: ResinValue; readonly label: string; readonly unit: string; readonly group: string; readonly digits: number }[] = [
  { name: 'exposureS', label: 'Exposure', unit: 's', group: 'Light', digits: 1 },
  { name: 'bottomExposureS', label: 'Exposure of bottom layers', unit: 's', group: 'Light', digits: 1 },
  { name: 'bottomLayers', label: 'Bottom layers', unit: '', group: 'Light', digits: 0 },
  { name: 'transitionLayers', label: 'Transition layers', unit: '', group: 'Light', digits: 0 },
  { name: 'restS', label: 'Rest before the light', unit: 's', group: 'Plate travel', digits: 1 },
  { name: 'travelMm', label: 'Plate travel', unit: 'mm', group: 'Plate travel', digits: 1 },
  { name: 'travelUpMmMin', label: 'Speed up', unit: 'mm/min', group: 'Plate travel', digits: 0 },
  { name: 'travelDownMmMin', label: 'Speed down', unit: 'mm/min', group: 'Plate travel', digits: 0 },
  { name: 'releaseStressNMm2', label: 'Release stress', unit: 'N/mm²', group: 'Loads', digits: 4 },
  { name: 'bottomReleaseFactor', label: 'Bottom layers pull', unit: '×', group: 'Loads', digits: 1 },
  { name: 'sideShare', label: 'Side pull, share of the peel', unit: '', group: 'Loads', digits: 2 },
  { name: 'plungeStressNMm2', label: 'Plunge stress', unit: 'N/mm²', group: 'Loads', digits: 4 },
  { name: 'cupVacuumNMm2', label: 'Vacuum of a cup', unit: 'N/mm²', group: 'Loads', digits: 4 },
  { name: 'greenStrengthNMm2', label: 'Green strength', unit: 'N/mm²', group: 'Strength', digits: 1 },
  { name: 'greenModulusNMm2', label: 'Green modulus', unit: 'N/mm²', group: 'Strength', digits: 0 },
  { name: 'margin', label: 'Margin', unit: '×', group: 'Strength', digits: 1 },
  { name: 'swayMm', label: 'Movement allowed', unit: 'mm', group: 'Strength', digits: 2 },
  { name: 'webMm', label: 'Gap that stays open', unit: 'mm', group: 'Shape', digits: 2 },
  { name: 'ventMm', label: 'Narrowest vent', unit: 'mm', group: 'Shape', digits: 2 },
  { name: 'wallMm', label: 'Wall of hollow parts', unit: 'mm', group: 'Shape', digits: 2 },
  { name: 'holes', label: 'Drain holes', unit: '', group: 'Shape', digits: 0 },
  { name: 'holeMm', label: 'Drain hole diameter', unit: 'mm', group: 'Shape', digits: 2 },
  { name: 'shrinkagePercent', label: 'Shrinkage', unit: '%', group: 'Shape', digits: 2 },
  { name: 'densityGMl', label: 'Density', unit: 'g/ml', group: 'Cost', digits: 2 },
  { name: 'pricePerKg', label: 'Price per kg', unit: '', group: 'Cost', digits: 2 },
]

const ALL = RESIN_VALUES.map(v => v.name)
const WIDER = 4 / 3
const round = (mm: number): number => Math.round(mm * 20) / 20

/** All values from memory, for a resin of the usual kind; the first one is that of a new job. */
const GREY: Resin = {
  name: 'Grey, standard', densityGMl: 1.1, pricePerKg: 30, exposureS: 2.5, bottomExposureS: 28, bottomLayers: 5, transitionLayers: 5, restS: 1,
  travelMm: 6, travelUpMmMin: 60, travelDownMmMin: 150, releaseStressNMm2: 0.02, plungeStressNMm2: 0.01, cupVacuumNMm2: 0.03, bottomReleaseFactor: 2, sideShare: 0.15, swayMm: 0.1,
  greenStrengthNMm2: 8, greenModulusNMm2: 400, margin: 2, webMm: 0.5, ventMm: 1, wallMm: 2, holeMm: 2.5, holes: 2, shrinkagePercent: 0, guesses: [...ALL], gauges: [],
}
/** For what gives under load: tips a third wider, and no fine ones (common practice; the factor is our own choice). */
const FOR_SOFT: readonly Gauge[] = BUILT_IN_GAUGES.filter(g => g.id !== 'fine').map(g => ({ ...g, tipDiameterMm: round(g.tipDiameterMm * WIDER), kneeDiameterMm: round(g.kneeDiameterMm * 1.15), shaftFootDiameterMm: round(g.shaftFootDiameterMm * 1.15), modelFootDiameterMm: round(g.modelFootDiameterMm * WIDER), longestMm: round(g.longestMm * 0.7) }))

export const BUILT_IN_RESINS: readonly Resin[] = [
  GREY,
  // light goes farther in what is clear: gaps have to be wider to stay open
  { ...GREY, name: 'Clear', webMm: 0.8, exposureS: 2, guesses: [...ALL] },
  // gives under load: wants larger tips and more of them
  { ...GREY, name: 'Soft, flexible', greenStrengthNMm2: 3, greenModulusNMm2: 60, exposureS: 3.5, webMm: 0.6, guesses: [...ALL], gauges: [...FOR_SOFT] },
]
export const DEFAULT_RESIN = BUILT_IN_RESINS[0]

/** The least and the most that a value of a resin can be. */
export function resinLimits(name: ResinValue): readonly [number, number] {
  const known = ResinSchema.shape[name], { minValue, maxValue } = (known instanceof z.ZodDefault ? known.unwrap() : known) as z.ZodNumber
  return [Math.max(0, minValue ?? 0), maxValue ?? Infinity]
}
