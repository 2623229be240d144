import { describe, expect, it } from 'vitest'
import { readQuantity } from './quantity'

describe('number fields', () => {
  it.each<[string, number | null, number | null]>([
    ['5', 1, 5], ['-5', 1, -5], ['+5', 1, 5], ['0,35', 1, 0.35], ['5 mm', 1, 5], ['30°', 1, 30],
    ['+=0.05', 0.5, 0.55], ['-=5', 8, 3], ['x1.1', 2, 2.2], ['+10%', 2, 2.2], ['-50%', 2, 1],
    ['5+0.2', 1, 5.2], ['10-2-1', 1, 7], ['1 in', 0, 25.4], ['0.5in+1', 0, 13.7],
    ['', 1, null], ['abc', 1, null], ['5 5', 1, null], ['5+', 1, null], ['1e', 1, null], ['+=1', null, null], ['4', null, 4],
  ])('reads %s from %s as %s', (text, current, expected) => {
    const value = readQuantity(text, current)
    if (expected === null) expect(value).toBeNull()
    else expect(value).toBeCloseTo(expected, 10)
  })
})
