import type { Planned, RaftKind, RecipeOfPlans, Worth } from '@oak-stilts/core/contract'

export const PLAN_FOR: Readonly<Record<Planned, string>> = { everything: 'All that hangs', islands: 'Only islands', first: 'First contacts', inside: 'Inside of hollows', faces: 'Marked faces' }
export const PLAN_FOR_SAYS: Readonly<Record<Planned, string>> = {
  everything: 'Islands, and all that juts out too far.',
  islands: 'What begins on nothing. What juts out is left.',
  first: 'What hangs in the lowest 3 mm of the part and of its body: strong and close, since it carries the rest.',
  inside: 'Skin that has the part all around it.',
  faces: 'What hangs over faces that are marked in Pose.',
}
/** The words of the button that plans. */
export const PLAN_BUTTON: Readonly<Record<Planned, string>> = { everything: 'Plan all', islands: 'Plan islands', first: 'Plan first contacts', inside: 'Plan inside', faces: 'Plan faces' }
export const RAFTS: Readonly<Record<RaftKind, string>> = { none: 'None', pads: 'Pads', joined: 'Joined pads', plate: 'Whole plate' }
export const WORTHS_OFFERED: readonly Worth[] = ['spare', 'plain', 'prized']

/** What became of a recipe, in a sentence. */
export function recordOf({ provedWith, cameOut, failed }: RecipeOfPlans): string {
  const prints = cameOut + failed === 0 ? 'No print of it was told of yet.' : `Of ${cameOut + failed} ${cameOut + failed === 1 ? 'print' : 'prints'} ${cameOut} came out.`
  return `${provedWith.length === 0 ? 'Nothing was proved with it yet.' : `${provedWith.length === 1 ? 'One part' : `${provedWith.length} parts`} proved with it.`} ${prints}`
}
