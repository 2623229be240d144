import { BackSide, BufferAttribute, BufferGeometry, Group, Mesh, MeshBasicMaterial, MeshLambertMaterial, type Ray, Sphere, SphereGeometry, Vector3 } from 'three'
import { joinMeshes, type Mesh as TriangleMesh } from '@oak-stilts/core/mesh'
import { axisOf, GAUGES, solidOfStilt, type Stilt } from '@oak-stilts/core/stilts'
import { PALETTE } from '../styles/palette'
import type { Stage } from './stage'

export interface StiltHit {
  readonly stilt: Stilt
  readonly part: 'tip' | 'foot' | 'shaft'
  readonly distance: number
}

/** All stilts as one geometry, the selected ones as another, and the ghost of what the pointer would place. */
export class StiltLayer {
  readonly #stage: Stage
  readonly #group = new Group()
  readonly #plain: Mesh<BufferGeometry, MeshLambertMaterial>
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
    this.#plain = new Mesh(new BufferGeometry(), new MeshLambertMaterial({ color: PALETTE.stilt, flatShading: true, clippingPlanes }))
    this.#selected = new Mesh(new BufferGeometry(), new MeshLambertMaterial({ color: PALETTE.accent, flatShading: true, emissive: PALETTE.accent, emissiveIntensity: 0.35 }))
    this.#ghost = new Mesh(new BufferGeometry(), new MeshBasicMaterial({ color: PALETTE.stilt, transparent: true, opacity: 0.5, depthWrite: false }))
    // a paper-coloured rim around every stilt, so that shafts part where they cross
    this.#casing = new Mesh(new BufferGeometry(), new MeshBasicMaterial({ color: PALETTE.paper, side: BackSide, clippingPlanes }))
    this.#casing.material.onBeforeCompile = shader => {
      shader.vertexShader = shader.vertexShader.replace('#include <project_vertex>', `#include <project_vertex>
        vec3 outward = normalize(normalMatrix * normal);
        mvPosition.xyz += outward * (-mvPosition.z * 0.0012);
        gl_Position = projectionMatrix * mvPosition;`)
    }
    this.#rings = new Mesh(new BufferGeometry(), new MeshBasicMaterial({ color: '#E9E2D0', clippingPlanes }))
    // the selection shines through whatever stands before it
    this.#halo = new Mesh(new BufferGeometry(), new MeshBasicMaterial({ color: PALETTE.accent, transparent: true, opacity: 0.42, depthTest: false, depthWrite: false }))
    this.#halo.renderOrder = 2
    for (const m of [this.#plain, this.#casing, this.#rings, this.#selected, this.#halo, this.#ghost]) {
      m.frustumCulled = false
      m.visible = false
    }
    for (let i = 0; i < 2; i++) {
      const grip = new Mesh(new SphereGeometry(1, 16, 12), new MeshBasicMaterial({ color: PALETTE.accent, depthTest: false, transparent: true, opacity: 0.85 }))
      grip.renderOrder = 5
      grip.visible = false
      this.#grips.push(grip)
    }
    this.#group.add(this.#plain, this.#casing, this.#rings, this.#selected, this.#halo, this.#ghost, ...this.#grips)
    stage.scene.add(this.#group)
    stage.onFrame(() => this.#sizeGrips())
  }

  /** Shows the stilts of the plan. Solids of stilts that did not change are used again. */
  set(stilts: readonly Stilt[], selected: readonly number[]): void {
    this.#stilts = stilts
    const chosen = new Set(selected)
    const solid = (s: Stilt): TriangleMesh => {
      let m = this.#solids.get(s)
      if (!m) this.#solids.set(s, (m = solidOfStilt(s)))
      return m
    }
    show(this.#plain, joinMeshes(stilts.filter(s => !chosen.has(s.id)).map(solid)))
    const all = joinMeshes(stilts.map(solid))
    show(this.#casing, all, true)
    show(this.#rings, joinMeshes(stilts.map(gaugeRings)))
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

  setGhost(stilt: Stilt | null): void {
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
      const distance = grip.position.distanceTo(this.#stage.camera.position)
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
      if (stilt.foot === 'none') continue
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
