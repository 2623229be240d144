import { degrees, radians } from '@oak-stilts/core/mesh'
import { BufferAttribute, BufferGeometry, CanvasTexture, Group, Line, LineBasicMaterial, Plane, type Ray, Sprite, SpriteMaterial, SRGBColorSpace, Vector3 } from 'three'
import type { Pose } from '@oak-stilts/core/pose'
import { PALETTE } from '../styles/palette'
import type { Stage } from './stage'

export type TurnName = 'tiltXDeg' | 'tiltYDeg' | 'turnDeg'

const SEGMENTS = 96
/** Cosine between a ring's axis and the eye under which the ring counts as seen edge on. */
const EDGE_ON = 0.25
/** What is written at each ring; a ring without words is not shown. */
export type RingLabels = Partial<Record<TurnName, string>>
const OF_POSE: RingLabels = { tiltXDeg: 'tilt x', tiltYDeg: 'tilt y', turnDeg: 'turn z' }

/**
 * Rings around the model, one for each number of the pose. They are nested as the rotations are, so that dragging one ring changes
 * exactly its number.
 */
export class TurnRings {
  readonly #stage: Stage
  readonly #group = new Group()
  readonly #rings = new Map<TurnName, Line<BufferGeometry, LineBasicMaterial>>()
  readonly #labels = new Map<TurnName, Sprite>()
  readonly #center = new Vector3()
  #radius = 10
  #pose: Pose | null = null

  constructor(stage: Stage, labels: RingLabels = OF_POSE) {
    this.#stage = stage
    for (const [name, words] of Object.entries(labels) as [TurnName, string][]) {
      const geometry = new BufferGeometry()
      geometry.setAttribute('position', new BufferAttribute(new Float32Array((SEGMENTS + 1) * 3), 3))
      const ring = new Line(geometry, new LineBasicMaterial({ color: PALETTE.control, depthTest: false, transparent: true }))
      ring.frustumCulled = false
      ring.renderOrder = 6
      this.#rings.set(name, ring)
      const label = new Sprite(new SpriteMaterial({ map: textTexture(words), depthTest: false, sizeAttenuation: false, transparent: true }))
      label.scale.set(0.075, 0.0235, 1)
      label.renderOrder = 7
      this.#labels.set(name, label)
      this.#group.add(ring, label)
    }
    stage.addAside(this.#group)
  }

  setVisible(visible: boolean): void {
    this.#group.visible = visible
    this.#stage.invalidate()
  }

  set(center: Vector3, radius: number, pose: Pose): void {
    this.#center.copy(center)
    this.#radius = radius
    this.#pose = pose
    for (const [name, ring] of this.#rings) {
      const [u, v] = this.#basis(name)
      const p = ring.geometry.attributes.position as BufferAttribute
      for (let i = 0; i <= SEGMENTS; i++) {
        const a = (2 * Math.PI * i) / SEGMENTS
        const at = center.clone().addScaledVector(u, Math.cos(a) * radius).addScaledVector(v, Math.sin(a) * radius)
        p.setXYZ(i, at.x, at.y, at.z)
      }
      p.needsUpdate = true
      const label = this.#labels.get(name) as Sprite
      label.position.copy(center).addScaledVector(name === 'turnDeg' ? v.clone().negate() : name === 'tiltXDeg' ? v.clone().sub(u).normalize() : u.clone().add(v).normalize(), radius)
    }
    this.#stage.invalidate()
  }

  highlight(name: TurnName | null): void {
    for (const [n, ring] of this.#rings) ring.material.color.set(n === name ? PALETTE.accent : PALETTE.control)
    this.#stage.invalidate()
  }

  /** The ring within 8 pixels of a point of the page. */
  pick(clientX: number, clientY: number): TurnName | null {
    if (!this.#group.visible) return null
    let best: TurnName | null = null, bestDistance = 8
    for (const [name, ring] of this.#rings) {
      const p = ring.geometry.attributes.position as BufferAttribute
      for (let i = 0; i < SEGMENTS; i++) {
        const a = this.#stage.plateToPage([p.getX(i), p.getY(i), p.getZ(i)]), b = this.#stage.plateToPage([p.getX(i + 1), p.getY(i + 1), p.getZ(i + 1)])
        if (!a || !b) continue
        const dx = b.x - a.x, dy = b.y - a.y
        const t = Math.max(0, Math.min(1, ((clientX - a.x) * dx + (clientY - a.y) * dy) / (dx * dx + dy * dy || 1)))
        const d = Math.hypot(clientX - a.x - dx * t, clientY - a.y - dy * t)
        if (d < bestDistance) {
          best = name
          bestDistance = d
        }
      }
    }
    return best
  }

  /** The angle on a ring's plane where a ray meets it, degrees; null where it runs along the plane. */
  angleAt(name: TurnName, ray: Ray): number | null {
    const [u, v] = this.#basis(name)
    const axis = new Vector3().crossVectors(u, v)
    const toEye = this.#stage.camera.position.clone().sub(this.#center).normalize()
    if (Math.abs(axis.dot(toEye)) < EDGE_ON) {
      // seen edge on, the ring is a line: what counts is how far its near side is pulled along it
      const facing = ray.intersectPlane(new Plane().setFromNormalAndCoplanarPoint(toEye, this.#center), new Vector3())
      const along = axis.clone().cross(toEye).normalize()
      return facing ? (facing.sub(this.#center).dot(along) / this.#radius) * (180 / Math.PI) : null
    }
    const hit = ray.intersectPlane(new Plane().setFromNormalAndCoplanarPoint(axis, this.#center), new Vector3())
    if (!hit) return null
    hit.sub(this.#center)
    return degrees(Math.atan2(hit.dot(v), hit.dot(u)))
  }

  /** Two directions that span a ring's plane; their cross product is its axis in the nesting Rz · Ry · Rx. */
  #basis(name: TurnName): [Vector3, Vector3] {
    const pose = this.#pose as Pose
    const z = new Vector3(0, 0, 1)
    const turn = name === 'turnDeg' ? 0 : radians(pose.turnDeg), tiltY = name === 'tiltXDeg' ? radians(pose.tiltYDeg) : 0
    const y = new Vector3(0, 1, 0).applyAxisAngle(z, turn)
    const x = new Vector3(1, 0, 0).applyAxisAngle(z, turn)
    if (name === 'turnDeg') return [x, y]
    if (name === 'tiltYDeg') return [z, x]
    return [y, z.clone().applyAxisAngle(y, tiltY)]
  }
}

function textTexture(text: string): CanvasTexture {
  const canvas = document.createElement('canvas')
  canvas.width = 128
  canvas.height = 40
  const c = canvas.getContext('2d') as CanvasRenderingContext2D
  c.fillStyle = PALETTE.panel
  c.strokeStyle = PALETTE.control
  c.lineWidth = 2
  c.beginPath()
  c.roundRect(2, 2, 124, 36, 8)
  c.fill()
  c.stroke()
  c.fillStyle = PALETTE.ink
  c.font = "500 24px 'IBM Plex Sans', sans-serif"
  c.textAlign = 'center'
  c.textBaseline = 'middle'
  c.fillText(text, 64, 21)
  const map = new CanvasTexture(canvas)
  map.colorSpace = SRGBColorSpace
  return map
}
