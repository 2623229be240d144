import { proxy } from 'comlink'
import { loadsOf } from '@oak-stilts/core/contract'
import type { FirstLook, ScanResult } from '@oak-stilts/core/scan'
import { evidence } from '../findings'
import type { BenchContext } from './context'
import { WorkerDied } from '../workers/supervised'
import { ventLines } from './vent-lines'

/**
 * Keeps what is shown of the scan up to date with the job: findings, the layer picture, outlines.
 * @param isHolding whether scans have to wait, because the worker is used for something longer
 */
export function createScanning({ store, state, workers, stand, scanVersion, picture, outline, current, say }: BenchContext, isHolding: () => boolean) {
  // Scans that follow each other at once are one; the newest request always wins.
  let asked = false
  async function rescan(): Promise<void> {
    state.scanState = 'scanning'
    state.progress = 0
    if (asked || isHolding()) return
    asked = true
    await Promise.resolve()
    asked = false
    if (!store.job || !workers.value || !stand.value) return
    const { job, part, raster } = current()
    const ticket = scanVersion.value
    const wasEmpty = state.result === null
    // where the playhead was put last from here: elsewhere it is where the person moved it
    let placed = state.playhead
    state.firstLook = null
    try {
      let fresh = true
      const isCurrent = (): boolean => fresh && state.scanState === 'scanning' && !!store.job && scanVersion.value === ticket
      const take = (result: ScanResult): void => {
        const atTop = state.playhead >= state.layerCount - 1, opening = wasEmpty && state.playhead === placed
        state.result = result
        if (result.stage !== 'layers') state.firstLook = null
        // opens where there is most to see, once that is known; the person's own place is kept
        if (opening) state.setPlayhead(state.tellingLayer)
        else state.setPlayhead(atTop ? state.layerCount - 1 : state.playhead)
        placed = state.playhead
      }
      const result = await workers.value.scan.scan(raster, stand.value, job.settings, loadsOf(job.resin), part.id, proxy({
        progress: (stage: string, done: number, total: number) => {
          if (!isCurrent()) return
          state.stage = stage
          state.progress = done / Math.max(1, total)
        },
        firstLook: (look: FirstLook) => {
          if (isCurrent()) state.firstLook = look
        },
        found: (result: ScanResult) => {
          // while the layers are still being made, a whole result of before says more than a part of the new one
          if (isCurrent() && (result.stage !== 'layers' || wasEmpty)) take(result)
        },
      }))
      if (!result || !isCurrent()) return
      fresh = false
      take(result)
      state.scanState = 'fresh'
      state.progress = 1
      if (state.selectedFinding && !state.finding) state.selectedFinding = null
      await Promise.all([showLayer(), showOutline(), showRoles(part.id, ticket)])
    } catch (error) {
      if (error instanceof WorkerDied) return
      state.scanState = 'failed'
      state.scanProblem = (error as Error).message
      say(`The scan failed: ${state.scanProblem}`)
    }
  }

  /** Ends the scan that is under way. The page goes on at once, the worker leaves off at its next breath. */
  function cancel(): void {
    void workers.value?.scan.cancel().catch(() => undefined)
    if (state.scanState === 'scanning') {
      state.scanState = 'cancelled'
      say(state.result ? 'The scan was cancelled; the list is from before.' : 'The scan was cancelled.')
    }
  }

  /** Asks what the stilts carry, once the scan knows. */
  async function showRoles(part: string, ticket: number): Promise<void> {
    const roles = await workers.value?.scan.roles(part).catch(() => null)
    if (roles && scanVersion.value === ticket) state.roles = new Map(roles)
  }

  let pictureAsked = 0
  async function showLayer(): Promise<void> {
    if (!workers.value || !state.result) return
    const ticket = ++pictureAsked
    const next = await workers.value.scan.picture(state.playhead).catch(() => null)
    if (ticket === pictureAsked) picture.value = next
  }

  let outlineAsked = 0
  /** Draws what hangs of the selected finding on the model. */
  async function showOutline(): Promise<void> {
    const ticket = ++outlineAsked
    const f = state.finding
    const vent = evidence(f, 'cup')?.vent
    if (vent) {
      outline.value = ventLines(vent)
      return
    }
    const labels = f?.kind === 'ledge' ? f.ledge.hanging : f?.kind === 'island' && f.state === 'partly' ? f.island.hanging : []
    const island = f?.kind === 'island' && labels.length === 0 ? { layer: f.island.layer, component: f.island.component } : null
    const next = workers.value && f && (labels.length > 0 || island) ? await workers.value.scan.outline([...labels], island).catch(() => null) : null
    if (ticket === outlineAsked) outline.value = next
  }

  let contourAsked = false
  /** The outline of a layer around the model, for the pointer; null where one is under way already. */
  async function contourAt(layer: number): Promise<{ all: Float32Array; hanging: Float32Array } | null> {
    if (!workers.value || contourAsked) return null
    contourAsked = true
    try {
      return await workers.value.scan.contour(layer)
    } catch {
      return null
    } finally {
      contourAsked = false
    }
  }

  return { rescan, cancel, showLayer, showOutline, contourAt }
}
