import { describe, expect, it } from 'vitest'
import { BUILT_IN_GAUGES, BUILT_IN_PRINTERS, BUILT_IN_RECIPES, BUILT_IN_RESINS, DEFAULT_LAYER_MM, DEFAULT_PRINTER, GAUGE_VALUES, gaugeLimits, gaugesFor, gaugesOfOptions, GaugeSchema, KIT_FORMAT, KitFileSchema, kitOf, pixelMmOf, PrinterSchema, RESIN_VALUES, resinLimits, ResinSchema, USUAL_OPTIONS } from './index'

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
    const values = Object.keys(ResinSchema.shape).filter(k => k !== 'name' && k !== 'guesses' && k !== 'gauges')
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

describe('gauges', () => {
  it('show every number, once, within its limits; one from before there were more numbers is read as it was meant', () => {
    const numbers = Object.keys(GaugeSchema.shape).filter(k => !['id', 'name', 'order', 'tipShape'].includes(k))
    expect(GAUGE_VALUES.map(v => v.name).sort()).toEqual(numbers.sort())
    for (const g of BUILT_IN_GAUGES) {
      expect(GaugeSchema.parse(g)).toEqual(g)
      for (const { name } of GAUGE_VALUES) {
        const [least, most] = gaugeLimits(name)
        expect(g[name] >= least && g[name] <= most).toBe(true)
        expect(GaugeSchema.safeParse({ ...g, [name]: most + 1 }).success).toBe(false)
      }
      const { order, tipShape, thickenDeg, thickestMm, leanLimitDeg, spacingMm, longestMm, braceDiameterMm, branchTipMm, branchBaseMm, ...before } = g
      expect(GaugeSchema.parse(before)).toMatchObject({ ...before, tipShape, thickenDeg, leanLimitDeg })
      expect([order, thickestMm, spacingMm, longestMm, braceDiameterMm, branchTipMm, branchBaseMm].every(v => v > 0)).toBe(true)
    }
  })
  it('are offered as the job has them, then its resin, then the workshop; what stilts have stays what it was', () => {
    const medium = BUILT_IN_GAUGES[2], soft = BUILT_IN_RESINS[2].gauges, mine = { ...medium, tipDiameterMm: 0.6 }
    const offered = (more: Partial<Parameters<typeof gaugesFor>[0]>): string[] => gaugesFor({ job: [], resin: [], workshop: [], used: new Set(), ...more }).map(o => `${o.gauge.id} ${o.gauge.tipDiameterMm} ${o.from}`)
    expect(offered({})).toEqual(['fine 0.2 built-in', 'light 0.35 built-in', 'medium 0.5 built-in', 'heavy 0.8 built-in'])
    expect(offered({ workshop: [mine] })[2]).toBe('medium 0.6 workshop')
    expect(offered({ workshop: [mine], used: new Set(['medium']) })[2]).toBe('medium 0.5 built-in')
    expect(offered({ workshop: [mine], job: [{ ...medium, tipDiameterMm: 0.7 }] })[2]).toBe('medium 0.7 job')
    // a soft resin brings wider tips and no fine ones; one's own of another name stay
    expect(offered({ resin: soft, workshop: [mine, { ...mine, id: 'mine', order: 50 }] })).toEqual(['light 0.45 resin', 'medium 0.65 resin', 'heavy 1.05 resin', 'mine 0.6 workshop'])
    expect(offered({ resin: soft, used: new Set(['fine']) })[0]).toBe('fine 0.2 built-in')
  })
})

describe('a kit', () => {
  it('is what everybody has, then one’s own; as a file it comes back as it was', () => {
    const own = [{ id: 'a', kind: 'printer' as const, printer: { ...DEFAULT_PRINTER, name: 'Mine' } }, { id: 'b', kind: 'resin' as const, resin: { ...BUILT_IN_RESINS[1], name: 'Mine too' } }]
    const kit = kitOf(own)
    expect([kit.printers.map(p => p.printer.name).at(-1), kit.resins.map(r => r.resin.name).at(-1), kit.printers.filter(p => !p.builtIn).length]).toEqual(['Mine', 'Mine too', 1])
    const file = { format: KIT_FORMAT, version: 1, printers: [own[0].printer], resins: [own[1].resin], gauges: [BUILT_IN_GAUGES[1]], recipes: [BUILT_IN_RECIPES[0]], beds: [{ name: 'A bed', pattern: { pegs: [{ xMm: 1, yMm: 2, gauge: 'light', own: {} }], gauges: [BUILT_IN_GAUGES[1]] }, provedWith: [{ resin: 'Grey', on: '2026-01-31' }] }] }
    expect(KitFileSchema.parse(JSON.parse(JSON.stringify(file)))).toEqual(file)
    // one that was saved before there were gauges in it
    expect(KitFileSchema.parse({ format: KIT_FORMAT, version: 1, printers: [], resins: [] }).gauges).toEqual([])
  })
  it('has gauges in their order, one’s own in the place of the built-in one that it was made of', () => {
    const mine = { ...BUILT_IN_GAUGES[2], tipDiameterMm: 0.55 }, pegs = { ...BUILT_IN_GAUGES[3], id: 'pegs', name: 'Pegs', order: 5 }
    const kit = kitOf([{ id: 'a', kind: 'gauge', gauge: mine }, { id: 'b', kind: 'gauge', gauge: pegs }])
    expect(kit.gauges.map(g => [g.gauge.id, g.builtIn])).toEqual([['pegs', false], ['fine', true], ['light', true], ['medium', false], ['heavy', true]])
  })
  it('has recipes of plans that name gauges there are, one’s own in the place of the built-in one', () => {
    for (const { options: { gauges } } of BUILT_IN_RECIPES) expect((gauges ?? []).filter(id => !BUILT_IN_GAUGES.some(g => g.id === id))).toEqual([])
    const mine = { ...BUILT_IN_RECIPES[1], cameOut: 3 }, other = { ...BUILT_IN_RECIPES[0], id: 'other', name: 'Other' }
    expect(kitOf([{ id: 'a', kind: 'recipe', recipe: other }, { id: 'b', kind: 'recipe', recipe: mine }]).recipes.map(r => [r.recipe.id, r.builtIn, r.recipe.cameOut])).toEqual([['miniature', true, 0], ['jewellery', false, 3], ['bracket', true, 0], ['large-figure', true, 0], ['other', false, 0]])
    // gauges that nobody has here leave all of them to use
    expect(gaugesOfOptions({ ...USUAL_OPTIONS, gauges: ['nobody-has'] }, BUILT_IN_GAUGES)).toBe(BUILT_IN_GAUGES)
    expect(gaugesOfOptions({ ...USUAL_OPTIONS, gauges: ['heavy', 'nobody-has'] }, BUILT_IN_GAUGES).map(g => g.id)).toEqual(['heavy'])
  })
})
