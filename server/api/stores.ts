import type { BlobStore } from '../store/blobs'
import type { JobStore } from '../store/jobs'
import type { KitStore } from '../store/kit'
import type { PrintStore } from '../store/prints'

/** Where jobs and meshes are kept. */
export interface Stores {
  readonly jobs: JobStore
  readonly kit: KitStore
  readonly prints: PrintStore
  readonly blobs: BlobStore
  /** A folder for uploads under way. */
  readonly uploads: string
}
