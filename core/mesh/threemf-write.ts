import { requireFinite } from './mesh-error'
import { strToU8, zipSync } from 'fflate'
import type { Mesh } from './triangle-mesh'
import { weldVertices } from './weld'
import { escapeXml, singleText } from './xml-text'

/** One object of a 3MF package. */
export interface NamedMesh {
  readonly name: string
  readonly mesh: Mesh
}

const CONTENT_TYPES = `<?xml version="1.0" encoding="UTF-8"?>
<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>`

const RELATIONSHIPS = `<?xml version="1.0" encoding="UTF-8"?>
<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Target="/3D/3dmodel.model" Id="rel0" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>`

/**
 * Writes a 3MF package in millimetres, one object for each mesh, each built once where it stands.
 * The core specification wants non-negative build coordinates to be met by the build transform, so all objects share one shift.
 * Source: 3MF Core Specification 1.3 (object type "model", mesh, build item); Open Packaging Conventions for parts and relationships.
 */
export function write3mf(objects: readonly NamedMesh[], title: string): Uint8Array {
  for (const { mesh } of objects) requireFinite(mesh)
  const chunks: Uint8Array[] = []
  const add = (text: string): void => void chunks.push(strToU8(text))
  add(`<?xml version="1.0" encoding="UTF-8"?>\n<model unit="millimeter" xml:lang="en-US" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02"><metadata name="Title">${escapeXml(title)}</metadata><metadata name="Application">Oak Stilts</metadata><resources>`)
  let lowX = 0, lowY = 0
  objects.forEach(({ name, mesh: soup }, index) => {
    const mesh = weldVertices(soup)
    const { positions: p, triangles: t } = mesh
    add(`<object id="${index + 1}" type="model" name="${escapeXml(name)}"><mesh><vertices>`)
    let text: string[] = []
    const flush = (): void => {
      add(text.join(''))
      text = []
    }
    for (let i = 0; i < p.length; i += 3) {
      lowX = Math.min(lowX, p[i])
      lowY = Math.min(lowY, p[i + 1])
      text.push(`<vertex x="${singleText(p[i])}" y="${singleText(p[i + 1])}" z="${singleText(p[i + 2])}"/>`)
      if (text.length > 20000) flush()
    }
    text.push('</vertices><triangles>')
    for (let i = 0; i < t.length; i += 3) {
      // the core specification forbids a triangle that names a vertex twice
      if (t[i] === t[i + 1] || t[i + 1] === t[i + 2] || t[i] === t[i + 2]) continue
      text.push(`<triangle v1="${t[i]}" v2="${t[i + 1]}" v3="${t[i + 2]}"/>`)
      if (text.length > 20000) flush()
    }
    text.push('</triangles></mesh></object>')
    flush()
  })
  const shift = `1 0 0 0 1 0 0 0 1 ${singleText(-lowX)} ${singleText(-lowY)} 0`
  const items = objects.map((_, i) => `<item objectid="${i + 1}" transform="${shift}"/>`).join('')
  add(`</resources><build>${items}</build></model>`)
  let length = 0
  for (const c of chunks) length += c.length
  const model = new Uint8Array(length)
  let at = 0
  for (const c of chunks) {
    model.set(c, at)
    at += c.length
  }
  return zipSync({ '[Content_Types].xml': strToU8(CONTENT_TYPES), '_rels/.rels': strToU8(RELATIONSHIPS), '3D/3dmodel.model': model }, { level: 6 })
}
