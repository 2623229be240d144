import type { RehearsalReport } from '@oak-stilts/core/contract'
import { checkDigest, openPackage, rehearse } from '@oak-stilts/core/print'
import type { Options } from './arguments'
import { withFile } from './files'
import type { Output } from './output'

/** Rehearses a package of layers from its pictures alone. Gives whether nothing is wrong with it. */
export async function rehearsePackage({ file, settings, json }: Options, output: Output): Promise<boolean> {
  const { manifest, faults, result, firstLayer } = await withFile(file as string, source => {
    for (const steps = checkDigest(source); !steps.next().done;);
    return openPackage(source, found => {
      const steps = rehearse(found, settings)
      let step = steps.next()
      while (!step.done) step = steps.next()
      return Promise.resolve(step.value)
    })
  })
  const islands = result.islands.filter(i => i.state === 'open'), cups = result.cups.filter(c => c.ends !== 'vent')
  const report: RehearsalReport = {
    good: faults.length === 0 && islands.length === 0, name: manifest.name, printer: manifest.printer.name, layers: manifest.layers.length, layerMm: manifest.layerMm, faults: [...faults],
    islands: islands.map(({ layer, areaMm2, volumeMm3, aim }) => ({ layer, areaMm2, volumeMm3, at: [aim[0], aim[1], aim[2]] })), cups: cups.map(({ firstLayer: first, lastLayer, peakAreaMm2, volumeMm3, at }) => ({ firstLayer: first, lastLayer, peakAreaMm2, volumeMm3, at: [at[0], at[1], at[2]] })), firstLayer, areaMm2: [...result.areaMm2],
  }
  output.result(json ? JSON.stringify(report) : [
    `${report.name}: ${report.layers} layers of ${report.layerMm} mm for ${report.printer}; ${report.good ? 'its pictures hold together' : 'something is wrong with its pictures'}`,
    `first layer: ${firstLayer.regions} ${firstLayer.regions === 1 ? 'region' : 'regions'}, ${firstLayer.areaMm2.toFixed(1)} mm²`,
    ...faults.map(f => `see  ${f.sentence}`), ...islands.map(i => `see  Layer ${i.layer + 1} lays ${i.areaMm2.toFixed(2)} mm² on nothing.`), ...cups.map(c => `     Layers ${c.firstLayer + 1} to ${c.lastLayer + 1} make a cup of ${(c.volumeMm3 / 1000).toFixed(2)} cm³.`),
  ].join('\n'))
  return report.good
}
