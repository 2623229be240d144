import { EditSchema, newId, type Change, type JobContent, type OlderBeam, type OlderNode, type OlderPose, type Waiver } from '@oak-stilts/core/contract'
import { rowsOfOlder } from '@oak-stilts/core/stilts'
import type { KeptEdit } from './unsent'

/** An edit from when a job was one part, as a browser may still keep one that was never sent. */
interface OlderEdit {
  readonly label: string
  readonly name?: string
  readonly pose?: OlderPose
  readonly poseSettled?: boolean
  readonly settings?: NonNullable<Change['set']>['settings']
  readonly putNodes?: readonly OlderNode[]
  readonly putBeams?: readonly OlderBeam[]
  readonly putWaivers?: readonly Omit<Waiver, 'part'>[]
  readonly dropNodes?: string[]
  readonly dropBeams?: string[]
  readonly dropWaivers?: string[]
}

/**
 * Kept edits in today's form, put on a job as it was loaded. From the first one on that cannot be read any more, the rest is left;
 * that is so where the part was turned on the plate, since then nobody knows any more where its stilts stood.
 */
export function upgradedEdits(kept: readonly KeptEdit[], { tables }: JobContent): { readonly edits: readonly KeptEdit[]; readonly left: number } {
  const edits: KeptEdit[] = []
  let part = tables.parts.values().next().value, copy = tables.copies.values().next().value
  for (const one of kept) {
    if (typeof (one.edit as { step?: unknown }).step === 'string') {
      // what rows had not yet is what it was before there was a choice
      const today = EditSchema.safeParse(one.edit)
      if (!today.success) break
      edits.push({ batch: one.batch, edit: today.data })
      continue
    }
    const older = one.edit as unknown as OlderEdit
    if (!part || !copy) break
    const turnDeg = older.pose?.turnDeg ?? copy.turnDeg
    if (turnDeg !== 0 && older.putNodes?.length) break
    const { tiltXDeg, tiltYDeg, liftMm } = older.pose ?? part.pose
    const rows = rowsOfOlder(older.putNodes ?? [], older.putBeams ?? [], { part: part.id, pose: { tiltXDeg, tiltYDeg, liftMm, turnDeg }, toStand: at => at })
    const posed = older.pose !== undefined || older.poseSettled !== undefined, turned = turnDeg !== copy.turnDeg
    part = { ...part, pose: { tiltXDeg, tiltYDeg, liftMm }, poseSettled: older.poseSettled ?? part.poseSettled }
    copy = { ...copy, turnDeg }
    edits.push({
      batch: one.batch,
      edit: {
        label: older.label, step: newId(), way: 'do',
        set: { ...(older.name !== undefined && { name: older.name }), ...(older.settings && { settings: older.settings }) },
        put: { ...(posed && { parts: [part] }), ...(turned && { copies: [copy] }), nodes: rows.nodes, beams: rows.beams, waivers: older.putWaivers?.map(w => ({ ...w, part: (part as { id: string }).id })) },
        drop: { nodes: older.dropNodes, beams: older.dropBeams, waivers: older.dropWaivers },
      },
    })
  }
  return { edits, left: kept.length - edits.length }
}
