/**
 * Reads what was typed into a number field: a plain number is absolute, also with a sign; steps are written `+=0.05`, `-=5`, `x1.1`,
 * `+10%`; sums (`5+0.2`), a decimal comma and inches (`0.2 in`) are understood.
 * @param current the value that steps start from; null for a mixed selection, which has none
 * @returns the new value, or null where the text is none
 */
export function readQuantity(text: string, current: number | null): number | null {
  const t = text.trim().toLowerCase().replace(/,/g, '.').replace(/(mm|°|deg)$/, '').trim()
  const step = /^([+-])=\s*(.+)$/.exec(t)
  if (step) {
    const by = readSum(step[2])
    return by === null || current === null ? null : step[1] === '+' ? current + by : current - by
  }
  const times = /^[x*×]\s*(\d*\.?\d+)$/.exec(t)
  if (times) return current === null ? null : current * Number(times[1])
  const percent = /^([+-])\s*(\d*\.?\d+)\s*%$/.exec(t)
  if (percent) return current === null ? null : current * (1 + ((percent[1] === '+' ? 1 : -1) * Number(percent[2])) / 100)
  return readSum(t)
}

const TERM = /^\s*(\d*\.?\d+)\s*(in|")?/

function readSum(text: string): number | null {
  let rest = text
  let sum = 0
  let first = true
  while (rest.trim() !== '') {
    const sign = /^\s*([+-])/.exec(rest)
    if (sign) rest = rest.slice(sign[0].length)
    else if (!first) return null
    const term = TERM.exec(rest)
    if (!term) return null
    rest = rest.slice(term[0].length)
    sum += (sign?.[1] === '-' ? -1 : 1) * Number(term[1]) * (term[2] ? 25.4 : 1)
    first = false
  }
  return first ? null : sum
}
