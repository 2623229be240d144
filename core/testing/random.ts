/** Numbers from 0 to 1. */
export type Random = () => number

/** A small generator (mulberry32, from memory), so that a seed gives the same scene everywhere. */
export function random(seed: number): Random {
  let a = seed >>> 0
  return () => {
    a = (a + 0x6d2b79f5) >>> 0
    let t = Math.imul(a ^ (a >>> 15), 1 | a)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296
  }
}

export function between(r: Random, a: number, b: number): number {
  return a + (b - a) * r()
}
