import type { MeshFaults } from '@oak-stilts/core/contract'
import { MENDED, type FaultKind } from '@oak-stilts/core/mesh'

/** What was found of one kind in a mesh, in words. */
interface FaultWords {
  readonly name: string
  /** Why it matters. */
  readonly why: string
  /** What Mend does about it, or why it is left. */
  readonly help: string
}

export const FAULT_WORDS: Readonly<Record<FaultKind, FaultWords>> = {
  unclosed: { name: 'Unclosed edges', why: 'The skin has holes: what is inside and what outside is not told there.', help: 'Mend closes each hole with a cone to its middle. A large hole closed so may not look as it should; mend it in the program that made the model.' },
  seam: { name: 'Seams without width', why: 'Corners of one face lie in the middle of an edge of the next, so that the two do not share it.', help: 'Mend zips them; nothing moves.' },
  'many-faced': { name: 'Edges of more than two faces', why: 'Shells touch along an edge.', help: 'They are left: the scan tells inside from outside all the same.' },
  flipped: { name: 'Flipped faces', why: 'They look inward where their neighbours look outward.', help: 'Mend turns them.' },
  'inside-out': { name: 'Shells inside out', why: 'All of the shell looks inward, so that it would be a hollow and not a solid.', help: 'Mend turns them by how they lie in one another.' },
  repeated: { name: 'Repeated faces', why: 'The same face is there more than once.', help: 'Mend keeps one of each.' },
  collapsed: { name: 'Collapsed faces', why: 'Two of their corners are the same point.', help: 'Mend drops them; nothing is lost.' },
  sliver: { name: 'Slivers', why: 'They are so narrow that they have no direction to trust.', help: 'They are left: the scan does not mind.' },
  crossing: { name: 'Crossing faces', why: 'Faces run through each other: shells overlap, or a fold went wrong.', help: 'They are left. The scan takes what overlaps as one solid.' },
  sheet: { name: 'Sheets', why: 'They have no thickness, so that nothing of them could be printed.', help: 'Mend leaves them out. Give them a thickness where they should be there.' },
  cavity: { name: 'Cavities', why: 'Closed hollows inside the solid.', help: 'They are kept. Resin is caught in them unless there are holes.' },
  within: { name: 'Solids within solid', why: 'Shells lie whole inside other solid.', help: 'They are left: they print as one.' },
}

/** To be looked at; put right; left as it is, since it does no harm. */
export type FaultState = 'open' | 'settled' | 'noted'
export type MeshFault = MeshFaults[number]

/** Worst first. */
const ORDER: readonly FaultKind[] = ['unclosed', 'sheet', 'flipped', 'inside-out', 'crossing', 'many-faced', 'seam', 'repeated', 'collapsed', 'cavity', 'within', 'sliver']

export function sortedFaults(faults: MeshFaults): MeshFault[] {
  return [...faults].sort((a, b) => ORDER.indexOf(a.kind) - ORDER.indexOf(b.kind))
}

/** What became of a fault. That something of the model is left out is to be looked at, mended or not. */
export function stateOf({ kind }: MeshFault, mended: boolean): FaultState {
  if (!MENDED.has(kind)) return 'noted'
  return mended && kind !== 'sheet' ? 'settled' : 'open'
}
export function countOf({ count, more }: MeshFault): string {
  return `${more ? 'over ' : ''}${count.toLocaleString('en')}`
}
