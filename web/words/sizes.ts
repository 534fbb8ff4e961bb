import { bytes, count } from './format'

/** A size as somebody typed it, in bytes, with what was understood; or why not. */
export type Understood = { bytes: number; words: string } | { error: string }

const UNITS: Record<string, number> = {
  '': 1e9,
  b: 1,
  kb: 1e3,
  mb: 1e6,
  gb: 1e9,
  tb: 1e12,
  k: 1024,
  m: 1024 ** 2,
  g: 1024 ** 3,
  t: 1024 ** 4,
  kib: 1024,
  mib: 1024 ** 2,
  gib: 1024 ** 3,
  tib: 1024 ** 4,
}
const SIZE = /^([+-]?)(\d+(?:[.,]\d+)?)\s*([kmgt]?i?b|[kmgt]|)$/i

/**
 * Reads "64.9 GB", "60GiB", "+10G", "-500 MB", "25%", "max" or "least".
 * A number without a unit counts in GB; "25%" is of +of+.
 */
export function understand(
  text: string,
  { now, least, most, of }: { now: number; least: number; most: number; of: number },
): Understood {
  const typed = text.trim().toLowerCase().replace(/\s+/g, ' ')
  if (!typed) return { error: 'Type a size, such as 64.9 GB' }
  if (typed === 'max') return said(most)
  if (typed === 'min' || typed === 'least') return said(least)
  const share = /^(\d{1,3}(?:[.,]\d+)?) ?%$/.exec(typed)
  if (share) return said((of * number(share[1]!)) / 100)
  const match = SIZE.exec(typed)
  if (!match) return { error: `“${text.trim().slice(0, 20)}” is no size: try 64.9 GB, 60GiB, +10G, 25% or max` }
  const amount = number(match[2]!) * UNITS[match[3]!]!
  if (!Number.isSafeInteger(Math.round(amount))) return { error: 'That is more than any disk' }
  const size = match[1] === '+' ? now + amount : match[1] === '-' ? now - amount : amount
  return size < 0 ? { error: `That is ${bytes(-size)} less than nothing` } : said(size)
}

const number = (text: string) => Number(text.replace(',', '.'))
const said = (size: number) => ({
  bytes: Math.round(size),
  words: `${bytes(Math.round(size))} = ${count(size / 1024 ** 2, 1, 0)} MiB`,
})
