import type { Part } from '@oak-stilts/core/contract'

/** Why something that is taken out of a part may not come to what it looks like; null where nothing speaks against it. */
export function troubleOf(part: Pick<Part, 'source' | 'recipe'> | null): 'unmended' | 'damaged' | null {
  if (!part) return null
  if (!part.recipe.mended && part.source.plainHash) return 'unmended'
  return part.source.summary.tooDamaged ? 'damaged' : null
}
