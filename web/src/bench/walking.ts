import type { Vec3 } from '@oak-stilts/core/mesh'
import { kindOf, type Finding } from '../findings'
import type { BenchContext } from './context'

/** Goes from finding to finding: selects one, brings it into view and takes away what hides it. */
export function createWalking({ state, flyTo, current }: BenchContext) {
  /** Flights whose direction is still being asked for. */
  let heading = 0
  async function goTo(finding: Finding): Promise<void> {
    state.selectedFinding = finding.key
    state.selectedStilts = finding.stilts ?? []
    state.setPlayhead(finding.layer)
    const at: Vec3 = [finding.at[0], finding.at[1], finding.at[2]]
    if (!state.marks) state.setLook('marks', 'shown')
    if (kindOf(finding).inside) {
      // the space is inside: cut the print off at its widest layer and look down into it
      state.cut = 'above'
      state.setPlayhead(finding.cup?.peakLayer ?? finding.lastLayer)
      flyTo.value?.(at, [0.45, -0.75, 0.75], 90)
      return
    }
    state.cut = 'none'
    heading++
    const from = await current().workers.place.viewFrom(at).catch(() => null).finally(() => heading--)
    // another one was gone to meanwhile
    if (!from || state.selectedFinding !== finding.key) return
    flyTo.value?.(at, [from[0], from[1], from[2]], finding.island && finding.island.class !== 'limb' && finding.island.class !== 'body' ? 32 : 60)
  }

  function step(by: 1 | -1): void {
    const list = state.shown
    if (list.length === 0) return
    const index = list.findIndex(f => f.key === state.selectedFinding)
    const next = index < 0 ? (by > 0 ? 0 : list.length - 1) : (index + by + list.length) % list.length
    void goTo(list[next])
  }

  return { goTo, step, heading: () => heading > 0 }
}
