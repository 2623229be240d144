import type { Copy, Part, PrintFacts, Printer, PrintSettings, Resin } from '../contract'

/** What a print depended on, of a job as it is. @param tipsOf the tips of a part: the name of the gauge of each, and its diameter, mm */
export function factsOf(job: { readonly printer: Printer; readonly resin: Resin; readonly layerMm: number; readonly printing: PrintSettings }, parts: readonly Part[], copies: readonly Copy[], layers: number, tipsOf: (part: Part) => readonly { readonly gauge: string; readonly diameterMm: number }[]): PrintFacts {
  const { exposureS, bottomExposureS, bottomLayers, transitionLayers, restS, travelMm, travelUpMmMin, travelDownMmMin, name } = job.resin
  return {
    printer: job.printer.name, layerMm: job.layerMm, layers, resin: { name, exposureS, bottomExposureS, bottomLayers, transitionLayers, restS, travelMm, travelUpMmMin, travelDownMmMin },
    smoothing: job.printing.smoothing, ranges: job.printing.ranges.map(({ fromMm, toMm }) => ({ fromMm, toMm })),
    parts: parts.map(p => {
      const tips = tipsOf(p), sizes = tips.map(t => t.diameterMm), gauges = new Map<string, number>()
      for (const t of tips) gauges.set(t.gauge, (gauges.get(t.gauge) ?? 0) + 1)
      return {
        id: p.id, name: p.name, tiltXDeg: p.pose.tiltXDeg, tiltYDeg: p.pose.tiltYDeg, liftMm: p.pose.liftMm, raft: p.raft.kind, stilts: tips.length, gauges: [...gauges].map(([gauge, count]) => ({ name: gauge, count })),
        leastTipMm: sizes.length > 0 ? Math.min(...sizes) : 0, mostTipMm: sizes.length > 0 ? Math.max(...sizes) : 0, copies: copies.filter(c => c.part === p.id).map(c => c.id), recipe: tips.length > 0 ? p.plannedBy : null,
      }
    }),
  }
}
