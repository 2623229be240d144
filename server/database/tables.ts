/** Rows of the database. JSON columns hold what the contract describes. */
export interface Tables {
  jobs: {
    id: string
    name: string
    revision: number
    printer: string
    resin: string
    layer_mm: number
    /** Null for the defaults. */
    settings: string | null
    printing: string | null
    picture_version: string | null
    created_at: string
    updated_at: string
    /** 1 for what was put away. */
    archived: number
    /** When it was deleted; it can be brought back for a while. */
    deleted_at: string | null
  }
  /** Rows of jobs of every kind that the contract has a table for; `kind` is the name of that table. */
  rows: { job_id: string; kind: string; id: string; data: string }
  /** Everything that parts of a job ever came from, so that undo finds it. */
  sources: { job_id: string; mesh_hash: string; file_hash: string | null; plain_hash: string | null; faults_hash: string | null }
  /** Edits in the order in which they were applied. What an edit changed, and what takes it back, stands with the one that did the step. */
  edits: { job_id: string; number: number; step: string; way: string; change: string | null; inverse: string | null; bytes: number }
  /** Batches that were applied last; what they held as a hash, null where it was not noted. */
  batches: { job_id: string; batch: string; hash: string | null; revision: number }
  /** The print log; its rows stay when a job goes. */
  prints: { id: string; job_id: string | null; at: string; data: string }
  /** Named states of a job: its fields and rows as JSON. */
  versions: { job_id: string; id: string; name: string; created_at: string; content: string }
  /** The person's own printers and resins. */
  kit: { id: string; data: string }
  flags: { name: string; value: string }
}
