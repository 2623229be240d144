/** Rows of the database. JSON columns hold what the contract describes. */
export interface Tables {
  jobs: {
    id: string
    name: string
    revision: number
    mesh_hash: string
    mesh_summary: string
    printer: string
    pose: string
    pose_settled: number
    picture_version: string | null
    /** Null for the defaults. */
    settings: string | null
    created_at: string
    updated_at: string
  }
  plan_nodes: { job_id: string; id: string; data: string }
  plan_beams: { job_id: string; id: string; data: string }
  /** Batches that were applied last; what they held as a hash, null where it was not noted. */
  batches: { job_id: string; batch: string; hash: string | null; revision: number }
  waivers: { job_id: string; id: string; data: string }
  marks: { name: string; value: string }
}
