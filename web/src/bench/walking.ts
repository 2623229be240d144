import { unit, type Vec3 } from '@oak-stilts/core/mesh'
import { evidence, kindOf, type Finding } from '../findings'
import type { BenchContext } from './context'

/** Goes from finding to finding: selects one, brings it into view and takes away what hides it. */
export function createWalking({ store, state, flyTo, current }: BenchContext) {
  /** Directions from which two stilts are seen side by side, from the front and a little from above first; none for anything else. */
  function across(ids: readonly string[] = []): Vec3[] {
    const [a, b] = ids.map(id => store.stilts.find(s => s.id === id)?.path[0])
    if (!a || !b || Math.hypot(b[0] - a[0], b[1] - a[1]) <= 0.01) return []
    const [x, y] = unit([a[1] - b[1], b[0] - a[0], 0]), front = y > 0 ? -1 : 1
    return [0.2, -0.35].flatMap(rise => [front, -front].map((side): Vec3 => [side * x, side * y, rise]))
  }

  /** Whether the outside was made faint only because of what was gone to. */
  let opened = false
  function seeInside(enclosed: boolean): void {
    if (enclosed !== state.seeThrough && (enclosed || opened)) {
      state.seeThrough = enclosed
      opened = enclosed
    }
  }

  /** Whether the part was cut off only because of what was gone to. */
  let cutOff = false
  /** Gives back what was taken away to show a finding: whoever goes on elsewhere sees the part. */
  function leave(): void {
    seeInside(false)
    if (cutOff && state.cut === 'above') state.cut = 'none'
    cutOff = false
  }

  /** Flights whose direction is still being asked for. */
  let heading = 0
  async function goTo(finding: Finding): Promise<void> {
    state.selectedFinding = finding.key
    state.selectedStilts = evidence(finding, 'stilts') ?? []
    state.setPlayhead(finding.layer)
    const at: Vec3 = [finding.at[0], finding.at[1], finding.at[2]]
    if (!state.findingsShown) state.setLook('findings', 'shown')
    if (kindOf(finding).inside) {
      // the space is inside: cut the print off at its widest layer and look down into it
      cutOff ||= state.cut !== 'above'
      state.cut = 'above'
      state.setPlayhead(evidence(finding, 'cup')?.peakLayer ?? finding.lastLayer)
      flyTo.value?.(at, [0.45, -0.75, 0.75], 90)
      return
    }
    state.cut = 'none'
    cutOff = false
    const sides = across(evidence(finding, 'stilts'))
    heading++
    const view = await current().workers.surface.viewFrom(at, sides).catch(() => null).finally(() => heading--)
    // another one was gone to meanwhile
    if (!view || state.selectedFinding !== finding.key) return
    const { from } = view
    seeInside(view.enclosed)
    const close = finding.kind === 'island' && finding.island.class !== 'limb' && finding.island.class !== 'body' ? 32 : sides.length > 0 ? 40 : 60
    flyTo.value?.(at, [from[0], from[1], from[2]], close)
  }

  function step(by: 1 | -1): void {
    const list = state.shown
    if (list.length === 0) return
    const index = list.findIndex(f => f.key === state.selectedFinding)
    const next = index < 0 ? (by > 0 ? 0 : list.length - 1) : (index + by + list.length) % list.length
    void goTo(list[next])
  }

  return { goTo, step, leave, heading: () => heading > 0 }
}
