import { describe, expect, it } from 'vitest'
import { effectScope, nextTick, ref } from 'vue'
import { useDraft } from './draft'

describe('what is being typed', () => {
  it('stays while something else is drawn anew, follows its source, and goes back when asked', async () => {
    const scope = effectScope(), name = ref('heron'), others = ref(0)
    const draft = scope.run(() => useDraft(() => (others.value >= 0 ? name.value : '')))
    if (!draft) throw new Error('There is no draft.')
    draft.text.value = 'her'
    others.value++
    await nextTick()
    expect(draft.text.value).toBe('her')
    draft.reset()
    expect(draft.text.value).toBe('heron')
    name.value = 'kelp'
    await nextTick()
    expect(draft.text.value).toBe('kelp')
    scope.stop()
  })
})
