import { BufferAttribute, BufferGeometry, CanvasTexture, Group, Points, PointsMaterial, SRGBColorSpace } from 'three'
import type { Finding } from '../stores/findings'
import { PALETTE } from '../styles/palette'
import { drawMark } from './marks'
import type { Stage } from './stage'

const SIZE = 20

/** Findings on the model, each with its mark; drawn over everything, so that none hides. */
export class MarkerLayer {
  readonly #stage: Stage
  readonly #group = new Group()
  /** One for each look of a mark, kept: a program that its last material lets go of would be compiled again. */
  readonly #materials = new Map<string, PointsMaterial>()
  #findings: readonly Finding[] = []

  constructor(stage: Stage) {
    this.#stage = stage
    stage.scene.add(this.#group)
  }

  /** Shows where a first look saw islands: pale, for it is a guess, and not to be picked. */
  setGuess(at: readonly (readonly [number, number, number])[]): void {
    this.#clear()
    this.#add('island open guess', at)
    this.#stage.invalidate()
  }

  set(findings: readonly Finding[], selected: string | null): void {
    this.#clear()
    this.#findings = findings
    const groups = new Map<string, Finding[]>()
    for (const f of findings) {
      const key = `${f.kind} ${f.state} ${f.key === selected ? 'selected' : f.island?.class === 'flake' || f.island?.class === 'detail' ? 'small' : 'large'}`
      groups.set(key, [...(groups.get(key) ?? []), f])
    }
    for (const [key, list] of groups) this.#add(key, list.map(f => f.at))
    this.#stage.invalidate()
  }

  #clear(): void {
    this.#findings = []
    for (const child of [...this.#group.children]) {
      this.#group.remove(child)
      ;(child as Points).geometry.dispose()
    }
  }

  #add(key: string, at: readonly (readonly number[])[]): void {
    const geometry = new BufferGeometry()
    geometry.setAttribute('position', new BufferAttribute(Float32Array.from(at.flat()), 3))
    const points = new Points(geometry, this.#material(key))
    points.frustumCulled = false
    points.renderOrder = key.endsWith(' selected') ? 4 : 3
    this.#group.add(points)
  }

  #material(key: string): PointsMaterial {
    let material = this.#materials.get(key)
    if (!material) {
      const [kind, state, size] = key.split(' ') as [Finding['kind'], Finding['state'], string]
      const px = size === 'selected' ? SIZE + 8 : size === 'small' || size === 'guess' ? SIZE - 7 : SIZE
      material = new PointsMaterial({ map: texture(kind, state, size === 'selected'), size: px * this.#stage.renderer.getPixelRatio(), sizeAttenuation: false, transparent: true, opacity: size === 'guess' ? 0.4 : 1, depthTest: false, depthWrite: false })
      this.#materials.set(key, material)
    }
    return material
  }

  setVisible(visible: boolean): void {
    this.#group.visible = visible
    this.#stage.invalidate()
  }

  /** The finding whose mark is under a point of the page. */
  pick(clientX: number, clientY: number): Finding | null {
    let best: Finding | null = null, bestDistance = 9
    if (!this.#group.visible) return null
    for (const f of this.#findings) {
      const at = this.#stage.toPage([f.at[0], f.at[1], f.at[2]])
      if (!at) continue
      const d = Math.hypot(at.x - clientX, at.y - clientY)
      if (d < bestDistance) {
        best = f
        bestDistance = d
      }
    }
    return best
  }
}

function texture(kind: Finding['kind'], state: Finding['state'], selected: boolean): CanvasTexture {
  const canvas = document.createElement('canvas')
  canvas.width = canvas.height = 64
  const context = canvas.getContext('2d') as CanvasRenderingContext2D
  if (selected) {
    context.fillStyle = 'rgba(138, 90, 31, 0.5)'
    context.beginPath()
    context.arc(32, 32, 31, 0, 2 * Math.PI)
    context.fill()
  }
  const inset = selected ? 13 : 4
  drawMark(context, kind, state, inset, inset, 64 - 2 * inset, PALETTE.panel)
  const map = new CanvasTexture(canvas)
  map.colorSpace = SRGBColorSpace
  return map
}
