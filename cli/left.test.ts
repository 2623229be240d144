import { describe, expect, it } from 'vitest'
import { leftInWords } from './left'

describe('what a plan left open', () => {
  it('is told once for each reason, with what it is and where it begins', () => {
    const at = (kind: 'island' | 'ledge', layer: number, reason: string) => ({ kind, layer, reason })
    expect(leftInWords([at('island', 90, 'No way.'), at('ledge', 12, 'Off limits.'), at('island', 7, 'No way.'), at('ledge', 90, 'No way.')])).toEqual(['2 islands and 1 ledge in layers 8, 91: No way.', '1 ledge in layer 13: Off limits.'])
    expect(leftInWords(Array.from({ length: 11 }, (_, i) => at('island', i, 'No way.')))).toEqual(['11 islands in layers 1, 2, 3, 4, 5, 6, 7, 8 and 3 more: No way.'])
    expect(leftInWords([])).toEqual([])
  })
})
