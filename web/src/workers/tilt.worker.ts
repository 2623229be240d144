import { expose } from 'comlink'
import type { Resin, ScanSettings } from '@oak-stilts/core/contract'
import { decodeMesh, drawPicture, encodeMesh, lighterMesh, type Mesh } from '@oak-stilts/core/mesh'
import { rotationOf, type TiltAngles } from '@oak-stilts/core/pose'
import { cellOf, measureCoarsely, measureFully, NO_SYMMETRY, SkinTable, symmetryOf, type Symmetry, type TiltBasis, type TiltMeasures } from '@oak-stilts/core/tilts'
import { holdLife } from './supervised'

/** What tilts of a part depend on besides its mesh. */
export interface TiltTerms {
  readonly liftMm: number
  readonly settings: ScanSettings
  readonly resin: Resin
  readonly layerMm: number
  readonly pixelMm: number
}

/** Triangles of the lighter mesh that coarse cells are filled from. */
const LIGHT_TRIANGLES = 40_000

let mesh: Mesh | null = null
let light: Mesh | null = null
let basis: TiltBasis | null = null
let pixelMm = 0.05

function known<T>(value: T | null): T {
  if (value === null) throw new Error('No model is loaded.')
  return value
}

const tiltWorker = {
  /** Takes a part and what its faces are worth; null where all are plain. */
  load(buffer: ArrayBuffer, worths: Uint8Array | null, terms: TiltTerms): void {
    mesh = decodeMesh(buffer)
    pixelMm = terms.pixelMm
    basis = { ...terms, skin: new SkinTable(mesh, worths) }
  },

  /** Makes the lighter mesh, for itself and others, and looks for an axis of symmetry; marks make sides differ. */
  async lighten(marked: boolean): Promise<{ buffer: ArrayBuffer; symmetry: Symmetry; cellMm: number }> {
    light = await lighterMesh(known(mesh), LIGHT_TRIANGLES)
    return { buffer: encodeMesh(light).buffer as ArrayBuffer, symmetry: marked ? NO_SYMMETRY : symmetryOf(light), cellMm: cellOf(light) }
  },
  takeLight(buffer: ArrayBuffer): void {
    light = decodeMesh(buffer)
  },

  coarse(tilts: readonly TiltAngles[], cellMm: number): TiltMeasures[] {
    return tilts.map(t => measureCoarsely(known(light), t, cellMm, known(basis)))
  },

  /** By the real scan. */
  full(tilt: TiltAngles): TiltMeasures {
    for (const steps = measureFully(known(mesh), tilt, pixelMm, known(basis)); ;) {
      const step = steps.next()
      if (step.done) return step.value
    }
  },

  /** A small picture of the part, tilted, as rows of red, green, blue and alpha. */
  picture(tilt: TiltAngles, turnDeg: number, width: number, height: number): Uint8Array {
    const r = rotationOf({ ...tilt, turnDeg, liftMm: 0 }), { positions: p, triangles } = known(light), positions = new Float32Array(p.length)
    for (let i = 0; i < p.length; i += 3) for (let c = 0; c < 3; c++) positions[i + c] = r[3 * c] * p[i] + r[3 * c + 1] * p[i + 1] + r[3 * c + 2] * p[i + 2]
    return drawPicture([{ mesh: { positions, triangles }, lit: [225, 219, 205], shade: [105, 98, 85] }], width, height, 30, 8).rgba
  },
}

export type TiltWorker = typeof tiltWorker
expose(tiltWorker)
holdLife()
