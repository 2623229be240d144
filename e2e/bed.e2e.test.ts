import { describe, expect, it } from 'vitest'
import { plate, table } from './parts'
import { withBench } from './with-bench'

// A plate of 24 by 16 mm, then a table of 12 by 10: a bed of pegs is dropped under the one, kept, and dropped under the other.
let id = ''
const { server, bench } = withBench({ seed: false, begin: async setup => void (id = await setup.bench.bringIn(setup.server, 'plate', plate())) })
const press = (key: string): Promise<void> => bench.page.keyboard.press(key)
const sheet = () => bench.page.getByRole('region', { name: 'Peg bed' })
const touches = (text: RegExp): Promise<void> => sheet().getByRole('status', { name: 'What touches' }).filter({ hasText: text }).waitFor()
/** Where tips and feet of a job stand, seen from above, in tenths of a millimetre. */
async function places(job: string): Promise<{ tips: string[]; feet: string[] }> {
  await bench.saved()
  const { nodes } = await server.job(job), of = (kind: string): string[] => nodes.filter(n => n.kind === kind).map(n => `${Math.round(n.at[0] * 10)} ${Math.round(n.at[1] * 10)}`).sort()
  return { tips: of('tip'), feet: of('foot') }
}

describe('a bed of pegs', () => {
  it('rises to what stands above it: by keys alone, and one step of undo', async () => {
    await bench.stage.focus()
    await press('Shift+B')
    await sheet().getByLabel('Rows', { exact: true }).selectOption('square')
    await touches(/^15 of 15 touch, 0\.30 mm deep on average, 17\.0 mm² of contact/)
    await bench.stage.focus()
    // three are outside then
    for (let i = 0; i < 3; i++) await press('Alt+ArrowRight')
    await touches(/^12 of 15 touch/)
    await sheet().getByText('3 left out').click()
    await sheet().getByText('Nothing stands above it.').waitFor()
    await bench.stage.focus()
    await press('Enter')
    await bench.message(/^12 stilts as a peg bed; 3 cannot stand: Nothing stands above it/)
    const { tips, feet } = await places(id)
    expect(tips).toEqual([-70, -20, 30, 80].flatMap(x => [-50, 0, 50].map(y => `${x} ${y}`)).sort())
    expect(feet).toEqual(tips)
    const { spreads, gauges } = await server.job(id)
    expect(spreads.map(s => s.way.kind)).toEqual(['bed'])
    expect(gauges.map(g => [g.name, g.tipDiameterMm, g.shaftFootDiameterMm])).toEqual([['Peg 3.0 to 1.2', 1.2, 3]])
  })

  it('is shifted and turned as one after it stands', async () => {
    await bench.write(/^Bed x/, '0')
    await bench.message(/^15 stilts as a peg bed/)
    await bench.write(/^Bed turn/, '90')
    await bench.message(/^9 stilts as a peg bed; 6 cannot stand/)
    expect((await places(id)).tips).toEqual([-50, 0, 50].flatMap(x => [-50, 0, 50].map(y => `${x} ${y}`)).sort())
    for (let i = 0; i < 2; i++) await press('Control+z')
    expect((await places(id)).tips).toHaveLength(12)
    for (let i = 0; i < 2; i++) await press('Control+Shift+z')
    expect((await places(id)).tips).toHaveLength(9)
    await press('Control+z')
    expect((await places(id)).tips).toHaveLength(15)
  })

  it('is kept with the workshop, with the resins that it proved with', async () => {
    await bench.stage.focus()
    await press('Control+a')
    await sheet().getByLabel('Name of the bed').fill('Fifteen')
    await press('Enter')
    await bench.message(/“Fifteen”, 15 pegs, is kept/)
    await sheet().getByRole('button', { name: /It printed well with Grey/ }).click()
    await sheet().getByText(/Proved with Grey, standard \(\d{4}-\d\d-\d\d\)/).waitFor()
    await bench.saved()
    await bench.page.reload()
    await bench.scanned()
    await bench.stage.focus()
    await press('Control+a')
    await touches(/^15 of 15 touch/)
    await sheet().getByText(/Proved with Grey, standard/).waitFor()
  })

  it('is dropped under another part by the pointer, and beside what stands there', async () => {
    const other = await bench.bringIn(server, 'table', table())
    await bench.stage.focus()
    await press('Shift+B')
    await sheet().getByLabel('Which bed').selectOption('Fifteen')
    // the leg and the top of the table, which is 12 by 10 mm
    await touches(/^\d+ of 15 touch/)
    await bench.still()
    const from = await bench.at([0, 0, 0]), to = await bench.at([2, 0, 0])
    await bench.drag(from, to)
    await bench.message(/^x [12]\.\d\d mm, y -?0\.\d\d mm/)
    await bench.page.mouse.up()
    await bench.page.mouse.click(from.x, from.y)
    await bench.message(/^\d+ stilts as a peg bed/)
    const { tips, feet } = await places(other), { spreads } = await server.job(other), way = spreads[0]?.way
    expect(tips.length).toBeGreaterThan(2)
    expect(feet).toEqual(tips)
    expect(way?.kind === 'bed' && [way.name, way.pattern.pegs.length, way.xMm > 0.9 && way.xMm < 3]).toEqual(['Fifteen', 15, true])
    // once more in the same place: tips stand there already
    await bench.stage.focus()
    await press('Shift+B')
    await bench.write(/^Bed x/, String(way?.kind === 'bed' ? way.xMm : 0))
    await bench.write(/^Bed y/, String(way?.kind === 'bed' ? way.yMm : 0))
    await touches(/^None of 15 pegs touches/)
    await press('Escape')
    await bench.page.goto(`${server.url}/kit`)
    await bench.page.getByRole('button', { name: /^Fifteen/ }).click()
    await bench.page.getByRole('img', { name: '15 pegs, seen from above' }).waitFor()
    await bench.page.getByText(/Proved with Grey, standard/).waitFor()
  })
})
