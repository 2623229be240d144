import { AS_MADE, DEFAULT_LAYER_MM, DEFAULT_PRINTER, DEFAULT_RESIN, DEFAULT_SETTINGS, NO_RAFT, PLAIN_PRINT, type Copy, type Job, type MeshSummary, type Part, type PlanNode } from '../contract'
import { gaugeOf, sizesOf, type StiltShape } from '../stilts'

export const SUMMARY: MeshSummary = { triangles: 12, unclosedEdges: 0, zippedEdges: 0, cappedLoops: 0, flippedFaces: 0, manyFacedEdges: 0, slivers: 0, crossingPairs: null, duplicateTriangles: 0, degenerateTriangles: 0, shells: 1, turnedShells: 0, cavities: 0, solidsWithin: 0, sheets: 0, tooDamaged: false, volumeMm3: 1, sizeMm: [1, 1, 1], looksStanding: true }

export function partRow(id = 'part', more: Partial<Part> = {}): Part {
  return { id, name: `A ${id}`, poseSettled: true, recipe: AS_MADE, sizeSettled: false, pose: { tiltXDeg: 0, tiltYDeg: 0, liftMm: 5 }, raft: NO_RAFT, plannedBy: null, source: { fileHash: null, fileName: `${id}.stl`, format: 'stl', object: 0, statedUnitMm: null, notes: [], meshHash: 'a'.repeat(64), plainHash: null, faultsHash: null, prepareVersion: 1, summary: SUMMARY }, ...more }
}

export function copyRow(id = 'copy', part = 'part', more: Partial<Copy> = {}): Copy {
  return { id, part, xPixels: 0, yPixels: 0, turnDeg: 0, ...more }
}

/** A job of one part and one copy of it. */
export function jobRow(id = 'job', more: Partial<Job> = {}): Job {
  return {
    id, name: id, revision: 0, printer: DEFAULT_PRINTER, resin: DEFAULT_RESIN, layerMm: DEFAULT_LAYER_MM, settings: DEFAULT_SETTINGS, printing: PLAIN_PRINT,
    parts: [partRow()], copies: [copyRow()], nodes: [], beams: [], waivers: [], marks: [], gauges: [], spreads: [], checkWaivers: [], proofs: [], batches: [], ...more,
  }
}

/** A node that stands alone, told by a number. */
export function kneeRow(n: number, x = n, part = 'part'): PlanNode {
  return { id: `${String(n).padStart(6, '0')}.knee`, part, kind: 'knee', at: [x, 0, 5], pinned: false }
}

/** A light stilt, upright at x, from a height of 4 mm. */
export function uprightShape(x: number, more: Partial<StiltShape> = {}): StiltShape {
  return { gauge: 'light', role: 'detail', sizes: sizesOf(gaugeOf('light')), own: {}, anchor: { point: [x, 0, 4], normal: [0, 0, -1] }, foot: 'plate', footPinned: false, path: [[x, 0, 4], [x, 0, 1.5], [x, 0, 0]], ...more }
}
