import { BufferAttribute, BufferGeometry, DoubleSide, Group, Mesh, MeshBasicMaterial, ShapeUtils, Vector2 } from 'three'
import type { Plane } from '@oak-stilts/core/carve'
import { add, axesAcross, dot, scale, sub, type Vec3 } from '@oak-stilts/core/mesh'
import type { CutSeen } from '../bench/cutting'
import type { PegsWanted } from '../workers/finish.worker'
import { PALETTE } from '../styles/palette'
import { LineLayer } from './line-layer'
import type { Stage } from './stage'

/** Sides of the ring that shows a peg. */
const SIDES = 24
/** The sheet reaches so much farther than half of the part's largest side. */
const SHEET = 1.15

/** A cut that is being set: a sheet on its plane, what it goes through filled, what stays whole as an outline, pegs as rings. */
export class CutLayer {
  readonly #stage: Stage
  readonly #group = new Group()
  readonly #through: LineLayer
  readonly #whole: LineLayer

  constructor(stage: Stage) {
    this.#stage = stage
    this.#through = new LineLayer(stage, PALETTE.accent, true)
    this.#whole = new LineLayer(stage, PALETTE.quiet, true)
    stage.addAside(this.#group, stage.stand)
  }

  set(plane: Plane | null, frame: { readonly at: Vec3; readonly radiusMm: number } | null, seen: CutSeen | null, pegs: PegsWanted | null, lit: number): void {
    for (const child of [...this.#group.children] as Mesh<BufferGeometry, MeshBasicMaterial>[]) {
      child.removeFromParent()
      child.geometry.dispose()
      child.material.dispose()
    }
    this.#through.set(null)
    this.#whole.set(null)
    if (plane && frame) {
      const [u, v] = axesAcross(plane.normal), r = frame.radiusMm * SHEET
      this.#fill([[-r, -r], [r, -r], [r, r], [-r, r]].map(([x, y]) => add(frame.at, add(scale(u, x), scale(v, y)))), [0, 1, 2, 0, 2, 3], PALETTE.control, 0.16, true)
      const through: number[] = [], whole: number[] = []
      seen?.pieces.forEach(({ loops }, i) => {
        const left = seen.whole.includes(i)
        for (const loop of loops) loop.forEach((p, n) => (left ? whole : through).push(...p, ...loop[(n + 1) % loop.length]))
        if (left && i !== lit) return
        // the first loop is the outline where there is one piece; holes run the other way round
        const flat = loops.map(loop => loop.map(p => new Vector2(dot(sub(p, frame.at), u), dot(sub(p, frame.at), v)))), [outline, ...holes] = flat.sort((a, b) => Math.abs(ShapeUtils.area(b)) - Math.abs(ShapeUtils.area(a)))
        this.#fill([outline, ...holes].flat().map(p => add(frame.at, add(scale(u, p.x), scale(v, p.y)))), ShapeUtils.triangulateShape(outline, holes).flat(), PALETTE.accent, i === lit ? 0.75 : 0.4, false)
      })
      const rim = (pegs?.diameterMm ?? 0) / 2
      for (const { at } of seen?.pegs ?? []) {
        const around = (i: number): Vec3 => add(at, add(scale(u, rim * Math.cos((2 * Math.PI * i) / SIDES)), scale(v, rim * Math.sin((2 * Math.PI * i) / SIDES))))
        for (let i = 0; i < SIDES; i++) through.push(...around(i), ...around(i + 1))
        through.push(...at, ...add(at, scale(plane.normal, pegs?.depthMm ?? 0)))
      }
      this.#through.set(Float32Array.from(through))
      this.#whole.set(Float32Array.from(whole))
    }
    this.#stage.invalidate()
  }
  #fill(points: readonly Vec3[], triangles: readonly number[], color: string, opacity: number, depthTest: boolean): void {
    const geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(Float32Array.from(points.flat()), 3)).setIndex([...triangles])
    const mesh = new Mesh(geometry, new MeshBasicMaterial({ color, opacity, transparent: true, side: DoubleSide, depthTest, depthWrite: false }))
    mesh.renderOrder = depthTest ? 1 : 1.5
    this.#group.add(mesh)
  }
}
