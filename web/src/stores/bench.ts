import { useStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, reactive, ref, shallowRef } from 'vue'
import type { Role, StiltVerdict, Worth } from '@oak-stilts/core/contract'
import type { PlateCheck, PlateScanResult } from '@oak-stilts/core/plate'
import { inverseOf, NO_SHIFT, movePoint, plateOf, shapeOf, shiftOf, toSource, type PlateShift, type Pose, type Stand } from '@oak-stilts/core/pose'
import type { FirstLook, ScanResult, Signals } from '@oak-stilts/core/scan'
import { NO_FILTER, NO_OPENINGS, OPEN_ONLY, passes, troublesOf, worklistOf, type Filter, type NearPairs, type OpeningTroubles, type Row } from '../findings'
import { CARRIES_FROM_MM } from '@oak-stilts/core/stilts'
import { useJobStore } from './job'
import type { FaultKind } from '@oak-stilts/core/mesh'
import type { StepId } from '../part/steps'
import type { FaceBy } from '../workers/spread-work'
import type { MarkBy } from '../workers/surface.worker'

/** Tools that spread many stilts at once. */
export const SPREAD_TOOLS = ['line', 'edge', 'face', 'strokes'] as const
export type SpreadTool = (typeof SPREAD_TOOLS)[number]
/** Place and what spreads belong to Hold; Lay down, Square up and Mark to Pose; Pick takes faces for a plan. */
export type Tool = 'select' | 'place' | 'stick' | 'branch' | 'brace' | 'box' | 'lasso' | 'bed' | SpreadTool | 'lay' | 'square' | 'mark' | 'pick' | 'drill' | 'cut-points' | 'cut-pegs'
export function isSpreadTool(tool: Tool): tool is SpreadTool {
  return (SPREAD_TOOLS as readonly Tool[]).includes(tool)
}
/** How the next stilts are spread. */
export interface SpreadSettings {
  /** Null where the gauge says it, mm. */
  spacingMm: number | null
  /** Whether a distance is kept to tips that stand already. */
  keep: boolean
  by: FaceBy
  pattern: 'hexagonal' | 'square'
  marginMm: number
  /** What the pressure of a pen sets. */
  pressure: 'nothing' | 'spacing' | 'gauge'
  /** A spread that is drawn anew: its id. */
  anew: string | null
}
/** The bed of pegs that is dropped next: which one, how rows of it are made, and where it lies in the stand. */
export interface BedSettings {
  /** Rows under the whole part, or a bed of the workshop by its id. */
  source: string
  spacingMm: number
  pattern: 'hexagonal' | 'square'
  topMm: number
  footMm: number
  xMm: number
  yMm: number
  turnDeg: number
  /** A bed that stands and is moved: the id of its spread. */
  anew: string | null
}
export type ScanState = 'none' | 'scanning' | 'fresh' | 'cancelled' | 'failed'
/** What is hidden around the playhead. */
export type Cut = 'none' | 'above' | 'below' | 'slab'

/** How a part of the picture is drawn. */
export type Look = 'shown' | 'faint' | 'hidden'
export type ShownPart = 'part' | 'tips' | 'shafts' | 'feet' | 'findings'
export const SHOWN_PARTS: readonly { readonly id: ShownPart; readonly name: string }[] = [
  { id: 'part', name: 'Part' }, { id: 'tips', name: 'Tips' }, { id: 'shafts', name: 'Shafts' }, { id: 'feet', name: 'Feet' }, { id: 'findings', name: 'Findings' },
]
const NO_PAIRS: NearPairs = { pairs: [], more: 0 }
const ALL_SHOWN: Readonly<Record<ShownPart, Look>> = { part: 'shown', tips: 'shown', shafts: 'shown', feet: 'shown', findings: 'shown' }

/** Thickness of the slab that a cut may leave, mm. */
export const SLAB_MM = 1.5

/** A lane of the layer track that shows one signal. */
export interface Lane {
  readonly id: 'areaMm2' | 'newMm2' | 'hangingMm2' | 'pieces' | 'enclosedMm2' | 'peelN' | 'offCenterMm'
  readonly name: string
  readonly unit: string
  readonly explains: string
}
export const LANES: readonly Lane[] = [
  { id: 'areaMm2', name: 'area', unit: 'mm²', explains: 'Solid area of the layer, model and stilts' },
  { id: 'peelN', name: 'peel', unit: 'N', explains: 'Estimated load when the layer leaves the film: its area, and the vacuum of cups' },
  { id: 'newMm2', name: 'new', unit: 'mm²', explains: 'Area with nothing under it in the layer below' },
  { id: 'hangingMm2', name: 'hanging', unit: 'mm²', explains: 'New area out of reach of what is held' },
  { id: 'pieces', name: 'pieces', unit: '', explains: 'Separate pieces of the layer' },
  { id: 'enclosedMm2', name: 'enclosed', unit: 'mm²', explains: 'Empty area that the layer encloses' },
  { id: 'offCenterMm', name: 'off centre', unit: 'mm', explains: 'Centre of the layer against the centre of what stands on the plate' },
]
export function laneValues(signals: Signals, lane: Lane): ArrayLike<number> {
  return signals[lane.id]
}

const WHOLE: readonly [number, number] = [-Infinity, Infinity]

/** What the bench shows: the last scan, the playhead, the selection, the tool. Nothing of it is stored. */
export const useBenchStore = defineStore('bench', () => {
  const job = useJobStore()
  const result = shallowRef<ScanResult | null>(null)
  const firstLook = shallowRef<FirstLook | null>(null)
  const stand = shallowRef<Stand | null>(null)
  /** The step of the part that is chosen in Part. */
  const step = ref<StepId>('scale')
  /** What the next mark makes of faces, how it takes them, and how wide the brush is, mm. */
  const worth = ref<Worth>('prized')
  const markBy = ref<MarkBy>('patch')
  const brushMm = ref(2)
  /** Whether marks are shown outside Pose, too. */
  const marksShown = ref(false)
  /** The kind of fault of the mesh that is looked at there. */
  const fault = ref<FaultKind | null>(null)
  const scanState = ref<ScanState>('none')
  /** Why the last scan failed; empty where it did not. */
  const scanProblem = ref('')
  const stage = ref('')
  const progress = ref(0)
  const message = ref('')
  const playhead = ref(0)
  const selectedStilts = shallowRef<readonly string[]>([])
  const selectedFinding = ref<string | null>(null)
  /** Findings that the next plan is for, by their keys; everything where there are none. */
  const chosenFindings = shallowRef<readonly string[]>([])
  const tool = ref<Tool>('select')
  const gauge = ref('medium')
  /** What has the side sheet before all else: the sizes of the gauge, the raft, or what a plan is asked for. */
  const sheet = ref<'gauge' | 'raft' | 'plan' | null>(null)
  function toggleSheet(which: 'gauge' | 'raft' | 'plan'): void {
    sheet.value = sheet.value === which ? null : which
  }
  /** What the side sheet of Proof tells of. */
  const proofTab = ref<'strength' | 'layer' | 'scars'>('strength')
  /** The pointer passes through the nearest wall of the part, which is drawn faint. */
  const seeThrough = ref(false)
  const spread = reactive<SpreadSettings>({ spacingMm: null, keep: true, by: 'flat', pattern: 'hexagonal', marginMm: 0.5, pressure: 'nothing', anew: null })
  const bed = reactive<BedSettings>({ source: 'rows', spacingMm: 5, pattern: 'hexagonal', topMm: 1.2, footMm: 3, xMm: 0, yMm: 0, turnDeg: 0, anew: null })
  const verdict = ref('')
  const cut = ref<Cut>('none')
  const filter = shallowRef<Filter>(NO_FILTER)
  const lanes = ref<readonly Lane['id'][]>(['areaMm2', 'peelN'])
  const steepSkin = ref(false)
  const layerLine = ref(true)
  /** The layer under the pointer; −1 for none. */
  const traced = ref(-1)
  const looks = shallowRef<Readonly<Record<ShownPart, Look>>>(ALL_SHOWN)
  function setLook(part: ShownPart, look: Look): void {
    looks.value = { ...looks.value, [part]: look }
  }
  const findingsShown = computed(() => looks.value.findings !== 'hidden')
  /** Whether a menu of the tools is open. */
  const menu = ref(false)
  /** What is under way and can be cancelled, in words; empty for nothing. */
  const busy = ref('')
  /** What of the pose was asked for and is not there yet, since stilts are seated anew first. */
  const posing = shallowRef<Partial<Pose>>({})

  const layerMm = computed(() => job.raster?.layerMm ?? 0)
  /** How the part stands on the plate. */
  const shift = computed<PlateShift>(() => (job.copy && job.raster ? shiftOf(job.copy, job.raster.pixelMm) : NO_SHIFT))
  /** What stilts carry, by the scan; by the ids of their tips. */
  const roles = shallowRef<ReadonlyMap<string, Role>>(new Map())
  /** The role of a stilt: by the scan, or as it was placed where that has not said yet. */
  const roleOf = ({ id, role }: { readonly id: string; readonly role: Role }): Role => roles.value.get(id) ?? role
  /** What is wrong with how all copies stand on the plate; null before it was looked at. */
  const plateCheck = shallowRef<PlateCheck | null>(null)
  /** What all copies on the plate come to; null where there is only one, or while it is not known. */
  const plateScan = shallowRef<PlateScanResult | null>(null)
  /** Whose signals are shown: of the part on the bench, or of all that is on the plate. */
  const signalsFor = ref<'part' | 'plate'>('part')
  const signals = computed<Signals | null>(() => (signalsFor.value === 'plate' && plateScan.value ? plateScan.value.signals : (result.value?.signals ?? null)))
  /** Stilts of the part that are nearer to each other than the resin allows. */
  const nearStilts = shallowRef<NearPairs>(NO_PAIRS)
  /** Least diameter of a tip that carries or holds a region, mm; this browser remembers it. */
  const leastTipMm = useStorage('oak-stilts/least-tip-mm', CARRIES_FROM_MM)
  /** What there is to say about stilts of the part as they stand. */
  const verdicts = shallowRef<readonly StiltVerdict[]>([])
  /** What is wrong with the openings of its hollows. */
  const openings = shallowRef<OpeningTroubles>(NO_OPENINGS)
  /** Parts that are not shown on the stage while another one is worked on. */
  const hiddenParts = shallowRef<ReadonlySet<string>>(new Set())
  /** What is wrong on the plate; its places are in the stand of the part on the bench. */
  const troubles = computed(() => {
    const back = inverseOf(plateOf(shift.value))
    const nameOf = (copy: string): string => job.parts.find(p => p.id === job.copies.find(c => c.id === copy)?.part)?.name ?? ''
    return troublesOf(plateCheck.value, nameOf, at => movePoint(back, at), layerMm.value, plateScan.value?.cups)
  })
  const worklist = computed(() => {
    const m = stand.value
    return worklistOf({ result: result.value, stilts: job.stilts, plate: troubles.value, near: nearStilts.value, verdicts: verdicts.value, openings: openings.value }, job.waivers, at => (m && job.part ? toSource({ shape: shapeOf(job.part.recipe), stand: m }, at) : [at[0], at[1], at[2]]))
  })
  const shown = computed(() => worklist.value.findings.filter(f => passes(f, filter.value)))
  const finding = computed(() => worklist.value.findings.find(f => f.key === selectedFinding.value) ?? null)
  /** The stilts that are selected. */
  const chosenStilts = computed(() => {
    const chosen = new Set(selectedStilts.value)
    return chosen.size > 0 ? job.stilts.filter(s => chosen.has(s.id)) : []
  })
  const openIslands = computed(() => worklist.value.findings.filter((f): f is Row<'island'> => f.kind === 'island' && OPEN_ONLY.includes(f.state)))
  const openLedges = computed(() => worklist.value.findings.filter((f): f is Row<'ledge'> => f.kind === 'ledge' && OPEN_ONLY.includes(f.state)))
  /** Layers up to the last one that has material; a point thinner than a pixel may leave empty ones above. */
  const layerCount = computed(() => {
    const r = result.value
    if (!r) return 0
    if (r.stage === 'layers') return r.layerCount
    let n = r.layerCount
    while (n > 1 && r.areaMm2[n - 1] === 0) n--
    return n
  })

  /** Layers that the track shows: those of the plate may be more. */
  const trackLayers = computed(() => (signals.value && signals.value === plateScan.value?.signals ? Math.max(layerCount.value, signals.value.areaMm2.length) : layerCount.value))

  /** Heights between which the part is shown, mm. */
  const visibleMm = computed<readonly [number, number]>(() => {
    const bottom = playhead.value * layerMm.value, top = bottom + layerMm.value
    // at the last layer nothing is above
    if (cut.value === 'none' || playhead.value >= layerCount.value - 1) return WHOLE
    return cut.value === 'above' ? [-Infinity, top] : cut.value === 'below' ? [bottom, Infinity] : [top - SLAB_MM, top]
  })

  /** The layer where the print has most to show: most that hangs, or else the broadest one. */
  const tellingLayer = computed(() => {
    const r = result.value
    if (!r) return 0
    const most = (values: Float64Array): number => values.reduce((best, v, k) => (v > values[best] ? k : best), 0)
    const hanging = most(r.signals.hangingMm2)
    return r.signals.hangingMm2[hanging] > 0 ? hanging : most(r.areaMm2)
  })

  /** The next layer on, or back, in which a signal jumps; as it is where there is none. */
  function stepJump(by: 1 | -1): boolean {
    const jumps = Array.from(signals.value?.jumps ?? [])
    const next = by > 0 ? jumps.find(k => k > playhead.value) : jumps.findLast(k => k < playhead.value)
    if (next === undefined) return false
    setPlayhead(next)
    return true
  }

  function setPlayhead(layer: number): void {
    playhead.value = Math.max(0, Math.min(layerCount.value - 1, Math.round(layer)))
  }

  function reset(): void {
    result.value = null
    firstLook.value = null
    roles.value = new Map()
    nearStilts.value = NO_PAIRS
    verdicts.value = []
    openings.value = NO_OPENINGS
    stand.value = null
    scanState.value = 'none'
    scanProblem.value = ''
    selectedStilts.value = []
    selectedFinding.value = null
    chosenFindings.value = []
    tool.value = 'select'
    spread.anew = null
    verdict.value = ''
    busy.value = ''
    posing.value = {}
    cut.value = 'none'
    seeThrough.value = false
    playhead.value = 0
  }

  return { result, firstLook, stand, step, fault, worth, markBy, brushMm, marksShown, scanState, scanProblem, stage, progress, message, playhead, selectedStilts, selectedFinding, chosenFindings, tool, gauge, sheet, toggleSheet, proofTab, seeThrough, spread, bed, verdict, cut, filter, lanes, steepSkin, layerLine, traced, looks, setLook, findingsShown, menu, busy, posing, roles, roleOf, shift, plateCheck, plateScan, signalsFor, signals, trackLayers, nearStilts, verdicts, openings, leastTipMm, hiddenParts, worklist, shown, finding, chosenStilts, openIslands, openLedges, layerCount, visibleMm, tellingLayer, stepJump, setPlayhead, reset }
})
