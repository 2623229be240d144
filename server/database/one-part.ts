import { sql, type Transaction } from 'kysely'
import { NO_RAFT, type OlderBeam, type OlderNode, type OlderPose } from '@oak-stilts/core/contract'
import { radians, type Vec3 } from '@oak-stilts/core/mesh'
import { inverseOf, motionOfPose, movePoint, standOf } from '@oak-stilts/core/pose'
import { rowsOfOlder } from '@oak-stilts/core/stilts'
import type { MeshReader } from './migrations'
import type { Tables } from './tables'

interface OlderJob {
  readonly id: string
  readonly name: string
  readonly mesh_hash: string
  readonly mesh_summary: string
  readonly printer: string
  readonly pose: string
  readonly pose_settled: number
}
interface OlderPrinter {
  readonly name: string
  readonly widthMm: number
  readonly depthMm: number
  readonly heightMm: number
  readonly pixelMm: number
  readonly layerMm: number
}

/** The values of the resin that went unnamed before, as they were when this step was made. */
const RESIN = {
  name: 'Grey, standard', densityGMl: 1.1, pricePerKg: 30, exposureS: 2.5, bottomExposureS: 28, bottomLayers: 5, transitionLayers: 5, restS: 1,
  travelMm: 6, travelUpMmMin: 60, travelDownMmMin: 150, releaseStressNMm2: 0.02, plungeStressNMm2: 0.01, cupVacuumNMm2: 0.03, bottomReleaseFactor: 2,
  greenStrengthNMm2: 8, greenModulusNMm2: 400, margin: 2, webMm: 0.5, ventMm: 1, wallMm: 2, holeMm: 2.5, holes: 2, shrinkagePercent: 0,
}
const ROWS_AT_ONCE = 5000

/**
 * From jobs of one part to jobs of several: a job's mesh and pose become a part and one copy of it. The turn about z goes to the copy,
 * and nodes go back by it into the stand of the part; so the part stands where it stood, to a pixel.
 */
export async function toParts(db: Transaction<Tables>, meshes: MeshReader): Promise<void> {
  const jobs = (await sql<OlderJob>`SELECT * FROM jobs`.execute(db)).rows
  await sql`CREATE TABLE rows (
    job_id TEXT NOT NULL REFERENCES jobs(id) ON DELETE CASCADE, kind TEXT NOT NULL, id TEXT NOT NULL, data TEXT NOT NULL, PRIMARY KEY (job_id, kind, id)) STRICT, WITHOUT ROWID`.execute(db)
  await sql`CREATE INDEX rows_tips ON rows (job_id) WHERE kind = 'nodes' AND json_extract(data, '$.kind') = 'tip'`.execute(db)
  await sql`CREATE INDEX rows_from ON rows (job_id, json_extract(data, '$.from')) WHERE kind = 'beams'`.execute(db)
  await sql`CREATE INDEX rows_to ON rows (job_id, json_extract(data, '$.to')) WHERE kind = 'beams'`.execute(db)
  await sql`CREATE TABLE sources (
    job_id TEXT NOT NULL REFERENCES jobs(id) ON DELETE CASCADE, mesh_hash TEXT NOT NULL, file_hash TEXT, PRIMARY KEY (job_id, mesh_hash)) STRICT`.execute(db)
  await sql`CREATE TABLE edits (
    job_id TEXT NOT NULL REFERENCES jobs(id) ON DELETE CASCADE, number INTEGER NOT NULL, step TEXT NOT NULL, way TEXT NOT NULL, change TEXT, inverse TEXT, bytes INTEGER NOT NULL,
    PRIMARY KEY (job_id, number)) STRICT`.execute(db)
  await sql`CREATE INDEX edits_step ON edits (job_id, step)`.execute(db)
  await sql`CREATE TABLE kit (id TEXT PRIMARY KEY, data TEXT NOT NULL) STRICT`.execute(db)
  await sql`ALTER TABLE jobs ADD COLUMN resin TEXT`.execute(db)
  await sql`ALTER TABLE jobs ADD COLUMN layer_mm REAL`.execute(db)
  for (const job of jobs) await move(db, job, meshes)
  for (const table of ['plan_nodes', 'plan_beams', 'waivers']) await sql`DROP TABLE ${sql.table(table)}`.execute(db)
  for (const column of ['mesh_hash', 'mesh_summary', 'pose', 'pose_settled']) await sql`ALTER TABLE jobs DROP COLUMN ${sql.ref(column)}`.execute(db)
}

async function move(db: Transaction<Tables>, job: OlderJob, meshes: MeshReader): Promise<void> {
  const read = async <T>(table: string): Promise<T[]> => (await sql<{ data: string }>`SELECT data FROM ${sql.table(table)} WHERE job_id = ${job.id} ORDER BY rowid`.execute(db)).rows.map(r => JSON.parse(r.data) as T)
  const put = async (kind: string, rows: readonly { readonly id: string }[]): Promise<void> => {
    for (let i = 0; i < rows.length; i += ROWS_AT_ONCE) {
      await sql`INSERT INTO rows (job_id, kind, id, data) SELECT ${job.id}, ${kind}, json_extract(value, '$.id'), value FROM json_each(${JSON.stringify(rows.slice(i, i + ROWS_AT_ONCE))})`.execute(db)
    }
  }
  const pose = JSON.parse(job.pose) as OlderPose, printer = JSON.parse(job.printer) as OlderPrinter, { pixelMm } = printer
  // older than any that is made from now on
  const part = '0-part', name = plain(job.name)
  const turned = pose.turnDeg === 0 ? null : turnBack(pose, pixelMm, meshes(job.mesh_hash))
  const plan = rowsOfOlder(await read<OlderNode>('plan_nodes'), await read<OlderBeam>('plan_beams'), { part, pose, toStand: turned?.toStand ?? (at => at) })
  await put('parts', [{
    id: part, name, poseSettled: job.pose_settled === 1, pose: { tiltXDeg: pose.tiltXDeg, tiltYDeg: pose.tiltYDeg, liftMm: pose.liftMm }, raft: NO_RAFT,
    source: { fileHash: null, fileName: `${name}.stl`, format: 'stl', meshHash: job.mesh_hash, prepareVersion: 1, summary: { zippedEdges: 0, ...(JSON.parse(job.mesh_summary) as object) } },
  } as { id: string }])
  await put('copies', [{ id: '0-copy', part, xPixels: turned?.xPixels ?? 0, yPixels: turned?.yPixels ?? 0, turnDeg: pose.turnDeg } as { id: string }])
  await put('nodes', plan.nodes)
  await put('beams', plan.beams)
  await put('waivers', (await read<{ id: string }>('waivers')).map(w => ({ ...w, part })))
  await sql`INSERT INTO sources VALUES (${job.id}, ${job.mesh_hash}, NULL)`.execute(db)
  // a plate is whole pixels: one that was not loses less than a pixel at its edge
  const pixelsX = Math.floor(printer.widthMm / pixelMm + 1e-6), pixelsY = Math.floor(printer.depthMm / pixelMm + 1e-6)
  const whole = (pixels: number): number => Math.round(pixels * pixelMm * 1e6) / 1e6
  const fresh = { name: printer.name, widthMm: whole(pixelsX), depthMm: whole(pixelsY), heightMm: printer.heightMm, pixelsX, pixelsY, layersMm: [...new Set([0.025, printer.layerMm, 0.1])].sort((a, b) => a - b) }
  const resin = { ...RESIN, guesses: Object.keys(RESIN).filter(key => key !== 'name') }
  await sql`UPDATE jobs SET name = ${name}, printer = ${JSON.stringify(fresh)}, resin = ${JSON.stringify(resin)}, layer_mm = ${printer.layerMm} WHERE id = ${job.id}`.execute(db)
}

/** The way from build coordinates, turn included, into the stand of the part, and where its copy then has to stand. */
function turnBack(pose: OlderPose, pixelMm: number, positions: Float32Array | null): { toStand(at: Vec3): Vec3; xPixels: number; yPixels: number } {
  const a = radians(pose.turnDeg), c = Math.cos(a), s = Math.sin(a)
  // without its mesh nobody knows where a part was centred; it is then about the middle
  if (!positions) return { toStand: ([x, y, z]) => [c * x + s * y, c * y - s * x, z], xPixels: 0, yPixels: 0 }
  const before = motionOfPose(positions, pose, pixelMm), back = inverseOf(before), stand = standOf(positions, pose, pixelMm)
  return {
    toStand: at => movePoint(stand, movePoint(back, at)),
    xPixels: Math.round((before[3] - (c * stand[3] - s * stand[7])) / pixelMm) || 0,
    yPixels: Math.round((before[7] - (s * stand[3] + c * stand[7])) / pixelMm) || 0,
  }
}

/** A name without what no name may have. */
function plain(name: string): string {
  // eslint-disable-next-line no-control-regex
  return name.replace(/[\u0000-\u001f\u007f]|\p{Surrogate}/gu, ' ').trim().slice(0, 120).trim() || 'Model'
}
