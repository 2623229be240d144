import { MeshError } from '../mesh-error'
import type { ModelFormat } from './model-file'

/** @throws MeshError where a coordinate is no number; how many are not */
export function requireNumbers(positions: Float32Array): void {
  let bad = 0
  for (let i = 0; i < positions.length; i++) if (!Number.isFinite(positions[i])) bad++
  if (bad > 0) {
    throw new MeshError('not-finite', `${bad === 1 ? '1 coordinate in this file is not a number' : `${bad} coordinates in this file are not numbers`}. Repair the model in the program that made it and export it again.`)
  }
}

export function tooManyTriangles(most: number): MeshError {
  return new MeshError('too-large', `This model has over ${(most / 1e6).toFixed(1)} million triangles, more than there is memory for. Reduce their number and export it again.`)
}

export function noTriangles(format: ModelFormat): MeshError {
  return new MeshError('empty', `This ${format.toUpperCase()} holds no triangles. Export the model again, with the model selected.`)
}

export function cutShort(what: string): MeshError {
  return new MeshError('cut-short', `This file is cut short: ${what}. Copy or download it again.`)
}

export function damaged(what: string): MeshError {
  return new MeshError('damaged', `This file is damaged: ${what}. Export the model again.`)
}
