import type { NotHeld } from '@oak-stilts/core/plan'

/** So many layers are named for one reason. */
const MOST_NAMED = 8

/** What a plan left open, a sentence for each reason: what it is and in which layers it begins, counted from one, the lowest first. */
export function leftInWords(notHeld: readonly Pick<NotHeld, 'kind' | 'layer' | 'reason'>[]): string[] {
  return [...new Set(notHeld.map(n => n.reason))].map(reason => {
    const those = notHeld.filter(n => n.reason === reason), layers = [...new Set(those.map(n => n.layer + 1))].sort((a, b) => a - b), more = layers.length - MOST_NAMED
    const counted = (['island', 'ledge'] as const).flatMap(kind => {
      const count = those.filter(n => n.kind === kind).length
      return count === 0 ? [] : `${count} ${count === 1 ? kind : `${kind}s`}`
    })
    return `${counted.join(' and ')} in ${layers.length === 1 ? 'layer' : 'layers'} ${layers.slice(0, MOST_NAMED).join(', ')}${more > 0 ? ` and ${more} more` : ''}: ${reason}`
  })
}
