import { BackSide, Group, Mesh, MeshBasicMaterial, MeshLambertMaterial, type Ray, Sphere, SphereGeometry, Vector3 } from 'three'
import type { Vec3 } from '@oak-stilts/core/mesh'
import { axisOf, type Stilt, type StiltShape } from '@oak-stilts/core/stilts'
import type { Look } from '../stores/bench'
import { PALETTE } from '../styles/palette'
import { FLOATS, frustum, FrustumMesh, shapeFrustums, shapeRibbons, type Frustums } from './frustum-layer'
import type { Stage } from './stage'
import { frustumsOf, STILT_PARTS, type DrawnStilt, type StiltPart } from './stilt-frustums'

export interface StiltHit {
  readonly stilt: Stilt
  readonly part: 'tip' | 'foot' | 'shaft'
  readonly distance: number
}

/** A beam that only stiffens. */
export interface DrawnBrace {
  readonly from: Vec3
  readonly to: Vec3
  readonly diameterMm: number
}

/** How opaque what is faint is, and what stands beside a selection. */
const FAINT = 0.2, BESIDE = 0.42
/** From this many stilts on shafts are seen through, so that they do not hide the part; how opaque they are then. */
const MANY = 80, MANY_OPACITY = 0.48
/** From this many on they are drawn as ribbons, and without a rim. */
const THOUSANDS = 1000

/** What of a stilt is drawn where there are thousands: not what is inside the part, and of a foot only its slope. */
function coarsely({ parts }: DrawnStilt, part: StiltPart): Frustums {
  return part === 'tips' ? parts.tips.subarray(-FLOATS) : part === 'feet' ? parts.feet.subarray(0, FLOATS) : parts.shafts
}

/** All stilts, the selected ones apart, and the ghost of what the pointer would place. */
export class StiltLayer {
  readonly #stage: Stage
  readonly #group = new Group()
  readonly #plain: Readonly<Record<StiltPart, FrustumMesh<MeshLambertMaterial>>>
  /** Instead of them, where there are thousands. */
  readonly #ribbons: Readonly<Record<StiltPart, FrustumMesh<MeshBasicMaterial>>>
  readonly #selected: FrustumMesh<MeshLambertMaterial>
  readonly #halo: FrustumMesh<MeshBasicMaterial>
  readonly #ghost: FrustumMesh<MeshBasicMaterial>
  readonly #casing: FrustumMesh<MeshBasicMaterial>
  readonly #rings: FrustumMesh<MeshBasicMaterial>
  readonly #grips: Mesh<SphereGeometry, MeshBasicMaterial>[] = []
  /** What was made of stilts that are the same objects still: by themselves, and where another one draws what they share. */
  readonly #drawn = new WeakMap<Stilt, DrawnStilt>()
  readonly #drawnAlone = new WeakMap<Stilt, DrawnStilt>()
  readonly #axes = new WeakMap<Stilt, readonly Vector3[]>()
  #stilts: readonly Stilt[] = []
  #braces: readonly DrawnBrace[] = []

  constructor(stage: Stage) {
    this.#stage = stage
    const clippingPlanes = [stage.section, stage.floor]
    const part = (): FrustumMesh<MeshLambertMaterial> => new FrustumMesh(shapeFrustums(new MeshLambertMaterial({ color: PALETTE.stilt, flatShading: true, clippingPlanes })))
    const ribbons = (): FrustumMesh<MeshBasicMaterial> => new FrustumMesh(shapeRibbons(new MeshBasicMaterial({ color: PALETTE.stilt, clippingPlanes })))
    this.#plain = { tips: part(), shafts: part(), feet: part() }
    this.#ribbons = { tips: ribbons(), shafts: ribbons(), feet: ribbons() }
    this.#selected = new FrustumMesh(shapeFrustums(new MeshLambertMaterial({ color: PALETTE.accent, flatShading: true, emissive: PALETTE.accent, emissiveIntensity: 0.35, polygonOffset: true, polygonOffsetFactor: -1, polygonOffsetUnits: -1 })))
    this.#ghost = new FrustumMesh(shapeFrustums(new MeshBasicMaterial({ color: PALETTE.stilt, transparent: true, opacity: 0.5, depthWrite: false })))
    // a paper-coloured rim around every stilt, so that shafts part where they cross
    this.#casing = new FrustumMesh(shapeFrustums(new MeshBasicMaterial({ color: PALETTE.paper, side: BackSide, clippingPlanes }), shader => {
      shader.vertexShader = shader.vertexShader.replace('#include <project_vertex>', `#include <project_vertex>
        vec3 outward = normalize(normalMatrix * beamNormal);
        mvPosition.xyz += outward * (-mvPosition.z * 0.0007);
        gl_Position = projectionMatrix * mvPosition;`)
    }))
    this.#rings = new FrustumMesh(shapeFrustums(new MeshBasicMaterial({ color: '#E9E2D0', clippingPlanes })))
    // the selection shines through whatever stands before it
    this.#halo = new FrustumMesh(shapeFrustums(new MeshBasicMaterial({ color: PALETTE.accent, transparent: true, opacity: 0.42, depthTest: false, depthWrite: false })))
    this.#halo.renderOrder = 2
    for (let i = 0; i < 2; i++) {
      const grip = new Mesh(new SphereGeometry(1, 16, 12), new MeshBasicMaterial({ color: PALETTE.accent, depthTest: false, transparent: true, opacity: 0.85 }))
      grip.renderOrder = 5
      grip.visible = false
      this.#grips.push(grip)
    }
    this.#group.add(...Object.values(this.#plain), ...Object.values(this.#ribbons), this.#casing, this.#rings, this.#selected, this.#halo, this.#ghost, ...this.#grips)
    stage.stand.add(this.#group)
    stage.onFrame(() => this.#sizeGrips())
    // thousands are not asked one by one whether they are cut away, where nothing is
    stage.beforeFrame(() => {
      for (const { material } of Object.values(this.#ribbons)) material.clippingPlanes = stage.uncut ? null : clippingPlanes
    })
  }

  /** How the parts of all stilts are drawn. */
  setLooks(looks: Readonly<Record<StiltPart, Look>>): void {
    this.#looks = looks
    this.set(this.#stilts, this.#chosen, this.#braces)
  }
  #looks: Readonly<Record<StiltPart, Look>> = { tips: 'shown', shafts: 'shown', feet: 'shown' }
  #chosen: readonly string[] = []

  /** Shows the stilts of the plan. What was made for stilts that did not change is used again. */
  set(stilts: readonly Stilt[], selected: readonly string[], braces: readonly DrawnBrace[] = []): void {
    this.#stilts = stilts
    this.#chosen = selected
    this.#braces = braces
    const chosen = new Set(selected), all = this.#drawnOf(stilts), picked = all.filter((_, i) => chosen.has(stilts[i].id)), many = stilts.length >= MANY
    const opaque = (part: StiltPart): boolean => this.#looks[part] === 'shown' && selected.length === 0 && !(part === 'shafts' && many)
    this.#setPlain(all, braces)
    for (const [part, { material }] of STILT_PARTS.flatMap(part => [[part, this.#plain[part]], [part, this.#ribbons[part]]] as const)) {
      // what stands beside a selection steps back
      material.opacity = this.#looks[part] === 'faint' ? FAINT : selected.length > 0 ? BESIDE : many && part === 'shafts' && stilts.length < THOUSANDS ? MANY_OPACITY : 1
      const transparent = material.opacity < 1
      if (material.transparent !== transparent) {
        material.transparent = transparent
        material.depthWrite = !transparent
        material.needsUpdate = true
      }
    }
    this.#casing.visible = selected.length === 0
    this.#rings.setFrustums((opaque('shafts') ? all : picked).map(d => d.rings))
    const whole = picked.flatMap(d => STILT_PARTS.map(part => d.parts[part]))
    this.#selected.setFrustums(whole)
    this.#halo.setFrustums(whole)
    const one = selected.length === 1 ? stilts.find(s => s.id === selected[0]) : undefined
    this.#grips.forEach((grip, i) => {
      grip.visible = !!one && (i === 0 || one.foot === 'plate')
      if (one) grip.position.set(...(one.path[i === 0 ? 0 : one.path.length - 1] as [number, number, number]))
    })
    this.#sizeGrips()
    this.#stage.invalidate()
  }

  #drawnOf(stilts: readonly Stilt[]): readonly DrawnStilt[] {
    if (this.#last.stilts === stilts) return this.#last.all
    const shared = new Set<string>()
    const all = stilts.map(s => {
      // what several share is drawn with the first of them
      const known = s.alone === s.nodes.length || !shared.has(s.nodes[s.alone]) ? this.#drawn : this.#drawnAlone
      for (const id of s.nodes.slice(s.alone)) shared.add(id)
      let made = known.get(s)
      if (!made) known.set(s, (made = frustumsOf(s, known === this.#drawn ? Infinity : s.alone)))
      return made
    })
    this.#last = { stilts, all }
    return all
  }
  #last: { readonly stilts: readonly Stilt[]; readonly all: readonly DrawnStilt[] } = { stilts: [], all: [] }

  /** Draws all stilts, whether they are selected or not: a selection lies over them, so a click makes nothing anew. */
  #setPlain(all: readonly DrawnStilt[], braces: readonly DrawnBrace[]): void {
    const last = this.#shown, coarse = all.length >= THOUSANDS
    const sameBraces = last.braces === braces || (last.braces.length === 0 && braces.length === 0)
    if (last.looks === this.#looks && sameBraces && (last.all === all || (last.all.length === all.length && last.all.every((d, i) => d === all[i])))) return
    this.#shown = { all, braces, looks: this.#looks }
    const stiff = Float32Array.from(braces.flatMap(({ from, to, diameterMm }) => {
      const along: Vec3 = [to[0] - from[0], to[1] - from[1], to[2] - from[2]]
      return frustum(from, to, diameterMm / 2, diameterMm / 2, along, along)
    }))
    const casing: Frustums[] = []
    // what is swept from tip to foot has no end that shows but the sole, unless a part of it is hidden
    const whole = STILT_PARTS.every(part => this.#looks[part] !== 'hidden')
    for (const part of STILT_PARTS) {
      const frustums = this.#looks[part] === 'hidden' ? [] : all.map(d => (coarse ? coarsely(d, part) : d.parts[part]))
      if (part === 'shafts' && this.#looks[part] !== 'hidden') frustums.push(stiff)
      if (this.#looks[part] === 'shown' && !coarse && !(part === 'shafts' && all.length >= MANY)) casing.push(...frustums)
      this.#plain[part].setFrustums(coarse ? [] : frustums, part === 'feet' || !whole)
      this.#ribbons[part].setFrustums(coarse ? frustums : [])
    }
    this.#casing.setFrustums(casing)
  }
  #shown: { readonly all: readonly DrawnStilt[]; readonly braces: readonly DrawnBrace[]; readonly looks: unknown } = { all: [], braces: [], looks: null }

  setGhost(stilt: StiltShape | null): void {
    const drawn = stilt && frustumsOf(stilt)
    this.#ghost.setFrustums(drawn ? STILT_PARTS.map(part => drawn.parts[part]) : [])
    this.#stage.invalidate()
  }

  setVisible(visible: boolean): void {
    this.#group.visible = visible
    this.#stage.invalidate()
  }

  /** Grips stay about 7 screen pixels in radius. */
  #sizeGrips(): void {
    for (const grip of this.#grips) {
      if (!grip.visible) continue
      grip.scale.setScalar(7 * this.#stage.mmPerPixel(this.#stage.eyeDistance(grip.position)))
      grip.updateMatrixWorld()
    }
  }

  /** Whether a ray meets the grip of the one selected stilt. */
  gripAt(ray: Ray): 'tip' | 'foot' | null {
    for (const [i, grip] of this.#grips.entries()) {
      if (grip.visible && ray.intersectsSphere(new Sphere(grip.position, grip.scale.x * 1.6))) return i === 0 ? 'tip' : 'foot'
    }
    return null
  }

  /** The nearest stilt that a ray passes, within its thickness and a little slack of the screen. */
  pick(ray: Ray): StiltHit | null {
    let best: StiltHit | null = null
    const onRay = new Vector3(), onAxis = new Vector3(), perPixel = this.#stage.mmPerPixel(1)
    for (const stilt of this.#stilts) {
      if (stilt.foot === 'lost') continue
      let axis = this.#axes.get(stilt)
      if (!axis) this.#axes.set(stilt, (axis = axisOf(stilt).map(p => new Vector3(...(p as [number, number, number])))))
      for (let i = 0; i + 1 < axis.length; i++) {
        const gap = Math.sqrt(ray.distanceSqToSegment(axis[i], axis[i + 1], onRay, onAxis))
        const distance = onRay.distanceTo(ray.origin)
        if (gap > stilt.sizes.kneeDiameterMm / 2 + 3 * perPixel * distance || (best && distance >= best.distance)) continue
        best = { stilt, part: i === 0 ? 'tip' : i === axis.length - 2 ? 'foot' : 'shaft', distance }
      }
    }
    return best
  }
}
