import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { describe, expect, it } from 'vitest'
import { BenchPage } from './bench'
import { lantern } from './parts'
import { withBench } from './with-bench'

// Reference library: axe-core checks the page against WCAG 2.2, A and AA.
const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8')
const { server, bench } = withBench({ seed: false })

const all: string[] = []
/** Notes what the checker finds wrong on the page as it is now. */
async function check(where: string): Promise<void> {
  // what still moves or fades has colours of its own, and what is just put there may only be about to
  await bench.page.evaluate(() => new Promise<void>(resolve => {
    let calm = 0
    const look = (): void => {
      calm = document.getAnimations().some(a => a.playState === 'running' || a.pending) ? 0 : calm + 1
      if (calm > 4) resolve()
      else requestAnimationFrame(look)
    }
    look()
  }))
  if (!(await bench.page.evaluate(() => 'axe' in window))) await bench.page.evaluate(`(() => { const module = undefined; ${axe} })()`)
  const found = await bench.page.evaluate(async () => {
    const { violations } = await (window as unknown as { axe: { run(context: Document, options: object): Promise<{ violations: { id: string; nodes: { target: string[]; html: string }[] }[] }> } }).axe.run(document, { runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice'] })
    return violations.map(v => `${v.id}: ${v.nodes.slice(0, 3).map(n => `${n.target.join(' ')} ${n.html.slice(0, 140)}`).join(' | ')}`)
  })
  all.push(...found.map(f => `${where}: ${f}`))
}

describe('a checker of accessibility finds nothing', () => {
  it('on Jobs, empty and with a dialog', async () => {
    await bench.page.goto(`${server.url}/jobs`)
    await bench.page.getByRole('heading', { name: 'Drop a model here' }).waitFor()
    await check('Jobs, empty')
    await bench.bringIn(server, 'lantern', lantern())
    await bench.page.goto(`${server.url}/jobs`)
    await bench.page.getByRole('link', { name: 'Open lantern' }).waitFor()
    await check('Jobs')
    await bench.page.getByRole('button', { name: 'Put away lantern' }).click()
    await bench.page.getByText('Put away 1').click()
    await check('Jobs, put away')
    await bench.page.getByRole('button', { name: 'Take out lantern' }).click()
    await bench.page.getByRole('button', { name: 'Delete lantern' }).click()
    await bench.page.getByText('“lantern” was deleted.').waitFor()
    await bench.page.getByText('Deleted in the last day').click()
    await check('Jobs, one deleted')
    await bench.page.getByRole('button', { name: 'Undo' }).click()
    await bench.page.getByRole('button', { name: 'Delete lantern' }).waitFor()
    expect(all.splice(0)).toEqual([])
  })

  it('on Pose and Hold, with a finding, stilts and what is open over them', async () => {
    await bench.page.getByRole('link', { name: 'Open lantern' }).click()
    await bench.scanned()
    await bench.page.getByRole('link', { name: 'Pose' }).click()
    await check('Pose')
    await bench.page.getByRole('button', { name: 'Find a tilt' }).click()
    await bench.page.getByText('Best of these').waitFor()
    await bench.page.getByText('What counts').click()
    await check('Tilts')
    await bench.page.keyboard.press('Escape')
    await bench.page.getByRole('link', { name: /^Hold/ }).click()
    await check('Hold')
    await bench.stage.focus()
    await bench.page.keyboard.press('n')
    await bench.still()
    await check('Hold, a finding')
    await bench.page.keyboard.press('h')
    await bench.message(/placed/)
    await bench.scanned()
    await bench.page.getByRole('tab', { name: /^Stilts/ }).click()
    await bench.page.getByRole('option', { name: /^Stilt 1\b/ }).click()
    await check('Hold, a stilt')
    for (const [key, dialog] of [['?', 'Keys and gestures'], ['y', 'Signals'], ['Control+k', 'command']] as const) {
      await bench.stage.focus()
      await bench.page.keyboard.press(key)
      await bench.page.getByRole('dialog', { name: new RegExp(dialog, 'i') }).waitFor()
      await check(dialog)
      await bench.page.keyboard.press('Escape')
      await bench.page.getByRole('dialog').waitFor({ state: 'hidden' })
    }
    await bench.stage.focus()
    await bench.page.keyboard.press('n')
    await bench.page.keyboard.press('w')
    await bench.page.getByLabel('Why it may stay').waitFor()
    await check('Waive')
    await bench.page.keyboard.press('Escape')
    for (const [button, sheet] of [['Filter', 'Filter of the worklist'], ['Limits', 'Limits of the scan']] as const) {
      await bench.page.getByRole('tab', { name: /^Findings/ }).click()
      await bench.openSheet(button, sheet)
      await check(sheet)
      await bench.page.keyboard.press('Escape')
    }
    expect(all.splice(0)).toEqual([])
  })
})

describe('a checker of accessibility finds nothing in trouble either', () => {
  it('on Proof, before and after, with a check that is open and scars', async () => {
    await bench.stage.focus()
    await bench.page.keyboard.press('Shift+4')
    await check('Proof, nothing proved')
    await bench.page.getByRole('button', { name: 'Prove', exact: true }).click()
    await bench.page.getByRole('region', { name: 'What tips bear' }).waitFor()
    await bench.page.getByRole('button', { name: /^to be seen to/ }).first().click()
    await check('Proof')
    await bench.page.getByRole('button', { name: 'Waive' }).click()
    await bench.page.getByRole('tab', { name: /^Scars/ }).click()
    await check('Proof, scars')
    await bench.page.getByRole('button', { name: 'Back' }).click()
    await bench.stage.focus()
    await bench.page.keyboard.press('Shift+3')
    expect(all.splice(0)).toEqual([])
  })

  it('on a job that another tab changed, and one that it deleted', async () => {
    const id = new URL(bench.page.url()).pathname.split('/')[2]
    const other = await BenchPage.open(bench.page.context())
    await other.page.goto(`${server.url}/jobs/${id}/pose`)
    await other.scanned()
    await other.page.getByLabel('Job name').fill('changed elsewhere')
    await other.page.getByLabel('Job name').press('Enter')
    await other.saved()
    await bench.page.getByLabel('Job name').fill('changed here')
    await bench.page.getByLabel('Job name').press('Enter')
    const stale = bench.page.getByRole('dialog', { name: 'Changed in another tab' })
    await stale.waitFor()
    await check('Changed in another tab')
    await stale.getByRole('button', { name: 'Load theirs' }).click()
    await stale.waitFor({ state: 'hidden' })
    await bench.scanned()
    await expect.poll(() => bench.field('Job name')).toBe('changed elsewhere')
    await other.page.close()
    await fetch(`${server.url}/api/jobs/${id}/copy`, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify({ name: 'spare' }) })
    await fetch(`${server.url}/api/jobs/${id}`, { method: 'DELETE' })
    await bench.page.getByLabel('Job name').fill('changed again')
    await bench.page.getByLabel('Job name').press('Enter')
    const gone = bench.page.getByRole('dialog', { name: 'Deleted in another tab' })
    await gone.waitFor()
    await check('Deleted in another tab')
    await gone.getByRole('button', { name: 'Keep mine as a new job' }).click()
    await gone.waitFor({ state: 'hidden' })
    // by then the new job has taken the place of the old one
    expect(bench.page.url()).not.toContain(id)
    await bench.scanned()
    expect(all.splice(0)).toEqual([])
  })
})

describe('fields by keyboard', () => {
  it('give the keys back to the stage at Enter and Esc, and say what they cannot read', async () => {
    await bench.page.getByRole('link', { name: 'Pose' }).click()
    const tilt = bench.page.getByLabel(/^Tilt about x/)
    await tilt.focus()
    await bench.page.keyboard.type('12.5')
    await bench.page.keyboard.press('Enter')
    // shown at once, though what stands is seated anew before the pose is
    await expect.poll(() => tilt.inputValue()).toBe('12.5')
    await bench.message(/seated anew/)
    await bench.scanned()
    await bench.page.keyboard.press('Shift+3')
    await bench.page.getByRole('link', { name: /^Hold/, exact: false }).and(bench.page.locator('.on')).waitFor()
    await bench.page.keyboard.press('n')
    await bench.page.getByRole('listbox', { name: 'Findings' }).getByRole('option', { selected: true }).waitFor()
    await bench.page.keyboard.press('Shift+2')
    expect(await tilt.inputValue()).toBe('12.5')
    await tilt.focus()
    await bench.page.keyboard.type('steep')
    await bench.page.keyboard.press('Enter')
    await bench.message(/“steep” is no number; nothing was changed/)
    expect(await tilt.getAttribute('aria-invalid')).toBe('true')
    await bench.page.keyboard.press('Escape')
    expect(await tilt.inputValue()).toBe('12.5')
    expect(await bench.page.evaluate(() => document.activeElement?.getAttribute('role'))).toBe('application')
    const layer = bench.page.getByLabel('Current layer')
    await layer.fill('3 mm')
    await layer.press('Enter')
    expect(await bench.layer()).toBe(61)
  })

  it('show smallest, mean and largest of a mixed selection, and take steps for each', async () => {
    await bench.page.getByRole('link', { name: /^Hold/ }).click()
    await bench.stage.focus()
    await bench.page.keyboard.press('Control+a')
    const tip = bench.page.getByLabel(/^Tip diameter/)
    await tip.waitFor()
    const sizes = (text: string): number[] => text.split('·').map(Number)
    const before = sizes(await tip.inputValue())
    expect(before).toHaveLength(3)
    await tip.fill('+10%')
    await tip.press('Enter')
    await expect.poll(async () => sizes(await tip.inputValue())[2]).toBeCloseTo(before[2] * 1.1, 1)
    expect(bench.errors).toEqual([])
  })
})
