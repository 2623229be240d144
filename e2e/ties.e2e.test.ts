import { describe, expect, it } from 'vitest'
import type { PlanBeam } from '@oak-stilts/core/contract'
import { plate } from './parts'
import { withBench } from './with-bench'

// Under a flat plate that hangs high: branches by a click and by a drag, braces by two clicks and between the selected, joins, joints that
// are put in, dragged and taken away, a raft. Pointer and keys as a person uses them.
let id = ''
const { server, bench } = withBench({
  seed: false, begin: async setup => {
    id = await setup.bench.bringIn(setup.server, 'plate', plate())
    await setup.bench.page.getByRole('link', { name: /^Pose/ }).click()
    await setup.bench.write(/^Lift/, '22')
    await setup.bench.scanned()
    await setup.bench.saved()
    await setup.bench.page.getByRole('link', { name: /^Hold/ }).click()
    await setup.bench.scanned()
  },
})
const press = (key: string): Promise<void> => bench.page.keyboard.press(key)
/** Looks from a standard side, by the menu. */
async function view(name: string): Promise<void> {
  await bench.page.getByRole('button', { name: /^View/ }).click()
  await bench.page.getByText(name, { exact: true }).last().click()
  await bench.still()
  await bench.stage.focus()
}
async function click(point: readonly [number, number, number]): Promise<void> {
  const { x, y } = await bench.at(point)
  await bench.page.mouse.move(x + 2, y)
  await bench.page.mouse.move(x, y)
  await bench.page.mouse.click(x, y)
}
const kinds = async (): Promise<Record<string, number>> => {
  await bench.saved()
  const count: Record<string, number> = {}
  for (const { kind } of (await server.job(id)).beams as PlanBeam[]) count[kind] = (count[kind] ?? 0) + 1
  return count
}
const tips = async (): Promise<number[][]> => {
  await bench.saved()
  return (await server.job(id)).nodes.flatMap(n => (n.kind === 'tip' ? [n.at.map(v => Math.round(v * 10) / 10)] : []))
}

describe('what ties stilts to each other', () => {
  it('branches: one by a click from the stilt that was clicked, several by a drag that share a joint', async () => {
    await view('Below')
    await press('3')
    await press('p')
    for (const x of [-6, 0]) {
      await click([x, 0, 22])
      await bench.message(/^Stilt \d placed/)
    }
    await press('1')
    await press('s')
    const at = await bench.at([-9, 4, 22])
    await bench.page.mouse.move(at.x + 2, at.y)
    await bench.page.mouse.move(at.x, at.y)
    await bench.message(/^Branch of stilt 1: \d+\.\d mm, lean 4\d°, gap .*, scar 0\.0\d+ mm²/)
    await bench.page.mouse.click(at.x, at.y)
    await bench.message(/^1 branch placed/)
    expect(await kinds()).toEqual({ cone: 3, shaft: 3, branch: 1 })
    const from = await bench.at([5, -5, 22]), to = await bench.at([5, 5, 22])
    await bench.drag(from, to)
    await bench.message(/^\d branches every 1\.20 mm/)
    await bench.release()
    const said = await bench.message(/^\d branches placed/), count = Number(said[0])
    expect(count).toBeGreaterThan(3)
    const { beams } = await server.job(id).then(async () => (await kinds(), server.job(id))), fingers = beams.filter(b => b.kind === 'branch').slice(1)
    expect([fingers.length, new Set(fingers.map(b => b.to)).size]).toEqual([count, 1])
    // up on the roof nothing branches
    await press('Control+z')
    await bench.message(/Undone: place \d branches/)
    expect(await kinds()).toEqual({ cone: 3, shaft: 3, branch: 1 })
    await press('Escape')
    await press('Escape')
  })

  it('a branch whose tip is dragged out of reach takes its joint along', async () => {
    const jointOf = async (): Promise<number> => {
      await bench.saved()
      const { nodes, beams } = await server.job(id), branch = beams.find(b => b.kind === 'branch')
      return nodes.find(n => n.id === branch?.to)?.at[2] ?? 0
    }
    await bench.page.getByRole('tab', { name: /^Stilts/ }).click()
    await bench.page.getByRole('option', { name: /^Stilt 3\b/ }).click()
    await view('Below')
    const before = await jointOf()
    await bench.drag(await bench.at([-9, 4, 22]), await bench.at([-10.5, 6, 22]))
    await bench.message(/^\d+\.\d mm, lean 4\d°, gap /)
    await bench.release()
    expect(await jointOf()).toBeLessThan(before - 1)
    expect((await tips()).some(t => Math.abs(t[0] + 10.5) < 0.3 && Math.abs(t[1] - 6) < 0.3)).toBe(true)
    expect(await kinds()).toEqual({ cone: 3, shaft: 3, branch: 1 })
    await bench.stage.focus()
    await press('Control+z')
    await bench.message(/Undone: move tip/)
    expect(await jointOf()).toBeCloseTo(before, 6)
    await bench.page.getByRole('tab', { name: /^Findings/ }).click()
    await press('Escape')
  })

  it('braces: by two clicks on shafts, and between all that are selected', async () => {
    await view('Front')
    await bench.stage.focus()
    await press('c')
    await click([-6, 0, 5])
    await bench.message(/^From stilt 1: point at another shaft/)
    const level = await bench.at([0, 0, 5.5]), high = await bench.at([0, 0, 11])
    await bench.page.mouse.move(level.x, level.y)
    await bench.message(/rise by \d° only/)
    await bench.page.mouse.move(high.x, high.y)
    await bench.message(/^Brace from stilt 1 to 2: 8\.\d mm, rises 4\d°/)
    await bench.page.mouse.click(high.x, high.y)
    await bench.message(/^Braced/)
    expect((await kinds()).brace).toBe(1)
    await press('Escape')
    await bench.stage.focus()
    await press('Control+a')
    await bench.page.getByRole('region', { name: 'Ties' }).getByRole('button', { name: 'Take away' }).click()
    await bench.message(/1 brace was taken away/)
    expect(await kinds()).toEqual({ cone: 3, shaft: 3, branch: 1 })
    await bench.write('Brace spacing', '1')
    await bench.stage.focus()
    await press('c')
    await bench.message(/^2 braces between 3 stilts/)
    await press('Control+z')
    await bench.message(/Undone: brace 3 stilts/)
    await press('j')
    await bench.message(/^Joined at 1 place, as high as they can be/)
    expect((await kinds()).brace).toBe(1)
    // the job comes back as it was
    await bench.page.reload()
    await bench.scanned()
    expect(await kinds()).toEqual({ cone: 3, shaft: 5, branch: 1, brace: 1 })
    await bench.stage.focus()
    await press('Control+z')
    await bench.message(/Undone: join 3 stilts/)
  })

  it('follow a change of pose: the branch stays on its stilt', async () => {
    await bench.page.getByRole('link', { name: /^Pose/ }).click()
    await bench.write(/^Lift/, '18')
    await bench.message(/All 3 stilts were seated anew/)
    await bench.scanned()
    expect([await kinds(), (await tips()).map(t => t[2])]).toEqual([{ cone: 3, shaft: 3, branch: 1 }, [18, 18, 18]])
    await bench.page.getByRole('link', { name: /^Hold/ }).click()
    await bench.scanned()
  })

  it('stay tied while joints are put in by a double click, dragged, and taken away again', async () => {
    await view('Front')
    const place = await bench.at([0, 0, 9])
    await bench.page.mouse.dblclick(place.x, place.y)
    await bench.message(/A joint was put in; drag it/)
    await bench.saved()
    const before = (await server.job(id)).nodes.filter(n => n.kind === 'joint').length
    await bench.drag(place, await bench.at([1.5, 0, 9]))
    await bench.message(/^lean \d+°, gap/)
    await bench.release()
    await bench.saved()
    const bent = (await server.job(id)).nodes.filter(n => n.kind === 'joint' && Math.abs(n.at[0] - 1.5) < 0.3)
    expect([before, bent.length, bent[0].pinned]).toEqual([2, 1, true])
    // too far is refused, and says why
    await bench.drag(await bench.at([1.5, 0, 9]), await bench.at([11, 0, 9]))
    await bench.message(/would lean \d+°; at most 45° stands/)
    await press('Escape')
    await bench.release()
    await bench.stage.focus()
    await press('Control+z')
    await bench.message(/Undone: move joint/)
    await bench.page.mouse.dblclick(place.x, place.y)
    await bench.message(/The joint was taken away/)
    // the knee: its cone is as long as it is dragged
    const knee = await bench.at([0, 0, 15])
    await bench.drag(knee, await bench.at([0.5, 0, 14]))
    await bench.message(/^Cone 4\.\d+ mm, lean \d+°/)
    await bench.release()
    await bench.saved()
    expect((await server.job(id)).nodes.some(n => n.kind === 'tip' && (n.own.coneLengthMm ?? 0) > 3.9)).toBe(true)
    // the foot of the stilt on which the branch hangs: the branch stays where it is tied
    await click([-6, 0, 6])
    await bench.drag(await bench.at([-6, 0, 0]), await bench.at([-7.5, 0, 0]))
    await bench.message(/^lean \d+°, gap/)
    await bench.release()
    expect((await kinds()).branch).toBe(1)
    expect((await server.job(id)).nodes.some(n => n.kind === 'foot' && Math.abs(n.at[0] + 7.5) < 0.4 && n.pinned)).toBe(true)
    expect(bench.errors).toEqual([])
  })
})

describe('many at once', () => {
  it('are selected by a box and by a lasso, and by where they stand', async () => {
    await press('Control+z')
    await view('Front')
    await press('Escape')
    await press('g')
    const draw = async (points: readonly (readonly [number, number])[]): Promise<void> => {
      const at = await Promise.all(points.map(([x, z]) => bench.at([x, 0, z])))
      await bench.page.mouse.move(at[0].x, at[0].y)
      await bench.message(/^Draw a (box|lasso) around stilts/)
      await bench.page.mouse.down()
      for (const { x, y } of at.slice(1)) await bench.page.mouse.move(x, y, { steps: 6 })
      await bench.page.mouse.up()
    }
    await draw([[-4, 12], [4, 2]])
    await bench.message(/^1 stilt is selected/)
    await press('g')
    await press('g')
    await bench.page.keyboard.down('Shift')
    await draw([[-9, 2], [-3, 3], [-3, 16], [-14, 17], [-9, 8]])
    await bench.page.keyboard.up('Shift')
    await bench.message(/^3 stilts are selected/)
  })
  it('are asked about before only some of them change', async () => {
    await bench.stage.focus()
    await press('Control+a')
    // on the branch, and above where it hangs, there is no room for such a cone
    await bench.write('Cone length', '9')
    const ask = bench.page.getByRole('alert').filter({ hasText: /of 3 can follow\. The others cannot/ })
    await ask.waitFor()
    await ask.getByRole('button', { name: 'Leave all as they are' }).click()
    await bench.page.getByLabel('Gauge of the selection').selectOption({ label: 'next gauge' })
    await bench.message(/^\d stilts have the next gauge now/)
    await bench.saved()
    expect((await server.job(id)).nodes.flatMap(n => (n.kind === 'tip' ? [n.gauge] : [])).sort()).toEqual(['heavy', 'heavy', 'light'])
    await bench.stage.focus()
    await press('Control+z')
    await bench.message(/Undone: take the next gauge/)
    expect(bench.errors).toEqual([])
  })
})

describe('the raft', () => {
  it('is made from the feet, follows them, is scanned, and is off where the part stands on the plate', async () => {
    await bench.stage.focus()
    await press('Shift+R')
    const sheet = bench.page.getByRole('region', { name: 'Raft' })
    await sheet.getByLabel('Kind of raft').selectOption({ label: 'Whole plate' })
    await sheet.getByText(/^Under 2 feet, \d+ mm³\. The part hangs 17\.20 mm above it/).waitFor()
    await bench.scanned()
    await bench.write('Raft: thickness', '1.5')
    await sheet.getByText(/The part hangs 16\.50 mm above it/).waitFor()
    await bench.stage.focus()
    await press('Control+z')
    await bench.message(/Undone: change the raft/)
    await sheet.getByLabel('Kind of raft').selectOption({ label: 'Joined pads' })
    await sheet.getByText(/at most \d+ mm³/).waitFor()
    await bench.saved()
    expect((await server.job(id)).parts[0].raft.kind).toBe('joined')
    await bench.page.getByRole('link', { name: /^Pose/ }).click()
    await bench.write(/^Lift/, '0')
    await bench.scanned()
    await bench.page.getByRole('link', { name: /^Hold/ }).click()
    await bench.stage.focus()
    await press('Shift+R')
    await sheet.getByText(/The part itself stands on the plate, so there is no raft/).waitFor()
    expect(bench.errors).toEqual([])
  })
})
