import { z } from 'zod'
import { count, finite, HashSchema, NameSchema, positive } from './primitives'
import { PrinterSchema } from './printer'

/** What a printer is doing. `interrupted`: the power went while it printed; it can go on or be stopped. */
export const PrinterDoingSchema = z.enum(['idle', 'ready', 'printing', 'paused', 'interrupted', 'stopped', 'failed', 'done'])
export type PrinterDoing = z.infer<typeof PrinterDoingSchema>

/** Faults that a simulated printer can be made to have. */
export const PrinterFaultsSchema = z.object({
  /** Nothing more goes into its memory. */
  fullMemory: z.boolean(),
  /** The next piece that it is sent breaks off halfway. */
  dropConnection: z.boolean(),
  /** What is printed stays on the film from this layer on, counted from 0; null for never. */
  filmSticksFrom: count.nullable(),
})
export type PrinterFaults = z.infer<typeof PrinterFaultsSchema>
export const NO_FAULTS: PrinterFaults = { fullMemory: false, dropConnection: false, filmSticksFrom: null }

/** A printer as it tells of itself. Layers are counted from 0; volumes in ml, times in s. */
export const PrinterStateSchema = z.object({
  /** Names it among all that are found. */
  id: z.string().min(1).max(80),
  printer: PrinterSchema,
  /** Whether it is simulated: it prints nothing, and its time runs faster. */
  simulated: z.boolean(),
  speed: positive,
  doing: PrinterDoingSchema,
  /** Why it is not printing, where there is something to say. */
  says: z.string().max(300),
  vatMl: finite.nonnegative(),
  /** The package in its memory. */
  loaded: z.object({ name: NameSchema, sha256: HashSchema, bytes: count, layers: count, job: z.object({ id: z.string(), state: z.string() }).nullable() }).nullable(),
  /** How far the print has come; null before there is one. */
  run: z.object({ layer: count, layers: count, secondsLeft: finite.nonnegative(), resinUsedMl: finite.nonnegative() }).nullable(),
  faults: PrinterFaultsSchema,
})
export type PrinterState = z.infer<typeof PrinterStateSchema>

/** A package that is being sent in pieces: how much of it has arrived. */
export const UploadSchema = z.object({ id: z.string().min(1).max(80), bytes: count, offset: count })
export type Upload = z.infer<typeof UploadSchema>
export const NewUploadSchema = z.object({ name: NameSchema, bytes: count.min(1), sha256: HashSchema })
export type NewUpload = z.infer<typeof NewUploadSchema>

/** What a printer can be asked to do. */
export const PrinterOrderSchema = z.object({ order: z.enum(['start', 'pause', 'resume', 'stop', 'refill', 'forget']) })
export type PrinterOrder = z.infer<typeof PrinterOrderSchema>['order']
/** What is done to a simulated printer from outside: its power, its faults, how fast its time runs, what is left in its vat. */
export const SimulationSchema = z.object({ power: z.boolean(), faults: PrinterFaultsSchema.partial(), speed: positive.max(100000), vatMl: finite.nonnegative().max(10000) }).partial()
export type Simulation = z.infer<typeof SimulationSchema>
