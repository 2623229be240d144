import type { LayerGraph } from '../graph/layer-graph'
import type { Section } from './support-section'
import type { SharedLayer } from './supported-update'

/** What a piece of a support is for what it touches: it holds; it is as good as what it is connected to; it is connected to nothing yet. */
export const STANDS = 0, LEANS = 1, FLOATS = 2

/** By section, how each of its pieces stands; sections that stand all the way are not in it. */
export type Standing = ReadonlyMap<Section, Uint8Array>

/**
 * How every support stands, layer by layer: `STANDS` where it goes up without a gap from the plate, from something that is grounded
 * there, or from another support that stands; `FLOATS` where it began in the air and nothing that is grounded has met it yet;
 * `LEANS` where only the model connects it to the plate. What began in the air holds nothing by itself: it hangs on what it touches.
 * @param layers layers in which model and supports were looked at together
 */
export function standingOf(sections: readonly Section[], graph: LayerGraph, grounded: Uint8Array, layers: readonly (SharedLayer | null)[]): Standing {
  const out = new Map<Section, Uint8Array>()
  /** Whether a piece is connected to the plate in its layer, by whatever way. */
  const on = new Map<Section, Uint8Array>()
  for (const s of sections) {
    if (s.upright) continue
    const how = new Uint8Array(s.pieces), connected = new Uint8Array(s.pieces)
    let all = true
    for (let k = s.first; k < s.first + s.layers; k++) {
      const [from, to] = s.piecesIn(k)
      const shared = s.entangled(k) ? layers[k] : null
      const several = shared?.ofPieces.get(s.id)
      for (let piece = from; piece < to; piece++) {
        const below = s.below(k, piece)
        const c = several ? several[piece - from] : shared?.ofSection.get(s.id)
        const now = k === 0 || (c !== undefined ? grounded[graph.solidStarts[k] + c] === 1 : below.some(b => connected[b]))
        connected[piece] = now ? 1 : 0
        how[piece] = !now ? FLOATS : below.length === 0 || below.some(b => how[b] === STANDS) ? STANDS : LEANS
        if (how[piece] !== STANDS) all = false
      }
    }
    if (all) continue
    out.set(s, how)
    on.set(s, connected)
  }
  if (out.size > 0) promote(sections, out, on)
  return out
}

/** What began in the air and meets a support that stands is a branch of it, and stands from there on. */
function promote(sections: readonly Section[], standing: Map<Section, Uint8Array>, on: ReadonlyMap<Section, Uint8Array>): void {
  const odd = [...standing.keys()], near = new Map<Section, Section[]>()
  const nearTo = (s: Section): Section[] => {
    let list = near.get(s)
    if (!list) near.set(s, (list = sections.filter(t => t !== s && t.near(s))))
    return list
  }
  const end = odd.reduce((n, s) => Math.max(n, s.first + s.layers), 0)
  for (let k = odd.reduce((n, s) => Math.min(n, s.first), end); k < end; k++) {
    for (let changed = true; changed;) {
      changed = false
      for (const s of odd) {
        const how = standing.get(s) as Uint8Array, connected = on.get(s) as Uint8Array
        const [from, to] = s.piecesIn(k)
        for (let piece = from; piece < to; piece++) {
          if (how[piece] === STANDS || !connected[piece]) continue
          if (!s.below(k, piece).some(b => how[b] === STANDS) && !nearTo(s).some(t => meetsStanding(s, piece, t, k, standing.get(t)))) continue
          how[piece] = STANDS
          changed = true
        }
      }
    }
  }
}

/** Whether a piece of layer k touches a piece of another section that stands, in that layer or right below. */
function meetsStanding(s: Section, piece: number, t: Section, k: number, how: Uint8Array | undefined): boolean {
  const dx = t.body.origin[0] - s.body.origin[0], dy = t.body.origin[1] - s.body.origin[1]
  const a = s.runs(k)
  for (const m of [k, k - 1]) {
    if (!t.has(m)) continue
    const b = t.runs(m)
    for (let i = 0; i < a.length; i += 3) {
      if (s.pieceOfRun(k, i) !== piece) continue
      for (let j = 0; j < b.length; j += 3) {
        const rows = Math.abs(b[j] + dy - a[i])
        if (rows > (m === k ? 1 : 0)) continue
        // side by side in a row of the same layer is enough; else they share a pixel's column
        const gap = Math.max(b[j + 1] + dx - a[i + 2], a[i + 1] - b[j + 2] - dx)
        if ((m === k && rows === 0 ? gap <= 0 : gap < 0) && (how?.[t.pieceOfRun(m, j)] ?? STANDS) === STANDS) return true
      }
    }
  }
  return false
}

/** Layers, first and one past the last, in which a support meets the model and stands otherwise than before. */
export function changeOfStanding(before: Standing, now: Standing): readonly [number, number] {
  let from = Infinity, to = 0
  for (const s of new Set([...before.keys(), ...now.keys()])) {
    const a = before.get(s), b = now.get(s)
    for (let k = s.first; k < s.first + s.layers; k++) {
      if (!s.meetsModel(k)) continue
      const [first, end] = s.piecesIn(k)
      for (let piece = first; piece < end; piece++) {
        if ((a?.[piece] ?? STANDS) === (b?.[piece] ?? STANDS)) continue
        from = Math.min(from, k)
        to = Math.max(to, k + 1)
      }
    }
  }
  return [from, to]
}
