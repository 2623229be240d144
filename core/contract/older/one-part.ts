import { z } from 'zod'
import { finite, positive, Vec3Schema } from '../primitives'

/** Plans as they were while a job was one part: a stilt was one path, its nodes in build coordinates, turn included. */
const base = { id: z.string().min(1).max(60), stilt: z.number().int().positive(), at: Vec3Schema }

export const OlderNodeSchema = z.discriminatedUnion('kind', [
  z.object({
    ...base, kind: z.literal('tip'), contact: z.object({ point: Vec3Schema, normal: Vec3Schema }), gauge: z.string(), role: z.enum(['carrier', 'structural', 'detail']),
    diameterMm: positive.max(10), penetrationMm: finite.min(0).max(5), byHand: z.array(z.string().max(40)).max(20),
  }),
  z.object({ ...base, kind: z.literal('knee') }),
  z.object({ ...base, kind: z.literal('joint') }),
  z.object({ ...base, kind: z.literal('foot'), on: z.enum(['plate', 'model', 'none']), diameterMm: positive.max(40), heightMm: positive.max(30), penetrationMm: finite.min(0).max(5).optional() }),
])
export type OlderNode = z.infer<typeof OlderNodeSchema>

export const OlderBeamSchema = z.object({
  id: z.string().min(1).max(60), stilt: z.number().int().positive(), from: z.string(), to: z.string(), fromDiameterMm: positive.max(40), toDiameterMm: positive.max(40),
})
export type OlderBeam = z.infer<typeof OlderBeamSchema>

export const OlderPoseSchema = z.object({
  tiltXDeg: finite.min(-360).max(360), tiltYDeg: finite.min(-360).max(360), turnDeg: finite.min(-360).max(360), liftMm: finite.min(0).max(200),
})
export type OlderPose = z.infer<typeof OlderPoseSchema>
