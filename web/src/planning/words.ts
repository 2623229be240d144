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

/** What became of a recipe as it is now, in a sentence or two. */
export function recordOf({ provedWith, cameOut, failed, earlier }: RecipeOfPlans): string {
  const proved = provedWith.filter(p => !p.earlier).length, good = Math.max(0, cameOut - (earlier?.cameOut ?? 0)), bad = Math.max(0, failed - (earlier?.failed ?? 0))
  const prints = good + bad > 0 ? `Of ${good + bad} ${good + bad === 1 ? 'print' : 'prints'} ${good} came out.` : `No print of it was told of ${earlier ? 'since its settings were last changed' : 'yet'}.`
  if (proved > 0) return `${proved === 1 ? 'One part' : `${proved} parts`} proved with it. ${prints}`
  return `Nothing was proved with it ${provedWith.length > 0 ? 'since its settings were last changed' : 'yet'}. ${prints}`
}

/** What there is none of where a plan had nothing to do. */
const NOTHING_FOR: Readonly<Record<Planned, string>> = {
  everything: 'Nothing hangs that nothing holds', islands: 'No island is open', first: 'Nothing hangs near the plate that nothing holds', inside: 'Nothing hangs inside a hollow', faces: 'Nothing hangs over faces with these marks',
}
/**
 * What came of a plan, in a sentence.
 * @param left findings that are still open @param changed whether there is anything to undo @param what it was for; null where findings or faces were picked
 */
export function plannedInWords(placed: number, left: number, changed: boolean, what: Planned | null): string {
  const open = openInWords(left)
  if (placed === 0 && !changed) return open ? `No tip could be planned: ${open}` : `${what ? NOTHING_FOR[what] : 'Nothing hangs there that nothing holds'}: no tip was planned. It was proved as it stands.`
  return [`${placed === 1 ? '1 tip' : `${placed} tips`} planned, and proved.`, open, changed ? 'One undo takes all of it back.' : ''].filter(Boolean).join(' ')
}

function openInWords(left: number): string {
  return left === 0 ? '' : `${left === 1 ? '1 finding is' : `${left} findings are`} still open; each says why.`
}

/** What came of making a part ready, in a sentence. @param left findings that are still open @param changed whether there is anything to undo */
export function readyInWords(placed: number, braces: number, thickened: number, left: number, changed: boolean): string {
  if (!changed) return left > 0 ? `Nothing could be added: ${openInWords(left)}` : 'Nothing had to be added: it was proved as it stands.'
  return `${placed === 1 ? '1 stilt' : `${placed} stilts`} placed, ${braces === 1 ? '1 brace' : `${braces} braces`} put in, ${thickened === 1 ? '1 stilt' : `${thickened} stilts`} made thicker. One undo takes all of it back.`
}
