import { proxy } from 'comlink'
import type { Part } from '@oak-stilts/core/contract'
import { FINISH_VERSION, finishKey, isFinished, type FinishStep } from '@oak-stilts/core/finish'
import { decodeMesh, encodeMesh } from '@oak-stilts/core/mesh'
import { shapedMesh, shapeOf } from '@oak-stilts/core/pose'
import { api } from '../api/client'
import { keepMade, madeBefore } from '../api/made-parts'
import type { FinishWorker, ToldOfFinish } from '../workers/finish.worker'
import { supervise, type Supervised } from '../workers/supervised'

/** Meshes that are kept as their recipes made them: one goes from step to step and back. */
const MOST_MADE = 6
/** What is done at once is not told. */
const TOLD_AFTER_MS = 400

/** A step was left off before its end, because it was cancelled. */
export class FinishCancelled extends Error {}

type PartMesh = Pick<Part, 'source' | 'recipe'>
/** What the mesh of a part is known by: its source, and what its recipe makes of it. */
export function meshKeyOf(part: PartMesh): string {
  return `${sourceHash(part)} ${finishKey(part.recipe)}`
}
/** The mesh that a part begins with: mended, or as it came. */
function sourceHash({ source: { meshHash, plainHash }, recipe: { mended } }: PartMesh): string {
  return mended ? meshHash : (plainHash ?? meshHash)
}

/** A worker that makes parts. */
export function startFinisher(): Supervised<FinishWorker> {
  const name = `finish-${crypto.randomUUID()}`
  return supervise<FinishWorker>(new Worker(new URL('../workers/finish.worker.ts', import.meta.url), { type: 'module', name }), name)
}

interface Made {
  readonly buffer: ArrayBuffer
  readonly told: ToldOfFinish | null
}

/** The meshes of parts, as they came and as their recipes make them. @param tell says in words what is being made; empty once it is */
export function createMeshes(tell: (words: string) => void) {
  const sources = new Map<string, ArrayBuffer>(), made = new Map<string, Promise<Made>>()
  let finisher: Supervised<FinishWorker> | null = null, cancelNow: (() => void) | null = null

  /** The prepared mesh that a part comes from; kept for as long as the bench is open. @throws ApiError */
  async function sourceOf(part: PartMesh): Promise<ArrayBuffer> {
    const hash = sourceHash(part), known = sources.get(hash)
    if (known) return known
    const buffer = await api.mesh(hash)
    sources.set(hash, buffer)
    return buffer
  }

  /** The mesh of a part, as its recipe makes it. @param may whether `cancelFinish` may end it @throws ApiError, FinishCancelled; Error where a step cannot be done, with what helps */
  async function meshOf(part: PartMesh, may = false): Promise<ArrayBuffer> {
    return (await makeOf(part, may)).buffer
  }
  /** What the steps of a part came to; null where it has none. @throws as `meshOf` */
  async function toldOf(part: PartMesh): Promise<ToldOfFinish | null> {
    return (await makeOf(part, false)).told
  }

  function makeOf(part: PartMesh, may: boolean): Promise<Made> {
    const key = meshKeyOf(part), known = made.get(key)
    if (known) return known
    const next = make(part, may)
    made.set(key, next)
    for (const old of made.keys()) if (made.size > MOST_MADE) made.delete(old)
    next.catch(() => made.delete(key))
    return next
  }
  async function make(part: PartMesh, may: boolean): Promise<Made> {
    const source = await sourceOf(part), { recipe } = part, shape = shapeOf(recipe)
    if (!isFinished(recipe)) return { buffer: shape.every(f => f === 1) ? source : (encodeMesh(shapedMesh(decodeMesh(source), shape)).buffer as ArrayBuffer), told: null }
    const key = `${FINISH_VERSION} ${meshKeyOf(part)}`, before = await madeBefore<ToldOfFinish>(key)
    if (before) return before
    const own = (finisher ??= startFinisher()), start = performance.now()
    let over = false, said = false
    const progress = (step: FinishStep, share: number): void => {
      if (over || performance.now() - start < TOLD_AFTER_MS) return
      said = true
      tell(step === 'hollow' ? `Hollowing the part: ${Math.round(100 * share)} %` : step === 'holes' ? 'Drilling the part' : 'Cutting the part')
    }
    const cancelled = new Promise<never>((_, reject) => {
      if (may) cancelNow = () => {
        own.end()
        if (finisher === own) finisher = null
        reject(new FinishCancelled('It was cancelled.'))
      }
    })
    try {
      const { buffer, told } = await Promise.race([own.remote.finish(sourceHash(part), source, JSON.parse(JSON.stringify(recipe)) as typeof recipe, proxy(progress)), cancelled])
      void keepMade(key, buffer.slice(0), told)
      return { buffer, told }
    } finally {
      over = true
      cancelNow = null
      if (said) tell('')
    }
  }

  /** Ends what is being made, where that may be. Gives whether something was. */
  function cancelFinish(): boolean {
    cancelNow?.()
    return cancelNow !== null
  }
  function endFinisher(): void {
    finisher?.end()
    finisher = null
  }

  return { sourceOf, meshOf, toldOf, cancelFinish, endFinisher }
}
