import { describe, expect, it } from 'vitest'
import { BINDINGS, pressOf } from './bindings'

const press = (key: string, more: Partial<KeyboardEvent> = {}): string => pressOf({ key, code: more.code ?? '', shiftKey: false, ctrlKey: false, metaKey: false, ...more } as KeyboardEvent)

describe('the table of bindings', () => {
  it('binds no press twice and explains every one', () => {
    const keys = BINDINGS.flatMap(b => b.keys)
    expect(new Set(keys).size).toBe(keys.length)
    expect(new Set(BINDINGS.map(b => b.id)).size).toBe(BINDINGS.length)
    for (const b of BINDINGS) {
      expect(b.shown).not.toBe('')
      expect(b.does).not.toBe('')
    }
  })
  it('reads presses as the table writes them', () => {
    expect(press('N', { shiftKey: true })).toBe('Shift+n')
    expect(press('z', { metaKey: true })).toBe('Mod+z')
    expect(press('Z', { ctrlKey: true, shiftKey: true })).toBe('Mod+Shift+z')
    // a shifted digit is a digit whatever the keyboard prints there
    expect(press('"', { shiftKey: true, code: 'Digit2' })).toBe('Shift+2')
    expect(press('ArrowLeft')).toBe('ArrowLeft')
  })
})
