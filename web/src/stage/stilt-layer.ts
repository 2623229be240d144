import { BackSide, BufferAttribute, BufferGeometry, Group, Mesh, MeshBasicMaterial, MeshLambertMaterial, type Ray, Sphere, SphereGeometry, Vector3 } from 'three'
import { joinMeshes, type Mesh as TriangleMesh } from '@oak-stilts/core/mesh'
import { axisOf, GAUGES, solidOfStilt, type Stilt, type StiltShape } from '@oak-stilts/core/stilts'
import type { Look } from '../stores/bench'
import { PALETTE } from '../styles/palette'
import type { Stage } from './stage'

export interface StiltHit {
  readonly stilt: Stilt
  readonly part: 'tip' | 'foot' | 'shaft'
  readonly distance: number
}

/** Parts of a stilt that are shown or hidden by themselves. */
export type StiltPart = 'tips' | 'shafts' | 'feet'
const PARTS: readonly StiltPart[] = ['tips', 'shafts', 'feet']
/** How opaque what is faint is, and what stands beside a selection. */
const FAINT = 0.2, BESIDE = 0.42
/** From this many stilts on shafts are seen through, so that they do not hide the part; how opaque they are then. */
const MANY = 80, MANY_OPACITY = 0.48

/** All stilts as one geometry, the selected ones as another, and the ghost of what the pointer would place. */
export class StiltLayer {
  readonly #stage: Stage
  readonly #group = new Group()
  readonly #plain: Readonly<Record<StiltPart, Mesh<BufferGeometry, MeshLambertMaterial>>>
  readonly #selected: Mesh<BufferGeometry, MeshLambertMaterial>
  readonly #halo: Mesh<BufferGeometry, MeshBasicMaterial>
  readonly #ghost: Mesh<BufferGeometry, MeshBasicMaterial>
  readonly #casing: Mesh<BufferGeometry, MeshBasicMaterial>
  readonly #rings: Mesh<BufferGeometry, MeshBasicMaterial>
  readonly #grips: Mesh<SphereGeometry, MeshBasicMaterial>[] = []
  readonly #solids = new WeakMap<Stilt, TriangleMesh>()
  #stilts: readonly Stilt[] = []

  constructor(stage: Stage) {
    this.#stage = stage
    const clippingPlanes = [stage.section, stage.floor]
    const part = (): Mesh<BufferGeometry, MeshLambertMaterial> => new Mesh(new BufferGeometry(), new MeshLambertMaterial({ color: PALETTE.stilt, flatShading: true, clippingPlanes }))
    this.#plain = { tips: part(), shafts: part(), feet: part() }
    this.#selected = new Mesh(new BufferGeometry(), new MeshLambertMaterial({ color: PALETTE.accent, flatShading: true, emissive: PALETTE.accent, emissiveIntensity: 0.35 }))
    this.#ghost = new Mesh(new BufferGeometry(), new MeshBasicMaterial({ color: PALETTE.stilt, transparent: true, opacity: 0.5, depthWrite: false }))
    // a paper-coloured rim around every stilt, so that shafts part where they cross
    this.#casing = new Mesh(new BufferGeometry(), new MeshBasicMaterial({ color: PALETTE.paper, side: BackSide, clippingPlanes }))
    this.#casing.material.onBeforeCompile = shader => {
      shader.vertexShader = shader.vertexShader.replace('#include <project_vertex>', `#include <project_vertex>
        vec3 outward = normalize(normalMatrix * normal);
        mvPosition.xyz += outward * (-mvPosition.z * 0.0007);
        gl_Position = projectionMatrix * mvPosition;`)
    }
    this.#rings = new Mesh(new BufferGeometry(), new MeshBasicMaterial({ color: '#E9E2D0', clippingPlanes }))
    // the selection shines through whatever stands before it
    this.#halo = new Mesh(new BufferGeometry(), new MeshBasicMaterial({ color: PALETTE.accent, transparent: true, opacity: 0.42, depthTest: false, depthWrite: false }))
    this.#halo.renderOrder = 2
    for (const m of [...Object.values(this.#plain), this.#casing, this.#rings, this.#selected, this.#halo, this.#ghost]) {
      m.frustumCulled = false
      m.visible = false
    }
    for (let i = 0; i < 2; i++) {
      const grip = new Mesh(new SphereGeometry(1, 16, 12), new MeshBasicMaterial({ color: PALETTE.accent, depthTest: false, transparent: true, opacity: 0.85 }))
      grip.renderOrder = 5
      grip.visible = false
      this.#grips.push(grip)
    }
    this.#group.add(...Object.values(this.#plain), this.#casing, this.#rings, this.#selected, this.#halo, this.#ghost, ...this.#grips)
    stage.stand.add(this.#group)
    stage.onFrame(() => this.#sizeGrips())
  }

  /** How the parts of all stilts are drawn. */
  setLooks(looks: Readonly<Record<StiltPart, Look>>): void {
    this.#looks = looks
    this.set(this.#stilts, this.#chosen)
  }
  #looks: Readonly<Record<StiltPart, Look>> = { tips: 'shown', shafts: 'shown', feet: 'shown' }
  #chosen: readonly string[] = []

  /** Shows the stilts of the plan. Solids of stilts that did not change are used again. */
  set(stilts: readonly Stilt[], selected: readonly string[]): void {
    this.#stilts = stilts
    this.#chosen = selected
    const chosen = new Set(selected)
    const solid = (s: Stilt): TriangleMesh => {
      let m = this.#solids.get(s)
      if (!m) this.#solids.set(s, (m = solidOfStilt(s)))
      return m
    }
    const plain = stilts.filter(s => !chosen.has(s.id))
    const crowded = (part: StiltPart): boolean => part === 'shafts' && stilts.length >= MANY
    const opaque = (part: StiltPart): boolean => this.#looks[part] === 'shown' && selected.length === 0 && !crowded(part)
    for (const part of PARTS) {
      const mesh = this.#plain[part]
      show(mesh, joinMeshes(plain.map(s => partOf(s, solid(s), part))))
      mesh.visible &&= this.#looks[part] !== 'hidden'
      // what stands beside a selection steps back
      mesh.material.opacity = this.#looks[part] === 'faint' ? FAINT : selected.length > 0 ? BESIDE : crowded(part) ? MANY_OPACITY : 1
      const transparent = mesh.material.opacity < 1
      if (mesh.material.transparent !== transparent) {
        mesh.material.transparent = transparent
        mesh.material.depthWrite = !transparent
        mesh.material.needsUpdate = true
      }
    }
    show(this.#casing, joinMeshes(plain.flatMap(s => PARTS.filter(opaque).map(part => partOf(s, solid(s), part)))), true)
    show(this.#rings, joinMeshes(opaque('shafts') ? stilts.map(gaugeRings) : stilts.filter(s => chosen.has(s.id)).map(gaugeRings)))
    const chosenSolid = joinMeshes(stilts.filter(s => chosen.has(s.id)).map(solid))
    show(this.#selected, chosenSolid)
    show(this.#halo, chosenSolid)
    const one = selected.length === 1 ? stilts.find(s => s.id === selected[0]) : undefined
    this.#grips.forEach((grip, i) => {
      grip.visible = !!one && (i === 0 || one.foot === 'plate')
      if (one) grip.position.set(...(one.path[i === 0 ? 0 : one.path.length - 1] as [number, number, number]))
    })
    this.#sizeGrips()
    this.#stage.invalidate()
  }

  setGhost(stilt: StiltShape | null): void {
    if (stilt) show(this.#ghost, solidOfStilt(stilt))
    else this.#ghost.visible = false
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
      const distance = this.#stage.eyeDistance(grip.position)
      const size = (distance * Math.tan((this.#stage.camera.fov * Math.PI) / 360) * 2 * 7) / Math.max(1, this.#stage.host.clientHeight)
      grip.scale.setScalar(size)
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
    const onRay = new Vector3(), onAxis = new Vector3()
    for (const stilt of this.#stilts) {
      if (stilt.foot === 'lost') continue
      const axis = axisOf(stilt)
      for (let i = 0; i + 1 < axis.length; i++) {
        const a = new Vector3(...(axis[i] as [number, number, number])), b = new Vector3(...(axis[i + 1] as [number, number, number]))
        const gap = Math.sqrt(ray.distanceSqToSegment(a, b, onRay, onAxis))
        const distance = onRay.distanceTo(ray.origin)
        const slack = (distance * Math.tan((this.#stage.camera.fov * Math.PI) / 360) * 2 * 3) / Math.max(1, this.#stage.host.clientHeight)
        if (gap > stilt.sizes.kneeDiameterMm / 2 + slack || (best && distance >= best.distance)) continue
        best = { stilt, part: i === 0 ? 'tip' : i === axis.length - 2 ? 'foot' : 'shaft', distance }
      }
    }
    return best
  }
}

/** The triangles of a stilt's solid that make one of its parts: above the knee, on the foot, in between. */
function partOf(stilt: Stilt, solid: TriangleMesh, part: StiltPart): TriangleMesh {
  if (solid.triangles.length === 0) return solid
  const { path, foot, sizes } = stilt
  const knee = path[1][2] - 1e-4, base = foot === 'plate' ? sizes.footHeightMm + 1e-4 : path[path.length - 2][2] + 1e-4
  const { positions: p, triangles: t } = solid
  const out: number[] = []
  for (let i = 0; i < t.length; i += 3) {
    const a = p[3 * t[i] + 2], b = p[3 * t[i + 1] + 2], c = p[3 * t[i + 2] + 2], high = Math.max(a, b, c), middle = (a + b + c) / 3
    const of: StiltPart = middle > knee ? 'tips' : high <= base + sizes.shaftFootDiameterMm / 2 && middle < base ? 'feet' : 'shafts'
    if (of === part) out.push(t[i], t[i + 1], t[i + 2])
  }
  return { positions: p, triangles: Uint32Array.from(out) }
}

const RING_SIDES = 12

/** One to four pale rings above the foot tell the gauges apart; drawn only, never exported. */
function gaugeRings(stilt: Stilt): TriangleMesh {
  const count = stilt.foot === 'plate' ? GAUGES.findIndex(g => g.id === stilt.gauge) + 1 : 0
  const axis = axisOf(stilt)
  const foot = axis[axis.length - 1], above = axis[axis.length - 2]
  const rise = above[2] - foot[2]
  const positions: number[] = [], triangles: number[] = []
  for (let i = 0; i < count; i++) {
    const low = 0.7 + i * 0.75, high = low + 0.38
    if (high > rise) break
    const base = positions.length / 3
    for (const h of [low, high]) {
      const t = h / rise
      const radius = stilt.sizes.shaftFootDiameterMm / 2 + 0.03
      for (let s = 0; s < RING_SIDES; s++) {
        const a = (2 * Math.PI * s) / RING_SIDES
        positions.push(foot[0] + (above[0] - foot[0]) * t + radius * Math.cos(a), foot[1] + (above[1] - foot[1]) * t + radius * Math.sin(a), foot[2] + h)
      }
    }
    for (let s = 0; s < RING_SIDES; s++) {
      const u = (s + 1) % RING_SIDES
      triangles.push(base + s, base + u, base + RING_SIDES + u, base + s, base + RING_SIDES + u, base + RING_SIDES + s)
    }
  }
  return { positions: Float32Array.from(positions), triangles: Uint32Array.from(triangles) }
}

function show(target: Mesh, mesh: TriangleMesh, normals = false): void {
  target.geometry.dispose()
  const geometry = new BufferGeometry()
  geometry.setAttribute('position', new BufferAttribute(mesh.positions, 3))
  geometry.setIndex(new BufferAttribute(mesh.triangles, 1))
  if (normals) geometry.computeVertexNormals()
  target.geometry = geometry
  target.visible = mesh.triangles.length > 0
}
