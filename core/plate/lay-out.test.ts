import { describe, expect, it } from 'vitest'
import { DEFAULT_PRINTER } from '../contract'
import { joinMeshes, type Mesh } from '../mesh'
import { after, AS_IS, plateOf } from '../pose'
import { between, random } from '../testing/random'
import { box, lathe, sphere } from '../testing/shapes'
import { layOut, type LaidOut } from './lay-out'
import { grownShadow, shadowOf, turnedShadow, type Shadow } from './shadow'

const cellMm = 0.25, printer = { ...DEFAULT_PRINTER, widthMm: 100, depthMm: 60, edgesMm: [2, 1, 0, 3] as [number, number, number, number] }
const lShape = joinMeshes([box([-12, -12, 0], [12, -6, 5]), box([-12, -12, 0], [-6, 12, 5])])
const ring = lathe([[8, 0], [10, 0], [10, 4], [8, 4]], 48)
const of = (mesh: Mesh, turnDeg = 0): Shadow => shadowOf([{ mesh, motion: after(plateOf({ xMm: 0, yMm: 0, turnDeg }), AS_IS as never) }], cellMm)
/** Whether points of the plate lie under a mesh, sampled far finer than the cells; they are as the mesh stands where it was laid. */
function pixels(mesh: Mesh, laid: LaidOut): Set<number> {
  const STEP = 0.2, fine = shadowOf([{ mesh, motion: plateOf({ xMm: laid.xMm, yMm: laid.yMm, turnDeg: 90 * laid.quarters }) }], STEP), out = new Set<number>()
  for (let y = 0; y < fine.height; y++) for (let x = 0; x < fine.width; x++) if (fine.cells[y * fine.width + x]) out.add((y + fine.y0 + 5000) * 20000 + x + fine.x0 + 5000)
  return out
}

describe('what something covers', () => {
  it('is every cell that it touches (closed forms: a box, a ball), with holes left open', () => {
    const block = of(box([0.1, 0.1, 0], [1.9, 0.9, 3]))
    expect([block.x0, block.y0, block.width, block.height, block.cells.every(c => c === 1)]).toEqual([0, 0, 8, 4, true])
    const ball = of(sphere([0, 0, 5], 5, 64)), cells = ball.cells.reduce((a, b) => a + b, 0)
    expect(cells * cellMm ** 2).toBeGreaterThan(Math.PI * 25 * 0.99)
    // no more than a cell all around
    expect(cells * cellMm ** 2).toBeLessThan(Math.PI * (5 + cellMm) ** 2 * 1.05)
    const hole = of(ring)
    expect(hole.cells[Math.floor(hole.height / 2) * hole.width + Math.floor(hole.width / 2)]).toBe(0)
  })
  it('turned by quarters is what the turned body covers', () => {
    for (const quarters of [1, 2, 3]) {
      const turned = turnedShadow(of(lShape), quarters), direct = of(lShape, 90 * quarters)
      // a side that lies on the edge of a cell counts for one side or the other
      let differ = 0
      for (let y = -60; y < 60; y++) for (let x = -60; x < 60; x++) {
        const at = (s: Shadow): number => (x >= s.x0 && y >= s.y0 && x < s.x0 + s.width && y < s.y0 + s.height ? s.cells[(y - s.y0) * s.width + x - s.x0] : 0)
        if (at(turned) !== at(direct)) differ++
      }
      expect(differ).toBeLessThan(4 * 120)
      expect(Math.abs(turned.x0 - direct.x0) + Math.abs(turned.y0 - direct.y0)).toBeLessThanOrEqual(2)
    }
  })
  it('grown by a margin holds every cell within it, by the definition', () => {
    const shape = of(lShape), grown = grownShadow(shape, 3.5), r = random(2)
    for (let n = 0; n < 400; n++) {
      const x = Math.floor(between(r, grown.x0, grown.x0 + grown.width)), y = Math.floor(between(r, grown.y0, grown.y0 + grown.height))
      let near = Infinity
      for (let j = 0; j < shape.height; j++) for (let i = 0; i < shape.width; i++) if (shape.cells[j * shape.width + i]) near = Math.min(near, Math.hypot(i + shape.x0 - x, j + shape.y0 - y))
      const is = grown.cells[(y - grown.y0) * grown.width + x - grown.x0] === 1
      if (near <= 3.4) expect(is).toBe(true)
      if (near > 4.3) expect(is).toBe(false)
    }
  })
})

describe('laying out', () => {
  it('puts nothing on anything else, keeps the gap, and stays on what of the plate can be printed on (second opinion: sampled pixels)', () => {
    const r = random(6), meshes = Array.from({ length: 14 }, (_, i) => (i % 3 === 0 ? lShape : i % 3 === 1 ? box([0, 0, 0], [between(r, 4, 16), between(r, 4, 16), 3]) : sphere([0, 0, 4], between(r, 2, 6), 24)))
    for (const turns of [false, true]) {
      const laid = layOut(meshes.map((mesh, i) => ({ id: `${i}`, shadow: of(mesh) })), printer, { cellMm, gapMm: 1.5, turns }), taken = new Map<number, string>()
      expect(laid.map(l => l.id)).toEqual(meshes.map((_, i) => `${i}`))
      for (const [i, l] of laid.entries()) {
        for (const p of pixels(meshes[i], l)) {
          expect(taken.get(p) ?? l.id).toBe(l.id)
          taken.set(p, l.id)
          const x = ((p % 20000) - 5000) * 0.2, y = (Math.floor(p / 20000) - 5000) * 0.2
          if (!l.beside) expect(x >= -48.21 && x + 0.2 <= 49.21 && y >= -30.21 && y + 0.2 <= 27.21, `${l.id} at ${x}, ${y}`).toBe(true)
          else expect(x).toBeGreaterThan(50)
        }
      }
      // no two within less than the gap, by the same pixels
      const near = [...taken].filter(([p, id]) => [1, 2, 3, 4, 5].some(d => [p + d, p + d * 20000].some(q => (taken.get(q) ?? id) !== id)))
      expect(near).toEqual([])
    }
  })
  it('fits more than shelves of boxes do: shapes go into each other, and rings hold what is small (reference: first-fit shelves in the same run)', () => {
    const count = 12, things = Array.from({ length: count }, (_, i) => ({ id: `${i}`, shadow: of(i % 2 ? lShape : box([-5, -5, 0], [5, 5, 3])) }))
    const fit = layOut(things, printer, { cellMm, gapMm: 1, turns: true }).filter(l => !l.beside).length
    let shelved = 0, x = 0, y = 0, shelf = 0
    for (const { shadow } of [...things].sort((a, b) => b.shadow.height - a.shadow.height)) {
      const w = shadow.width * cellMm + 1, h = shadow.height * cellMm + 1
      if (x + w > 97 + 1) {
        x = 0
        y += shelf
        shelf = 0
      }
      if (y + h > 57 + 1) continue
      x += w
      shelf = Math.max(shelf, h)
      shelved++
    }
    expect(fit).toBeGreaterThan(shelved)
    const nested = layOut([{ id: 'ring', shadow: of(lathe([[24, 0], [26, 0], [26, 4], [24, 4]], 96)) }, { id: 'ball', shadow: of(sphere([0, 0, 3], 3, 24)) }], { ...printer, widthMm: 56, depthMm: 56, edgesMm: [0, 0, 0, 0] }, { cellMm, gapMm: 1, turns: false })
    expect(nested.map(n => n.beside)).toEqual([false, false])
  })
  it('says what finds no room, and centres what does', () => {
    const big = of(box([-40, -25, 0], [40, 25, 5])), laid = layOut([{ id: 'a', shadow: big }, { id: 'b', shadow: big }, { id: 'c', shadow: of(box([-60, -2, 0], [60, 2, 2])) }], printer, { cellMm, gapMm: 2, turns: true })
    expect(laid.map(l => l.beside)).toEqual([false, true, true])
    // the middle of what can be printed on
    expect([laid[0].xMm, laid[0].yMm]).toEqual([expect.closeTo(0.5, 0), expect.closeTo(-1.5, 0)])
    expect(laid[1].xMm).toBeGreaterThan(50 + 40)
    expect(laid[2].xMm).toBeGreaterThan(laid[1].xMm + 40 + 60)
    expect(layOut([], printer, { cellMm, gapMm: 2, turns: true })).toEqual([])
  })
})
