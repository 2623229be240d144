import type { Box3, Object3D, Ray } from 'three'
import { BufferAttribute, BufferGeometry, Color, DirectionalLight, Group, HemisphereLight, LineBasicMaterial, LineSegments, Matrix4, MOUSE, PerspectiveCamera, Plane, Raycaster, Scene, Vector2, Vector3, WebGLRenderer } from 'three'
import { OrbitControls } from 'three/addons/controls/OrbitControls.js'
import { radians } from '@oak-stilts/core/mesh'
import type { RigidMotion } from '@oak-stilts/core/pose'
import { PALETTE } from '../styles/palette'

/** Thrown where the browser has no WebGL 2: lists, layer picture and numbers still work then. */
export class NoWebGl extends Error {}

/** A direction to look from, for the standard views. */
export const STANDARD_VIEWS: readonly { readonly name: string; readonly from: readonly [number, number, number] }[] = [
  { name: 'Three-quarter from below', from: [0.55, -0.95, -0.16] },
  { name: 'Front', from: [0, -1, 0.02] },
  { name: 'Right', from: [1, 0, 0.02] },
  { name: 'Back', from: [0, 1, 0.02] },
  { name: 'Left', from: [-1, 0, 0.02] },
  { name: 'Above', from: [0, -0.02, 1] },
  { name: 'Below', from: [0, -0.02, -1] },
]

/** A section plane so far out cuts nothing away, mm. */
export const UNCUT_MM = 1e6

/** The 3D view: scene, camera and controls, drawn on demand. z is up; units are mm. */
export class Stage {
  readonly scene = new Scene()
  readonly camera = new PerspectiveCamera(32, 1, 0.5, 3000)
  readonly controls: OrbitControls
  readonly renderer: WebGLRenderer
  /** Clips what is above the playhead. */
  readonly section = new Plane(new Vector3(0, 0, -1), UNCUT_MM)
  /** Clips what is below it. */
  readonly floor = new Plane(new Vector3(0, 0, 1), UNCUT_MM)

  /** Whether nothing is cut away. */
  get uncut(): boolean {
    return this.section.constant >= UNCUT_MM && this.floor.constant >= UNCUT_MM
  }
  /** What stands with the part on the bench, in the coordinates of its stand. */
  readonly stand = new Group()
  readonly #raycaster = new Raycaster()
  readonly #onFrame: (() => void)[] = []
  #frame = 0
  #fly = 0
  #observer: ResizeObserver
  #flying = false

  constructor(readonly host: HTMLElement) {
    try {
      this.renderer = new WebGLRenderer({ antialias: true, alpha: false, preserveDrawingBuffer: true })
    } catch {
      throw new NoWebGl('This browser offers no WebGL 2.')
    }
    this.renderer.setClearColor(new Color(PALETTE.paper))
    this.renderer.localClippingEnabled = true
    // asking for a program's messages waits until it is compiled
    this.renderer.debug.checkShaderErrors = import.meta.env.DEV
    this.renderer.setPixelRatio(Math.min(2, window.devicePixelRatio))
    host.append(this.renderer.domElement)
    this.renderer.domElement.style.display = 'block'
    this.camera.up.set(0, 0, 1)
    this.scene.add(new HemisphereLight(0xffffff, 0xd6ccb9, 1.75))
    const key = new DirectionalLight(0xffffff, 2.1), fill = new DirectionalLight(0xfff4e0, 0.5)
    key.position.set(-0.5, 0.85, 0.7)
    fill.position.set(0.9, -0.3, 0.5)
    this.camera.add(key, fill)
    this.stand.matrixAutoUpdate = false
    this.scene.add(this.camera, this.stand)
    this.controls = new OrbitControls(this.camera, this.renderer.domElement)
    this.controls.enableDamping = false
    this.controls.zoomToCursor = true
    this.controls.mouseButtons = { LEFT: MOUSE.ROTATE, MIDDLE: MOUSE.PAN, RIGHT: MOUSE.ROTATE }
    this.controls.addEventListener('change', () => this.invalidate())
    this.#observer = new ResizeObserver(() => this.#resize())
    this.#observer.observe(host)
    this.#resize()
  }

  onFrame(listener: () => void): void {
    this.#onFrame.push(listener)
  }

  /** Called right before every picture, to fit what is drawn to the view. */
  beforeFrame(listener: () => void): void {
    this.#beforeFrame.push(listener)
  }
  readonly #beforeFrame: (() => void)[] = []

  /** Whether nothing moves and the last change is drawn. */
  get still(): boolean {
    return this.#frame === 0 && !this.#flying
  }

  /** Adds what is drawn for the person at work, and is no part of a picture of the job. */
  addAside(object: Object3D, to: Object3D = this.scene): void {
    this.#aside.push(object)
    to.add(object)
  }
  readonly #aside: Object3D[] = []

  /** Asks for a new picture with the next frame. */
  invalidate(): void {
    if (this.#frame) return
    this.#frame = requestAnimationFrame(() => {
      this.#frame = 0
      for (const l of this.#beforeFrame) l()
      this.renderer.render(this.scene, this.camera)
      for (const l of this.#onFrame) l()
    })
  }

  /** Draws once and waits until that is done: the time it took, ms. */
  timeFrame(): number {
    const gl = this.renderer.getContext(), start = performance.now()
    for (const l of this.#beforeFrame) l()
    this.renderer.render(this.scene, this.camera)
    // only reading a pixel back waits for the picture
    gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4))
    return performance.now() - start
  }

  /** Millimetres that a pixel of the page covers at a distance from the eye. */
  mmPerPixel(distanceMm: number): number {
    return (distanceMm * Math.tan(radians(this.camera.fov / 2)) * 2) / this.#heightPx
  }
  // kept, since asking the page for it makes it lay itself out anew
  #heightPx = 1

  #resize(): void {
    const { clientWidth: w, clientHeight: h } = this.host
    if (w === 0 || h === 0) return
    this.#heightPx = h
    this.renderer.setSize(w, h, false)
    this.renderer.domElement.style.width = `${w}px`
    this.renderer.domElement.style.height = `${h}px`
    this.camera.aspect = w / h
    this.camera.updateProjectionMatrix()
    this.invalidate()
  }

  /** Where the stand of the part is on the plate. */
  setStand(plate: RigidMotion<'stand', 'plate'>): void {
    this.stand.matrix.copy(matrixOf(plate))
    this.stand.updateMatrixWorld(true)
    this.invalidate()
  }

  /** The ray through a point of the page, in the stand of the part. */
  rayAt(clientX: number, clientY: number): Ray {
    return this.plateRayAt(clientX, clientY).applyMatrix4(this.stand.matrix.clone().invert())
  }

  /** The same on the plate. */
  plateRayAt(clientX: number, clientY: number): Ray {
    const box = this.renderer.domElement.getBoundingClientRect()
    // the camera may have moved since the last frame
    this.camera.updateMatrixWorld()
    this.#raycaster.setFromCamera(new Vector2(((clientX - box.left) / box.width) * 2 - 1, 1 - ((clientY - box.top) / box.height) * 2), this.camera)
    return this.#raycaster.ray.clone()
  }

  /** A point of the stand in CSS pixels of the page; null behind the eye. */
  toPage(point: readonly [number, number, number]): { x: number; y: number } | null {
    return this.#project(new Vector3(...point).applyMatrix4(this.stand.matrix))
  }

  /** The same of a point of the plate. */
  plateToPage(point: readonly [number, number, number]): { x: number; y: number } | null {
    return this.#project(new Vector3(...point))
  }

  #project(at: Vector3): { x: number; y: number } | null {
    this.camera.updateMatrixWorld()
    const v = at.project(this.camera)
    if (v.z > 1) return null
    const box = this.renderer.domElement.getBoundingClientRect()
    return { x: box.left + ((v.x + 1) / 2) * box.width, y: box.top + ((1 - v.y) / 2) * box.height }
  }

  /** Frames a box from a direction. */
  frame(box: Box3, from: readonly [number, number, number], margin = 1.1, animate = false): void {
    const { target, eye } = this.#framing(box, from, margin)
    this.moveTo(target, eye, animate)
  }

  /** From where a box fills the view, and what is looked at. */
  #framing(box: Box3, from: readonly [number, number, number], margin: number): { target: Vector3; eye: Vector3 } {
    const center = box.getCenter(new Vector3())
    const direction = new Vector3(...from).normalize()
    const right = new Vector3().crossVectors(this.camera.up, direction).normalize(), up = new Vector3().crossVectors(direction, right)
    // how far the corners reach across and upward, seen from there, and toward the eye
    const tan = Math.tan((this.camera.fov * Math.PI) / 360)
    let distance = 5
    for (let i = 0; i < 8; i++) {
      const corner = new Vector3(i & 1 ? box.max.x : box.min.x, i & 2 ? box.max.y : box.min.y, i & 4 ? box.max.z : box.min.z).sub(center)
      const across = Math.max(Math.abs(corner.dot(right)) / this.camera.aspect, Math.abs(corner.dot(up)))
      distance = Math.max(distance, corner.dot(direction) + (across * margin) / tan)
    }
    return { target: center, eye: center.clone().addScaledVector(direction, distance) }
  }

  /** Looks at a point of the stand from a direction and a distance in mm. */
  lookAt(point: readonly [number, number, number], from: readonly [number, number, number], distanceMm: number): void {
    const target = new Vector3(...point).applyMatrix4(this.stand.matrix), direction = new Vector3(...from).transformDirection(this.stand.matrix)
    this.moveTo(target, target.clone().addScaledVector(direction, distanceMm), true)
  }

  moveTo(target: Vector3, eye: Vector3, animate: boolean): void {
    cancelAnimationFrame(this.#fly)
    this.#flying = false
    // the far side of something much larger than a plate is seen as well
    this.camera.far = Math.max(3000, eye.distanceTo(target) * 3)
    this.camera.updateProjectionMatrix()
    const calm = !animate || window.matchMedia('(prefers-reduced-motion: reduce)').matches
    if (calm) {
      this.controls.target.copy(target)
      this.camera.position.copy(eye)
      this.controls.update()
      this.invalidate()
      return
    }
    const fromTarget = this.controls.target.clone(), fromEye = this.camera.position.clone()
    this.#flying = true
    const start = performance.now(), length = 320
    const step = (): void => {
      const t = Math.min(1, (performance.now() - start) / length), s = t * t * (3 - 2 * t)
      this.controls.target.lerpVectors(fromTarget, target, s)
      this.camera.position.lerpVectors(fromEye, eye, s)
      this.controls.update()
      this.invalidate()
      if (t < 1) this.#fly = requestAnimationFrame(step)
      else this.#flying = false
    }
    step()
  }

  /** A direction of the view, in the stand of the part. */
  inStand(direction: readonly [number, number, number]): [number, number, number] {
    const d = new Vector3(...direction).transformDirection(this.stand.matrix.clone().invert())
    return [d.x, d.y, d.z]
  }

  /** From what is looked at toward the eye. */
  lookedFrom(): [number, number, number] {
    const { x, y, z } = this.camera.position.clone().sub(this.controls.target)
    return [x, y, z]
  }

  /** How far the eye is from a point of the stand, mm. */
  eyeDistance(point: Vector3): number {
    return point.clone().applyMatrix4(this.stand.matrix).distanceTo(this.camera.position)
  }

  /**
   * A small picture of a box from a direction, without what was put aside. Taken at once with a camera of its own, so that the view
   * neither flickers nor moves, whatever flies or is pointed at meanwhile.
   */
  snapshot(box: Box3, from: readonly [number, number, number], width: number, height: number): Promise<Blob | null> {
    const canvas = document.createElement('canvas')
    canvas.width = width
    canvas.height = height
    const context = canvas.getContext('2d')
    const source = this.renderer.domElement
    if (!context || source.width === 0) return Promise.resolve(null)
    const { target, eye } = this.#framing(box, from, 1)
    // what follows the camera, such as its light, goes along; the view's own is put back before anything else is done
    const { position, quaternion } = this.camera, before = { position: position.clone(), quaternion: quaternion.clone() }
    const section = this.section.constant, floor = this.floor.constant, aside = this.#aside.filter(o => o.visible)
    for (const o of aside) o.visible = false
    this.section.constant = this.floor.constant = UNCUT_MM
    position.copy(eye)
    this.camera.lookAt(target)
    this.renderer.render(this.scene, this.camera)
    position.copy(before.position)
    quaternion.copy(before.quaternion)
    this.camera.updateMatrixWorld()
    this.section.constant = section
    this.floor.constant = floor
    for (const o of aside) o.visible = true
    this.invalidate()
    const scale = Math.max(width / source.width, height / source.height)
    context.drawImage(source, (width - source.width * scale) / 2, (height - source.height * scale) / 2, source.width * scale, source.height * scale)
    return new Promise(resolve => canvas.toBlob(resolve, 'image/png'))
  }

  dispose(): void {
    cancelAnimationFrame(this.#frame)
    cancelAnimationFrame(this.#fly)
    this.#observer.disconnect()
    this.controls.dispose()
    this.renderer.dispose()
    this.renderer.domElement.remove()
  }
}

/** A stand as the renderer's matrix. */
export function matrixOf(m: RigidMotion): Matrix4 {
  return new Matrix4().set(m[0], m[1], m[2], m[3], m[4], m[5], m[6], m[7], m[8], m[9], m[10], m[11], 0, 0, 0, 1)
}

/** The printable plate: its edge, a grid every 10 mm, and its front marked by a heavier edge. */
export function plateLines(widthMm: number, depthMm: number): Group {
  const w = widthMm / 2, d = depthMm / 2
  const group = new Group()
  const grid: number[] = [], edge: number[] = [-w, -d, 0, -w, d, 0, -w, d, 0, w, d, 0, w, d, 0, w, -d, 0], front: number[] = [-w, -d, 0, w, -d, 0, -6, -d - 4, 0, 0, -d - 8, 0, 6, -d - 4, 0, 0, -d - 8, 0]
  for (let x = Math.ceil(-w / 10) * 10; x < w; x += 10) grid.push(x, -d, 0, x, d, 0)
  for (let y = Math.ceil(-d / 10) * 10; y < d; y += 10) grid.push(-w, y, 0, w, y, 0)
  for (const [points, color] of [[grid, '#E6DFD0'], [edge, PALETTE.control], [front, PALETTE.ink]] as const) {
    const geometry = new BufferGeometry()
    geometry.setAttribute('position', new BufferAttribute(Float32Array.from(points), 3))
    group.add(new LineSegments(geometry, new LineBasicMaterial({ color })))
  }
  return group
}
