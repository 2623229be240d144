const DIGITS = '0123456789abcdefghijklmnopqrstuv'
const TIME_DIGITS = 9, RANDOM_DIGITS = 10

let last = 0
let within = 0

/**
 * A new id for a row: random, and in the order of its making, so that rows sorted by id are sorted by age. 45 bits of time in ms,
 * 15 bits that count within it, 50 bits of chance: two pages that make rows of one job in the same millisecond do not meet.
 */
export function newId(): string {
  const now = Math.max(Date.now(), last)
  within = now === last ? within + 1 : 0
  last = within > 0x7fff ? now + 1 : now
  if (within > 0x7fff) within = 0
  let id = digits(last, TIME_DIGITS) + digits(within, 3)
  for (const byte of crypto.getRandomValues(new Uint8Array(RANDOM_DIGITS))) id += DIGITS[byte & 31]
  return id
}

function digits(value: number, count: number): string {
  let text = ''
  for (let i = 0; i < count; i++, value = Math.floor(value / 32)) text = DIGITS[value % 32] + text
  return text
}
