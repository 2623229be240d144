import { Zip, ZipDeflate } from 'fflate'
import { pixelMmOf } from '../../contract'
import { LayerContours } from '../../carve'
import { escapeXml, joinMeshes, singleText, weldVertices, type Mesh } from '../../mesh'
import { after, AS_IS, moveMesh, plateOf, type RigidMotion } from '../../pose'
import { growthOf, type PartToSlice, type PlateToSlice } from '../slice/plate-to-slice'

const CORE = 'http://schemas.microsoft.com/3dmanufacturing/core/2015/02', SLICES = 'http://schemas.microsoft.com/3dmanufacturing/slice/2015/07'
const CONTENT_TYPES = '<?xml version="1.0" encoding="UTF-8"?>\n<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>'
const RELATIONSHIPS = '<?xml version="1.0" encoding="UTF-8"?>\n<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Target="/3D/3dmodel.model" Id="rel0" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>'

/** Points of contours are moved by no more than this, mm. */
const WITHIN_MM = 0.005
const MADE = new Date(1980, 0, 1)
/** Letters that go out together. */
const PIECE = 1 << 16

/**
 * Writes a plate as 3MF with slices, a piece at a time: every part with its supports as a mesh, for any reader, and the contours of each of
 * its layers at the middle of the layer; a copy is built where it stands. Yields the share that is done.
 * Source: 3MF Core Specification 1.3; Slice Extension 1.0 (slicestack, slice, polygon; contours by the positive fill rule).
 * @throws CarveError `not-sound` where a mesh is not closed
 */
export async function* writeSlices3mf(plate: PlateToSlice & { readonly printer: { readonly depthMm: number } }, name: string, write: (bytes: Uint8Array) => void): AsyncGenerator<number, { readonly layers: number; readonly objects: number }, void> {
  let failed: Error | null = null
  const zip = new Zip((error, bytes) => {
    if (error) failed = error
    else write(bytes)
  })
  const file = (path: string): ZipDeflate => {
    const entry = new ZipDeflate(path, { level: 6 })
    entry.mtime = MADE
    zip.add(entry)
    return entry
  }
  const encoder = new TextEncoder()
  file('[Content_Types].xml').push(encoder.encode(CONTENT_TYPES), true)
  file('_rels/.rels').push(encoder.encode(RELATIONSHIPS), true)
  const model = file('3D/3dmodel.model')
  let text: string[] = [], letters = 0
  const add = (piece: string): void => {
    text.push(piece)
    letters += piece.length
    if (letters > PIECE) flush()
  }
  const flush = (): void => {
    model.push(encoder.encode(text.join('')))
    text = []
    letters = 0
    if (failed) throw failed
  }
  const growth = growthOf(plate), pixelMm = pixelMmOf(plate.printer), postures = new Map<string, { readonly part: PartToSlice; readonly turnDeg: number; readonly object: number }>()
  for (const c of plate.copies) {
    const part = plate.parts.find(p => p.id === c.part), key = `${c.part} ${c.turnDeg}`
    if (part && !postures.has(key)) postures.set(key, { part, turnDeg: c.turnDeg, object: 2 * postures.size + 2 })
  }
  add(`<?xml version="1.0" encoding="UTF-8"?>\n<model unit="millimeter" xml:lang="en-US" xmlns="${CORE}" xmlns:s="${SLICES}"><metadata name="Title">${escapeXml(name)}</metadata><metadata name="Application">Oak Stilts</metadata><resources>`)
  let most = 0, done = 0
  for (const { part, turnDeg, object } of postures.values()) {
    const bodies = bodiesOf(part, turnDeg, growth), top = bodies.reduce((high, { positions: p }) => p.reduce((m, v, i) => (i % 3 === 2 && v > m ? v : m), high), 0), layers = Math.max(1, Math.ceil(top / plate.layerMm - 0.5)), contours = await LayerContours.of(bodies)
    most = Math.max(most, layers)
    try {
      add(`<s:slicestack id="${object - 1}" zbottom="0">`)
      for (let k = 0; k < layers; k++) {
        const loops = contours.at((k + 0.5) * plate.layerMm, WITHIN_MM)
        add(`<s:slice ztop="${number((k + 1) * plate.layerMm)}">`)
        if (loops.length > 0) {
          add('<s:vertices>')
          for (const loop of loops) for (const [x, y] of loop) add(`<s:vertex x="${number(x)}" y="${number(y)}"/>`)
          add('</s:vertices>')
          let first = 0
          for (const loop of loops) {
            add(`<s:polygon startv="${first}">`)
            for (let i = 1; i <= loop.length; i++) add(`<s:segment v2="${first + (i % loop.length)}"/>`)
            add('</s:polygon>')
            first += loop.length
          }
        }
        add('</s:slice>')
        yield (done + (k + 1) / layers) / postures.size
      }
      add('</s:slicestack>')
    } finally {
      contours.end()
    }
    addMesh(add, joinMeshes(bodies), object, part.id)
    done++
  }
  add('</resources><build>')
  for (const c of plate.copies) {
    const posture = postures.get(`${c.part} ${c.turnDeg}`)
    // the corner of the plate is where coordinates begin: none may be negative
    if (posture) add(`<item objectid="${posture.object}" transform="1 0 0 0 1 0 0 0 1 ${number(Math.round(c.xPixels * growth[0]) * pixelMm + plate.printer.widthMm / 2)} ${number(Math.round(c.yPixels * growth[1]) * pixelMm + plate.printer.depthMm / 2)} 0"/>`)
  }
  add('</build></model>')
  flush()
  model.push(new Uint8Array(0), true)
  zip.end()
  if (failed) throw failed as Error
  return { layers: most, objects: postures.size }
}

const number = (v: number): string => String(Math.round(v * 1e5) / 1e5)

/** All bodies of a part as it is printed: turned and grown. */
function bodiesOf({ mesh, stand, stilts, raft }: PartToSlice, turnDeg: number, [gx, gy, gz]: readonly [number, number, number]): Mesh[] {
  const r = plateOf({ xMm: 0, yMm: 0, turnDeg }), placed: RigidMotion<'stand', 'plate'> = [gx * r[0], gx * r[1], 0, 0, gy * r[4], gy * r[5], 0, 0, 0, 0, gz, 0]
  return [moveMesh(mesh, after(placed, stand)), ...[...stilts, ...(raft ? [raft] : [])].map(m => moveMesh(m, after(placed, AS_IS as unknown as RigidMotion<'stand', 'stand'>)))]
}

function addMesh(add: (piece: string) => void, soup: Mesh, object: number, name: string): void {
  const { positions: p, triangles: t } = weldVertices(soup)
  add(`<object id="${object}" type="model" name="${escapeXml(name)}" s:slicestackid="${object - 1}" s:meshresolution="fullres"><mesh><vertices>`)
  for (let i = 0; i < p.length; i += 3) add(`<vertex x="${singleText(p[i])}" y="${singleText(p[i + 1])}" z="${singleText(p[i + 2])}"/>`)
  add('</vertices><triangles>')
  // the core specification forbids a triangle that names a vertex twice
  for (let i = 0; i < t.length; i += 3) if (t[i] !== t[i + 1] && t[i + 1] !== t[i + 2] && t[i] !== t[i + 2]) add(`<triangle v1="${t[i]}" v2="${t[i + 1]}" v3="${t[i + 2]}"/>`)
  add('</triangles></mesh></object>')
}
