/** The shortest decimal that reads back as the same 32-bit float. */
export function singleText(v: number): string {
  const short = v.toPrecision(7)
  return String(Number(Math.fround(Number(short)) === v ? short : v.toPrecision(9)))
}

/** Text as it may stand in an XML attribute or between tags. */
export function escapeXml(text: string): string {
  // control characters are not allowed in XML 1.0 at all
  // eslint-disable-next-line no-control-regex
  return text.replace(/[\x00-\x08\x0b\x0c\x0e-\x1f]/g, '').replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;').replace(/"/g, '&quot;')
}
