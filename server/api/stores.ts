import type { BlobStore } from '../store/blobs'
import type { JobStore } from '../store/jobs'
import type { KitStore } from '../store/kit'

/** Where jobs and meshes are kept. */
export interface Stores {
  readonly jobs: JobStore
  readonly kit: KitStore
  readonly blobs: BlobStore
  /** A folder for uploads under way. */
  readonly uploads: string
}
