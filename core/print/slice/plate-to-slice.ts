import type { Copy, PrintSettings, Printer, Resin } from '../../contract'
import type { Mesh, Vec3 } from '../../mesh'
import type { Stand } from '../../pose'

/** A part as it stands by itself, with all that stands under it in its stand, one closed solid each. */
export interface PartToSlice {
  readonly id: string
  readonly mesh: Mesh
  readonly stand: Stand
  readonly stilts: readonly Mesh[]
  readonly raft: Mesh | null
}

/** All that layers are made of. */
export interface PlateToSlice {
  readonly parts: readonly PartToSlice[]
  readonly copies: readonly Pick<Copy, 'part' | 'xPixels' | 'yPixels' | 'turnDeg'>[]
  readonly printer: Pick<Printer, 'widthMm' | 'pixelsX' | 'pixelsY'>
  readonly layerMm: number
  readonly printing: Pick<PrintSettings, 'smoothing' | 'shrinkagePercent'>
  readonly resin: Pick<Resin, 'shrinkagePercent'>
}

/** How much larger everything is printed than it is to be, along x, y and z: what shrinks by a share s is made 1 ÷ (1 − s) as large. */
export function growthOf({ printing, resin }: Pick<PlateToSlice, 'printing' | 'resin'>): Vec3 {
  const grown = (percent: number): number => 1 / (1 - percent / 100), own = printing.shrinkagePercent
  return own ? [grown(own[0]), grown(own[1]), grown(own[2])] : [grown(resin.shrinkagePercent), grown(resin.shrinkagePercent), grown(resin.shrinkagePercent)]
}
