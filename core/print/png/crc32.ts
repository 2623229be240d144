/** Eight tables, so that eight bytes are taken at once. */
const TABLES = Array.from({ length: 8 }, () => new Uint32Array(256))
for (let n = 0; n < 256; n++) {
  let c = n
  for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1
  TABLES[0][n] = c >>> 0
}
for (let n = 0; n < 256; n++) for (let t = 1; t < 8; t++) TABLES[t][n] = (TABLES[0][TABLES[t - 1][n] & 255] ^ (TABLES[t - 1][n] >>> 8)) >>> 0
const [T0, T1, T2, T3, T4, T5, T6, T7] = TABLES

/** The CRC-32 that PNG and zip use (ISO/IEC 15948, annex D; slicing by eight, from memory). */
export function crc32(bytes: Uint8Array): number {
  let c = 0xffffffff, i = 0
  for (const end = bytes.length - 7; i < end; i += 8) {
    c ^= bytes[i] | (bytes[i + 1] << 8) | (bytes[i + 2] << 16) | (bytes[i + 3] << 24)
    c = T7[c & 255] ^ T6[(c >>> 8) & 255] ^ T5[(c >>> 16) & 255] ^ T4[c >>> 24] ^ T3[bytes[i + 4]] ^ T2[bytes[i + 5]] ^ T1[bytes[i + 6]] ^ T0[bytes[i + 7]]
  }
  for (; i < bytes.length; i++) c = T0[(c ^ bytes[i]) & 255] ^ (c >>> 8)
  return (c ^ 0xffffffff) >>> 0
}
