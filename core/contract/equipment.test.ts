import { describe, expect, it } from 'vitest'
import { BUILT_IN_PRINTERS, BUILT_IN_RESINS, DEFAULT_LAYER_MM, DEFAULT_PRINTER, KIT_FORMAT, KitFileSchema, kitOf, pixelMmOf, PrinterSchema, RESIN_VALUES, resinLimits, ResinSchema } from './index'

describe('printers', () => {
  it('that are built in can be: square pixels, layers from the finest on, and a new job’s layer height among them', () => {
    for (const p of BUILT_IN_PRINTERS) {
      expect(PrinterSchema.safeParse(p).error?.issues).toBeUndefined()
      expect(pixelMmOf(p)).toBeCloseTo(p.depthMm / p.pixelsY, 4)
    }
    expect([pixelMmOf(DEFAULT_PRINTER), DEFAULT_PRINTER.layersMm.includes(DEFAULT_LAYER_MM)]).toEqual([0.05, true])
  })
  it('are refused with pixels that are not square, or no layer height', () => {
    expect(PrinterSchema.safeParse({ ...DEFAULT_PRINTER, depthMm: 90 }).success).toBe(false)
    expect(PrinterSchema.safeParse({ ...DEFAULT_PRINTER, layersMm: [] }).success).toBe(false)
  })
})

describe('resins', () => {
  it('show every value that is computed from, once, within its limits, and mark built-in ones as guesses', () => {
    const values = Object.keys(ResinSchema.shape).filter(k => k !== 'name' && k !== 'guesses')
    expect(RESIN_VALUES.map(v => v.name).sort()).toEqual(values.sort())
    for (const r of BUILT_IN_RESINS) {
      expect(ResinSchema.safeParse(r).error?.issues).toBeUndefined()
      expect(new Set(r.guesses)).toEqual(new Set(values))
      for (const { name } of RESIN_VALUES) {
        const [least, most] = resinLimits(name)
        expect(r[name] >= least && r[name] <= most).toBe(true)
        expect(ResinSchema.safeParse({ ...r, [name]: most * 1.01 + 1 }).success).toBe(false)
      }
    }
  })
})

describe('a kit', () => {
  it('is what everybody has, then one’s own; as a file it comes back as it was', () => {
    const own = [{ id: 'a', kind: 'printer' as const, printer: { ...DEFAULT_PRINTER, name: 'Mine' } }, { id: 'b', kind: 'resin' as const, resin: { ...BUILT_IN_RESINS[1], name: 'Mine too' } }]
    const kit = kitOf(own)
    expect([kit.printers.map(p => p.printer.name).at(-1), kit.resins.map(r => r.resin.name).at(-1), kit.printers.filter(p => !p.builtIn).length]).toEqual(['Mine', 'Mine too', 1])
    const file = { format: KIT_FORMAT, version: 1, printers: [own[0].printer], resins: [own[1].resin] }
    expect(KitFileSchema.parse(JSON.parse(JSON.stringify(file)))).toEqual(file)
  })
})
