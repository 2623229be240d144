import type { ProofCheck } from '../contract'
import { joinMeshes, readModel, wholeOf, writeStl } from '../mesh'
import { moveMesh } from '../pose'
import { solidsOfPart } from '../raft'
import { layerAreas } from '../scan'
import type { Proof, Proven } from './prove'

/** Layers that are compared, spread evenly from the first to the last. */
const LAYERS = 48
/** What is written is rounded to single precision: layers differ by no more than this share of their area, or by a few pixels. */
const MOST_SHARE = 0.005, FEW_PIXELS = 40

/** Whether what is written to a file is what was proved: part and supports are written, read again, and layers of that are compared with those of the scan. */
export async function writtenCheck({ scan, result, surface, index, part, raft }: Proven): Promise<ProofCheck> {
  const bytes = writeStl(joinMeshes([moveMesh(surface.faces, surface.stand), ...solidsOfPart(index, part, raft)]), 'as written'), read = wholeOf(await readModel(bytes))
  const { raster } = scan, count = result.areaMm2.length, layers = [...new Set(Array.from({ length: Math.min(LAYERS, count) }, (_, i) => Math.round((i * (count - 1)) / Math.max(1, LAYERS - 1))))], areas = layerAreas(read, raster, layers)
  const differ = layers.flatMap((layer, i) => {
    const known = result.areaMm2[layer], offMm2 = Math.abs(areas[i] - known)
    return offMm2 > Math.max(MOST_SHARE * known, FEW_PIXELS * raster.pixelMm ** 2) ? [{ layer, offMm2 }] : []
  }).sort((a, b) => b.offMm2 - a.offMm2)
  return {
    kind: 'written', state: differ.length > 0 ? 'bad' : 'good', count: differ.length, figure: differ[0]?.offMm2 ?? 0, limit: null, unit: 'mm²', places: differ.slice(0, 20).map(d => ({ at: null, layer: d.layer, figure: d.offMm2, stilts: [] })),
    sentence: differ.length > 0 ? `What is written to a file has other layers than what was proved; in layer ${differ[0].layer + 1} it differs by ${differ[0].offMm2.toFixed(2)} mm².` : `Written to a file and read again it has the same layers; ${layers.length} were compared.`,
  }
}

/** A proof with the check of what is written. */
export async function withWritten(of: Proven, proof: Proof): Promise<Proof> {
  return { ...proof, checks: [...proof.checks, await writtenCheck(of)] }
}
