import { BackSide, Group, Mesh, MeshBasicMaterial, MeshLambertMaterial, type Ray, Sphere, SphereGeometry, Vector3 } from 'three'
import type { FootNode } from '@oak-stilts/core/contract'
import type { Vec3 } from '@oak-stilts/core/mesh'
import { axisOf, type Stilt, type StiltShape } from '@oak-stilts/core/stilts'
import type { Look } from '../stores/bench'
import { PALETTE } from '../styles/palette'
import { FLOATS, frustum, FrustumMesh, shapeFrustums, shapeRibbons, type Frustums } from './frustum-layer'
import type { Stage } from './stage'
import { fillOf, footFrustums, frustumsOf, STILT_PARTS, type DrawnStilt, type StiltPart } from './stilt-frustums'

export interface StiltHit {
  readonly stilt: Stilt
  readonly part: 'tip' | 'foot' | 'shaft'
  /** On its axis. */
  readonly at: Vec3
  readonly distance: number
}

/** A beam that only stiffens. */
export interface DrawnBrace {
  readonly from: Vec3
  readonly to: Vec3
  readonly diameterMm: number
  /** Where it goes down to a foot of its own on the plate. */
  readonly foot?: FootNode['fitted']
}

function braceFrustum({ from, to, diameterMm, foot }: DrawnBrace): Frustums {
  const end: Vec3 = foot ? [to[0], to[1], foot.footHeightMm] : to, along: Vec3 = [end[0] - from[0], end[1] - from[1], end[2] - from[2]]
  return Float32Array.from(frustum(from, end, diameterMm / 2, diameterMm / 2, along, along))
}

/** Radius of a grip of a tip or a foot, and of one between them, screen pixels. */
const END_GRIP_PX = 7, GRIP_PX = 5
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
  /** How much of what it can bear each stilt bears, from its foot up. */
  readonly #fill: FrustumMesh<MeshLambertMaterial>
  readonly #grips: Mesh<SphereGeometry, MeshBasicMaterial>[] = []
  /** What was made of stilts that are the same objects still. */
  readonly #drawn = new WeakMap<Stilt, DrawnStilt>()
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
    this.#fill = new FrustumMesh(shapeFrustums(new MeshLambertMaterial({ color: PALETTE.stilt, flatShading: true, clippingPlanes })))
    // the selection shines through whatever stands before it
    this.#halo = new FrustumMesh(shapeFrustums(new MeshBasicMaterial({ color: PALETTE.accent, transparent: true, opacity: 0.42, depthTest: false, depthWrite: false })))
    this.#halo.renderOrder = 2
    this.#group.add(...Object.values(this.#plain), ...Object.values(this.#ribbons), this.#casing, this.#rings, this.#fill, this.#selected, this.#halo, this.#ghost)
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
    this.set(this.#stilts, this.#chosen, this.#braces, this.#editable)
  }
  /** Fills every stilt from its foot up, to a share of its way, and lets the stilts themselves step back; null to draw them as they are. */
  setFill(shares: ReadonlyMap<string, number> | null): void {
    if (this.#shares === shares) return
    this.#shares = shares
    this.set(this.#stilts, this.#chosen, this.#braces, this.#editable)
  }
  #shares: ReadonlyMap<string, number> | null = null
  #looks: Readonly<Record<StiltPart, Look>> = { tips: 'shown', shafts: 'shown', feet: 'shown' }
  #chosen: readonly string[] = []
  #editable = true

  /** Stilts and braces that are drawn. */
  get count(): number {
    return this.#stilts.length + this.#braces.length
  }

  /** Shows the stilts of the plan. What was made for stilts that did not change is used again. @param editable whether the one that is selected has grips */
  set(stilts: readonly Stilt[], selected: readonly string[], braces: readonly DrawnBrace[] = [], editable = true): void {
    this.#stilts = stilts
    this.#chosen = selected
    this.#braces = braces
    this.#editable = editable
    const chosen = new Set(selected), all = this.#drawnOf(stilts), picked = all.filter((_, i) => chosen.has(stilts[i].id)), many = stilts.length >= MANY
    const opaque = (part: StiltPart): boolean => this.#looks[part] === 'shown' && selected.length === 0 && !(part === 'shafts' && many)
    this.#setPlain(all, braces)
    for (const [part, { material }] of STILT_PARTS.flatMap(part => [[part, this.#plain[part]], [part, this.#ribbons[part]]] as const)) {
      // what stands beside a selection steps back
      material.opacity = this.#looks[part] === 'faint' || this.#shares ? FAINT : selected.length > 0 ? BESIDE : many && part === 'shafts' && stilts.length < THOUSANDS ? MANY_OPACITY : 1
      const transparent = material.opacity < 1
      if (material.transparent !== transparent) {
        material.transparent = transparent
        material.depthWrite = !transparent
        material.needsUpdate = true
      }
    }
    this.#casing.visible = selected.length === 0 && !this.#shares
    this.#fill.setFrustums(this.#shares && this.#looks.shafts !== 'hidden' ? stilts.map(s => fillOf(s, this.#shares?.get(s.id) ?? 0, s.alone < s.nodes.length ? s.alone : Infinity)) : [])
    this.#rings.setFrustums((opaque('shafts') ? all : picked).map(d => d.rings))
    const whole = picked.flatMap(d => STILT_PARTS.map(part => d.parts[part]))
    this.#selected.setFrustums(whole)
    this.#halo.setFrustums(whole)
    const one = selected.length === 1 ? stilts.find(s => s.id === selected[0]) : undefined
    this.#setGrips(editable ? (one ?? null) : null)
    this.#stage.invalidate()
  }

  #drawnOf(stilts: readonly Stilt[]): readonly DrawnStilt[] {
    if (this.#last.stilts === stilts) return this.#last.all
    const all = stilts.map(s => {
      let made = this.#drawn.get(s)
      // what a branch shares is drawn with the stilt that it joins
      if (!made) this.#drawn.set(s, (made = frustumsOf(s, s.alone < s.nodes.length ? s.alone : Infinity)))
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
    const stiff = Float32Array.from(braces.flatMap(b => [...braceFrustum(b)])), soles = Float32Array.from(braces.flatMap(b => (b.foot ? footFrustums(b.to, b.foot) : [])))
    const casing: Frustums[] = []
    // what is swept from tip to foot has no end that shows but the sole, unless a part of it is hidden
    const whole = STILT_PARTS.every(part => this.#looks[part] !== 'hidden')
    for (const part of STILT_PARTS) {
      const frustums = this.#looks[part] === 'hidden' ? [] : all.map(d => (coarse ? coarsely(d, part) : d.parts[part]))
      if (part === 'shafts' && this.#looks[part] !== 'hidden') frustums.push(stiff)
      if (part === 'feet' && this.#looks[part] !== 'hidden') frustums.push(soles)
      if (this.#looks[part] === 'shown' && !coarse && !(part === 'shafts' && all.length >= MANY)) casing.push(...frustums)
      this.#plain[part].setFrustums(coarse ? [] : frustums, part === 'feet' || !whole)
      this.#ribbons[part].setFrustums(coarse ? frustums : [])
    }
    this.#casing.setFrustums(casing)
  }
  #shown: { readonly all: readonly DrawnStilt[]; readonly braces: readonly DrawnBrace[]; readonly looks: unknown } = { all: [], braces: [], looks: null }

  /** @param segments so many of its segments from the tip on */
  setGhost(stilt: StiltShape | null, segments = Infinity): void {
    const drawn = stilt && frustumsOf(stilt, segments)
    this.#ghost.setFrustums(drawn ? STILT_PARTS.map(part => drawn.parts[part]) : [])
    this.#stage.invalidate()
  }

  /** The ghost of a single beam; null for none. */
  setGhostBeam(beam: DrawnBrace | null): void {
    this.#ghost.setFrustums(beam ? [braceFrustum(beam)] : [])
    this.#stage.invalidate()
  }

  setVisible(visible: boolean): void {
    this.#group.visible = visible
    this.#stage.invalidate()
  }

  /** Grips of one stilt: its tip, knee, joints and foot, as far as they are its own; those of tip and foot are larger. */
  #setGrips(stilt: Stilt | null): void {
    const last = (stilt?.path.length ?? 0) - 1, nodes = stilt && stilt.foot !== 'lost' ? Array.from({ length: stilt.alone }, (_, i) => i).filter(i => i < last || stilt.foot === 'plate') : []
    while (this.#grips.length < nodes.length) {
      const grip = new Mesh(new SphereGeometry(1, 16, 12), new MeshBasicMaterial({ color: PALETTE.accent, depthTest: false, transparent: true })), middle = new Mesh(new SphereGeometry(0.66, 16, 12), new MeshBasicMaterial({ color: PALETTE.panel, depthTest: false, transparent: true }))
      grip.renderOrder = 5
      middle.renderOrder = 6
      grip.add(middle)
      this.#grips.push(grip)
      this.#group.add(grip)
    }
    this.#grips.forEach((grip, k) => {
      grip.visible = k < nodes.length
      if (!stilt || k >= nodes.length) return
      grip.position.set(...(stilt.path[nodes[k]] as [number, number, number]))
      grip.userData.node = nodes[k]
      grip.userData.px = nodes[k] === 0 || nodes[k] === last ? END_GRIP_PX : GRIP_PX
    })
    this.#sizeGrips()
  }

  /** Grips stay as large on the screen as they are. */
  #sizeGrips(): void {
    for (const grip of this.#grips) {
      if (!grip.visible) continue
      grip.scale.setScalar((grip.userData.px as number) * this.#stage.mmPerPixel(this.#stage.eyeDistance(grip.position)))
      grip.updateMatrixWorld()
    }
  }

  /** The node of the one selected stilt whose grip a ray meets; null for none. The tip and the foot come before what is near to them. */
  gripAt(ray: Ray): number | null {
    const met = this.#grips.filter(grip => grip.visible && ray.intersectsSphere(new Sphere(grip.position, grip.scale.x * 1.6))).sort((a, b) => (b.userData.px as number) - (a.userData.px as number))
    return met.length > 0 ? (met[0].userData.node as number) : null
  }

  /** The nearest stilt that a ray passes, within its thickness and a little slack of the screen. */
  pick(ray: Ray): StiltHit | null {
    let best: StiltHit | null = null
    const onRay = new Vector3(), onAxis = new Vector3(), perPixel = this.#stage.mmPerPixel(1)
    for (const stilt of this.#stilts) {
      if (stilt.foot === 'lost') continue
      let axis = this.#axes.get(stilt)
      if (!axis) this.#axes.set(stilt, (axis = axisOf(stilt).map(p => new Vector3(...(p as [number, number, number])))))
      // what it shares belongs to the one that it joins
      for (let i = 0; i < Math.min(stilt.alone, axis.length - 1); i++) {
        const gap = Math.sqrt(ray.distanceSqToSegment(axis[i], axis[i + 1], onRay, onAxis))
        const distance = onRay.distanceTo(ray.origin)
        // what is cut away is out of reach
        if (onAxis.z > this.#stage.section.constant || onAxis.z < -this.#stage.floor.constant) continue
        if (gap > stilt.sizes.kneeDiameterMm / 2 + 3 * perPixel * distance || (best && distance >= best.distance)) continue
        best = { stilt, part: i === 0 ? 'tip' : i === axis.length - 2 ? 'foot' : 'shaft', at: [onAxis.x, onAxis.y, onAxis.z], distance }
      }
    }
    return best
  }
}
