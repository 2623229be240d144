import { z } from 'zod'
import { ChangeSchema, type Edit } from './edit'
import { IdSchema } from './primitives'

/** One step that can be taken back or done again. */
export const StepSchema = z.object({ step: IdSchema, change: ChangeSchema, inverse: ChangeSchema })
export type Step = z.infer<typeof StepSchema>

/** The steps of a job that undo and redo go through, each list oldest first; those that take too much room are left out at its beginning. */
export const HistorySchema = z.object({ done: z.array(StepSchema), undone: z.array(StepSchema) })
export type History = z.infer<typeof HistorySchema>

/** Takes one more entry of the log: what is done, what is undone, as names of steps, both changed in place. */
export function follow(done: string[], undone: string[], { step, way }: Pick<Edit, 'step' | 'way'>): void {
  if (way === 'note') return
  if (way === 'do') {
    done.push(step)
    undone.length = 0
    return
  }
  const [from, to] = way === 'undo' ? [done, undone] : [undone, done]
  const at = from.lastIndexOf(step)
  // its beginning may have been forgotten
  if (at < 0) return
  from.splice(at, 1)
  to.push(step)
}
