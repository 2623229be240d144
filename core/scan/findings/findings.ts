import type { Cup, FloatingStilt, Island, IslandClass, Pool } from '../../contract'
import type { Vec3 } from '../../mesh'
import type { LoneComponent } from '../graph/columns'
import type { LayerGraph } from '../graph/layer-graph'
import type { Raster } from '../raster/body'
import { joinLedges } from '../reach/join-ledges'
import { DEFAULT_LOADS, type Loads, type ScanSettings } from '../settings'
import { classOfIsland } from '../sweeps/classes'
import { groundedWhenLaid, NEVER, type Grounded } from '../sweeps/grounding'
import type { CupRecord, Suction } from '../sweeps/suction'
import { belonging, freshPixels, type Belonging } from './belonging'
import { ledgesOf } from './ledge-findings'
import type { Evidence, Hangs } from './types'

/** Layers that a flake may take to join and still be only noted. */
const NOTED_WITHIN_LAYERS = 3

const RANK: Record<IslandClass, number> = { body: 0, limb: 1, detail: 2, flake: 3 }

/** Islands worst first, stilts that begin in the air, ledges by what hangs. Every pixel that hangs is in one of them or folded. */
export function findHanging(e: Evidence): Hangs {
  const grounded = e.whole?.grounded?.components.length === e.graph.solidPixels.length ? e.whole.grounded : groundedWhenLaid(e.graph)
  const stands = new Uint8Array(e.own.solidPixels.length)
  for (let k = 0; k < e.own.layerCount; k++) for (let c = e.own.solidStarts[k]; c < e.own.solidStarts[k + 1]; c++) stands[c] = grounded.components[holderOf(e, c, k)]
  const belongs = belonging(e, joinLedges(e.reach), stands)
  const { islands, flakesMm2, restMm2: restOfIslands } = islandsOf(e, stands, belongs)
  const ledges = ledgesOf(e, belongs)
  const a = e.raster.pixelMm ** 2
  const restMm2 = restOfIslands + belongs.raggedPixels * a + ledges.reduce((sum, l) => sum + (l.state === 'held' ? l.hangingMm2 : 0), 0)
  const holders = new Set(e.tree.islands.map(i => holderOf(e, i.component, i.firstLayer)))
  return {
    islands, ledges, grounded, floating: floatingOf(e, grounded, holders),
    folded: { flakesMm2, smallPlaces: belongs.small.places, smallMm2: belongs.small.pixels * a, restMm2 },
    hangingMm2: belongs.byLayer.map(p => p * a),
  }
}

/** The component of model and supports, through all layers, that holds one of the model in its first layer. */
function holderOf({ own, graph, whole }: Evidence, component: number, layer: number): number {
  const within = component - own.solidStarts[layer]
  return graph.solidStarts[layer] + (whole ? whole.holderOf(layer, within) : within)
}

/** Pixels that every island lays before it joins. */
function laidByIsland(e: Evidence): Float64Array {
  const laid = new Float64Array(e.tree.islands.length), fresh = freshPixels(e)
  for (let c = 0; c < fresh.length; c++) if (e.tree.islandOf[c] >= 0) laid[e.tree.islandOf[c]] += fresh[c]
  return laid
}

function islandsOf(e: Evidence, stands: Uint8Array, { islands: hangs }: Belonging): { islands: Island[]; flakesMm2: number; restMm2: number } {
  const { raster, own, tree, settings } = e
  const { pixelMm, layerMm } = raster
  const pixelArea = pixelMm * pixelMm, voxel = pixelArea * layerMm
  const laid = laidByIsland(e)
  let flakesMm2 = 0, restMm2 = 0
  const islands = tree.islands.map((record, id): Island => {
    const c = record.component
    const area = own.solidPixels[c]
    const largestAreaMm2 = record.largestPixels * pixelArea, volumeMm3 = record.volumePixels * voxel
    const kind = classOfIsland(id === tree.body, largestAreaMm2, volumeMm3, settings)
    const held = stands[c] === 1
    const noted = !held && kind === 'flake' && (record.joinsLayer >= 0 ? record.joinsLayer - record.firstLayer <= NOTED_WITHIN_LAYERS : e.grazing.has(id))
    const over = hangs.get(id)
    const hangingMm2 = (over?.pixels ?? 0) * pixelArea
    const state = noted ? 'noted' : !held ? 'open' : hangingMm2 > settings.flakeAreaMm2 ? 'partly' : 'held'
    if (state === 'noted') flakesMm2 += hangingMm2
    if (state === 'held') restMm2 += hangingMm2
    const zMm = (record.firstLayer + 0.5) * layerMm
    return {
      id, layer: record.firstLayer, zMm, areaMm2: area * pixelArea,
      center: [(own.solidSumX[c] / area + 0.5) * pixelMm, (own.solidSumY[c] / area + 0.5) * pixelMm, zMm],
      aim: e.aims[id],
      joinsLayer: record.joinsLayer < 0 ? null : record.joinsLayer,
      volumeMm3, largestAreaMm2, class: kind, state,
      heldShare: held ? Math.max(0, 1 - (over?.pixels ?? 0) / Math.max(1, laid[id])) : 0,
      hangingMm2, hanging: held && over ? over.labels : [], component: c,
    }
  })
  return { islands: islands.sort((a, b) => RANK[a.class] - RANK[b.class] || b.volumeMm3 - a.volumeMm3 || a.id - b.id), flakesMm2, restMm2 }
}

function floatingOf(e: Evidence, grounded: Grounded, islandHolders: ReadonlySet<number>): FloatingStilt[] {
  const { graph, raster, settings } = e, { columns } = graph
  const { pixelMm, layerMm } = raster
  const floating: FloatingStilt[] = []
  if (!e.whole || e.whole.sections.length === 0) return floating
  /** Takes what begins in a layer with stilt pixels alone, but for a flake that joins at once. */
  const take = (k: number, { pixels, sumX, sumY }: Pick<LoneComponent, 'pixels' | 'sumX' | 'sumY'>, component: number, column: number): void => {
    if (pixels * pixelMm * pixelMm <= settings.flakeAreaMm2 && joinsGroundedWithin(graph, grounded, component, column, k, NOTED_WITHIN_LAYERS)) return
    floating.push({ layer: k, center: [(sumX / pixels + 0.5) * pixelMm, (sumY / pixels + 0.5) * pixelMm, (k + 0.5) * layerMm] })
  }
  const hasBelow = new Uint8Array(graph.solidPixels.length)
  for (let i = 0; i < graph.solidUpper.length; i++) hasBelow[graph.solidUpper[i]] = 1
  for (let i = 0; i < columns.length; i++) {
    if (columns.above[i] >= 0) hasBelow[columns.above[i]] = 1
    if (columns.first[i] > 0 && columns.below[i] < 0) take(columns.first[i], columns.bottomOf(i), -1, i)
  }
  for (let k = 1; k < graph.layerCount; k++) {
    for (let c = graph.solidStarts[k]; c < graph.solidStarts[k + 1]; c++) {
      // what begins here with an island of the model in it is that island's matter
      if (!hasBelow[c] && !islandHolders.has(c)) take(k, { pixels: graph.solidPixels[c], sumX: graph.solidSumX[c], sumY: graph.solidSumY[c] }, c, -1)
    }
  }
  return floating.sort((a, b) => a.layer - b.layer || a.center[1] - b.center[1] || a.center[0] - b.center[0])
}

/** Whether what begins in layer k, with a component or else with a column, meets something grounded within some layers: then it is a flake that joins at once. */
function joinsGroundedWithin(graph: LayerGraph, grounded: Grounded, component: number, column: number, k: number, layers: number): boolean {
  const { columns } = graph
  let reached = new Set(component < 0 ? [] : [component]), upward = new Set(column < 0 ? [] : [column])
  for (let l = k + 1; l <= Math.min(k + layers, graph.layerCount - 1); l++) {
    const next = new Set<number>(), nextUpward = new Set<number>()
    for (let e = graph.solidEdgeStarts[l]; e < graph.solidEdgeStarts[l + 1]; e++) if (reached.has(graph.solidLower[e])) next.add(graph.solidUpper[e])
    for (const i of upward) {
      if (columns.end[i] > l) nextUpward.add(i)
      else if (columns.above[i] >= 0) next.add(columns.above[i])
    }
    for (let i = 0; i < columns.length; i++) if (columns.first[i] === l && reached.has(columns.below[i])) nextUpward.add(i)
    for (const c of next) if (grounded.components[c]) return true
    for (const i of nextUpward) if (grounded.columns[i] !== NEVER && grounded.columns[i] <= l) return true
    reached = next
    upward = nextUpward
  }
  return false
}

/** The cups worth listing, largest first, and how many are not. */
export function cupsOf(suction: Suction, graph: LayerGraph, own: LayerGraph, raster: Raster, settings: ScanSettings, loads: Loads = DEFAULT_LOADS): { cups: Cup[]; small: number } {
  const { pixelMm, layerMm } = raster
  const pixelArea = pixelMm * pixelMm
  const cups: Cup[] = []
  let small = 0
  suction.cups.forEach((c, id) => {
    if (!worthListing(c, pixelArea, settings)) {
      small++
      return
    }
    const peakAreaMm2 = c.peakPixels * pixelArea
    cups.push({
      id, firstLayer: c.firstLayer, lastLayer: c.lastLayer, peakAreaMm2, peakLayer: c.peakLayer, volumeMm3: c.volumePixels * pixelArea * layerMm, ends: c.ends,
      pullN: peakAreaMm2 * loads.cupVacuumNMm2, at: pointIn(graph, c, raster), bySupports: graph !== own && !enclosedBy(own, graph, c), narrowVent: false, vent: null,
    })
  })
  cups.sort((a, b) => b.volumeMm3 - a.volumeMm3 || a.firstLayer - b.firstLayer || a.at[1] - b.at[1] || a.at[0] - b.at[0])
  return { cups, small }
}

export function worthListing(c: CupRecord, pixelArea: number, settings: ScanSettings): boolean {
  return c.peakPixels * pixelArea >= settings.cupAreaMm2 && c.lastLayer - c.firstLayer + 1 >= settings.cupLayers
}

/** A pixel inside the space in its peak layer, in the middle of its widest gap. */
export function pointIn(graph: LayerGraph, c: CupRecord, { pixelMm, layerMm }: Raster): Vec3 {
  return [(graph.emptyInPixel[c.peakComponent] + 0.5) * pixelMm, (graph.emptyInRow[c.peakComponent] + 0.5) * pixelMm, (c.peakLayer + 0.5) * layerMm]
}

/** Whether the model alone encloses the space in its peak layer, by its box. */
function enclosedBy(own: LayerGraph, graph: LayerGraph, c: CupRecord): boolean {
  const k = c.peakLayer, s = c.peakComponent
  if (k >= own.layerCount) return false
  for (let e = own.emptyStarts[k]; e < own.emptyStarts[k + 1]; e++) {
    if (own.emptyFrom[e] <= graph.emptyFrom[s] && own.emptyTo[e] >= graph.emptyTo[s] && own.emptyRow[e] <= graph.emptyRow[s] && own.emptyRowEnd[e] >= graph.emptyRowEnd[s]) return true
  }
  return false
}

export function poolsOf(records: readonly CupRecord[], graph: LayerGraph, raster: Raster, settings: ScanSettings): Pool[] {
  const pixelArea = raster.pixelMm * raster.pixelMm
  return records.filter(c => worthListing(c, pixelArea, settings)).map((c, id) => ({
    id, firstLayer: c.firstLayer, lastLayer: c.lastLayer, volumeMm3: c.volumePixels * pixelArea * raster.layerMm, peakAreaMm2: c.peakPixels * pixelArea, at: pointIn(graph, c, raster),
  })).sort((a, b) => b.volumeMm3 - a.volumeMm3 || a.firstLayer - b.firstLayer || a.at[1] - b.at[1] || a.at[0] - b.at[0])
}

