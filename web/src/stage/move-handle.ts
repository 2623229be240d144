import { CanvasTexture, Plane, type Ray, Sprite, SpriteMaterial, SRGBColorSpace, Vector3 } from 'three'
import { PALETTE } from '../styles/palette'
import type { Stage } from './stage'

/** Size on the screen, and how near the pointer has to come, pixels. */
const SIZE = 0.05, REACH_PX = 16
const PLATE = new Plane(new Vector3(0, 0, 1), 0)

/** The handle on the plate under the part by which its copy is moved. */
export class MoveHandle {
  readonly #stage: Stage
  readonly #sprite: Sprite

  constructor(stage: Stage) {
    this.#stage = stage
    this.#sprite = new Sprite(new SpriteMaterial({ map: crossTexture(), depthTest: false, sizeAttenuation: false, transparent: true, opacity: 0.9 }))
    this.#sprite.scale.set(SIZE, SIZE, 1)
    this.#sprite.renderOrder = 7
    stage.addAside(this.#sprite)
  }

  setVisible(visible: boolean): void {
    this.#sprite.visible = visible
    this.#stage.invalidate()
  }

  /** Stands at a place of the plate, mm. */
  set(xMm: number, yMm: number): void {
    this.#sprite.position.set(xMm, yMm, 0)
    this.#stage.invalidate()
  }

  highlight(on: boolean): void {
    this.#sprite.material.opacity = on ? 1 : 0.9
    this.#sprite.scale.setScalar(on ? SIZE * 1.15 : SIZE)
    this.#stage.invalidate()
  }

  /** Whether a point of the page is on it. */
  pick(clientX: number, clientY: number): boolean {
    if (!this.#sprite.visible) return false
    const { x, y, z } = this.#sprite.position, at = this.#stage.plateToPage([x, y, z])
    return !!at && Math.hypot(at.x - clientX, at.y - clientY) < REACH_PX
  }

  /** Where a ray meets the plate, mm; null where it does not. */
  onPlate(ray: Ray): { xMm: number; yMm: number } | null {
    const hit = ray.intersectPlane(PLATE, new Vector3())
    return hit && { xMm: hit.x, yMm: hit.y }
  }
}

/** Four arrows from one middle. */
function crossTexture(): CanvasTexture {
  const canvas = document.createElement('canvas')
  canvas.width = canvas.height = 64
  const c = canvas.getContext('2d') as CanvasRenderingContext2D
  c.translate(32, 32)
  for (const [color, width] of [[PALETTE.panel, 9], [PALETTE.control, 4]] as const) {
    c.strokeStyle = color
    c.lineWidth = width
    c.lineCap = c.lineJoin = 'round'
    for (let i = 0; i < 4; i++) {
      c.rotate(Math.PI / 2)
      c.beginPath()
      c.moveTo(0, 0)
      c.lineTo(24, 0)
      c.moveTo(17, -7)
      c.lineTo(24, 0)
      c.lineTo(17, 7)
      c.stroke()
    }
  }
  const map = new CanvasTexture(canvas)
  map.colorSpace = SRGBColorSpace
  return map
}
