import { BufferAttribute, BufferGeometry, CanvasTexture, Group, Points, PointsMaterial, SRGBColorSpace } from 'three'
import type { Finding } from '../findings'
import { PALETTE } from '../styles/palette'
import { drawSymbol } from './symbols'
import type { Stage } from './stage'

const SIZE = 20
/** Marks nearer than this on the screen are one with a count, until one zooms in; px. */
const CLUSTER_PX = 22

/** A symbol on the model: of one finding, or of several that crowd; the worst comes first. */
interface Cluster {
  readonly findings: Finding[]
  readonly x: number
  readonly y: number
}

/** Findings on the model, each with its symbol; drawn over everything, so that none hides. */
export class MarkerLayer {
  readonly #stage: Stage
  readonly #group = new Group()
  /** One for each look of a symbol, kept: a program that its last material lets go of would be compiled again. */
  readonly #materials = new Map<string, PointsMaterial>()
  #findings: readonly Finding[] = []
  #selected: string | null = null
  #clusters: readonly Cluster[] = []
  /** What the symbols that are drawn stand for. */
  #drawn = ''

  constructor(stage: Stage) {
    this.#stage = stage
    stage.addAside(this.#group, stage.stand)
    stage.beforeFrame(() => this.#gather())
  }

  /** Shows where a first look saw islands: pale, for it is a guess, and not to be picked. */
  setGuess(at: readonly (readonly [number, number, number])[]): void {
    this.#clear()
    this.#findings = []
    this.#clusters = []
    this.#drawn = 'guess'
    this.#add('island open guess 1', at)
    this.#stage.invalidate()
  }

  /** @param findings worst first */
  set(findings: readonly Finding[], selected: string | null): void {
    this.#findings = findings
    this.#selected = selected
    this.#drawn = 'none yet'
    this.#stage.invalidate()
  }

  /** Puts symbols together that crowd on the screen as it is seen now. */
  #gather(): void {
    if (this.#drawn === 'guess' || !this.#group.visible) return
    const clusters: Cluster[] = []
    const cells = new Map<string, Cluster[]>()
    const first = this.#findings.filter(f => f.key === this.#selected), others = this.#findings.filter(f => f.key !== this.#selected)
    for (const f of [...first, ...others]) {
      const at = this.#stage.toPage([f.at[0], f.at[1], f.at[2]])
      if (!at) continue
      const i = Math.floor(at.x / CLUSTER_PX), j = Math.floor(at.y / CLUSTER_PX)
      let near: Cluster | undefined
      for (let n = 0; n < 9 && !near && f.key !== this.#selected; n++) near = cells.get(`${i + (n % 3) - 1} ${j + Math.floor(n / 3) - 1}`)?.find(c => Math.hypot(c.x - at.x, c.y - at.y) < CLUSTER_PX && c.findings[0].key !== this.#selected)
      if (near) {
        near.findings.push(f)
        continue
      }
      const cluster: Cluster = { findings: [f], x: at.x, y: at.y }
      clusters.push(cluster)
      const key = `${i} ${j}`
      cells.set(key, [...(cells.get(key) ?? []), cluster])
    }
    this.#clusters = clusters
    const drawn = clusters.map(c => `${c.findings[0].key} ${c.findings[0].state} ${c.findings.length}`).join('|') + (this.#selected ?? '')
    if (drawn === this.#drawn) return
    this.#drawn = drawn
    this.#clear()
    const groups = new Map<string, Finding[]>()
    for (const { findings: [f, ...more] } of clusters) {
      const key = `${f.kind} ${f.state} ${f.key === this.#selected ? 'selected' : f.kind === 'island' && (f.island.class === 'flake' || f.island.class === 'detail') ? 'small' : 'large'} ${Math.min(99, more.length + 1)}`
      groups.set(key, [...(groups.get(key) ?? []), f])
    }
    for (const [key, list] of groups) this.#add(key, list.map(f => f.at))
  }

  #clear(): void {
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
    points.renderOrder = key.includes(' selected ') ? 4 : 3
    this.#group.add(points)
  }

  #material(key: string): PointsMaterial {
    let material = this.#materials.get(key)
    if (!material) {
      const [kind, state, size, count] = key.split(' ') as [Finding['kind'], Finding['state'], string, string]
      const px = size === 'selected' ? SIZE + 8 : Number(count) > 1 ? SIZE + 6 : size === 'small' || size === 'guess' ? SIZE - 7 : SIZE
      material = new PointsMaterial({ map: texture(kind, state, size === 'selected', Number(count)), size: px * this.#stage.renderer.getPixelRatio(), sizeAttenuation: false, transparent: true, opacity: size === 'guess' ? 0.4 : 1, depthTest: false, depthWrite: false })
      this.#materials.set(key, material)
    }
    return material
  }

  setVisible(visible: boolean): void {
    this.#group.visible = visible
    this.#stage.invalidate()
  }

  /** The finding whose symbol is under a point of the page; of several in one symbol the worst. */
  pick(clientX: number, clientY: number): Finding | null {
    let best: Cluster | null = null, bestDistance = 9
    if (!this.#group.visible) return null
    for (const c of this.#clusters) {
      const d = Math.hypot(c.x - clientX, c.y - clientY)
      if (d < bestDistance) {
        best = c
        bestDistance = d
      }
    }
    return best?.findings[0] ?? null
  }
}

function texture(kind: Finding['kind'], state: Finding['state'], selected: boolean, count: number): CanvasTexture {
  const canvas = document.createElement('canvas')
  canvas.width = canvas.height = 64
  const context = canvas.getContext('2d') as CanvasRenderingContext2D
  if (selected) {
    context.fillStyle = 'rgba(138, 90, 31, 0.5)'
    context.beginPath()
    context.arc(32, 32, 31, 0, 2 * Math.PI)
    context.fill()
  }
  if (count > 1) {
    drawSymbol(context, kind, state, 3, 3, 42, PALETTE.panel)
    context.font = "600 30px 'IBM Plex Sans', sans-serif"
    context.textAlign = 'right'
    context.textBaseline = 'bottom'
    context.lineWidth = 8
    context.lineJoin = 'round'
    context.strokeStyle = PALETTE.panel
    context.strokeText(String(count), 63, 66)
    context.fillStyle = PALETTE.ink
    context.fillText(String(count), 63, 66)
  } else {
    const inset = selected ? 13 : 4
    drawSymbol(context, kind, state, inset, inset, 64 - 2 * inset, PALETTE.panel)
  }
  const map = new CanvasTexture(canvas)
  map.colorSpace = SRGBColorSpace
  return map
}
