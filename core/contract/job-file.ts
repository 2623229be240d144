import { z } from 'zod'
import { STORED_FIELDS } from './edit'
import { ROW_LISTS } from './job'
import { HashSchema } from './primitives'

export const JOB_FILE_FORMAT = 'oak-stilts-job'
/** How the package of a job relates to what it holds of one. */
export const JOB_RELATION = 'urn:oak-stilts:job'

/**
 * A whole job, as it lies in a 3MF package beside the meshes that any reader shows. Rows are as in a job: lengths in mm, angles in
 * degrees, anchors in the coordinates of the source, marks by the triangles of the file that a part comes from, nodes in its stand.
 */
export const JobFileSchema = z.object({
  format: z.literal(JOB_FILE_FORMAT),
  version: z.literal(1),
  ...STORED_FIELDS,
  ...ROW_LISTS,
  /** The files that its parts come from, by hash (SHA-256), and where in the package each lies, as it was brought in. */
  files: z.array(z.object({ hash: HashSchema, path: z.string().min(1).max(300) })),
})
export type JobFile = z.infer<typeof JobFileSchema>
