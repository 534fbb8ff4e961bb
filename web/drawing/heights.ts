import type { Part } from '../api/types'

/** A part of a core as it is drawn: a partition, or a gap that nothing uses. */
export interface Drawn {
  key: string
  number: number | null
  name: string
  role: Part['role']
  size: number
  start: number
  used: number
  kind: string
  top: number
  height: number
}

const MIB = 1024 ** 2
/** Gaps below this are alignment, not room. */
const LEAST_GAP = 8 * MIB

/**
 * Stacks the parts of a disk from first to last. Heights follow the logarithm
 * of the size, with a floor: small parts stay visible, true sizes are printed.
 */
export function stack(parts: Part[], size: number, height: number): Drawn[] {
  const drawn = withGaps(parts, size)
  const weights = drawn.map((part) => Math.max(1, Math.log2(Math.max(part.size, MIB) / MIB) - 3))
  const whole = weights.reduce((sum, weight) => sum + weight, 0)
  const floor = Math.min(26, height / Math.max(drawn.length, 1))
  const room = height - floor * drawn.length
  let top = 0
  return drawn.map((part, index) => {
    const own = floor + (room * weights[index]!) / whole
    const placed = { ...part, top, height: own }
    top += own
    return placed
  })
}

function withGaps(parts: Part[], size: number): Omit<Drawn, 'top' | 'height'>[] {
  const found: Omit<Drawn, 'top' | 'height'>[] = []
  let at = 0
  for (const part of [...parts].sort((one, two) => one.start_bytes - two.start_bytes)) {
    if (part.start_bytes - at > LEAST_GAP) found.push(gap(at, part.start_bytes - at))
    found.push({
      key: `p${part.number ?? 0}`,
      number: part.number,
      name: part.name || part.volume.label || '',
      role: part.role,
      size: part.size_bytes,
      start: part.start_bytes,
      used: part.volume.used_bytes,
      kind: part.volume.kind,
    })
    at = part.start_bytes + part.size_bytes
  }
  if (size - at > LEAST_GAP) found.push(gap(at, size - at))
  return found
}

const gap = (start: number, size: number) => ({
  key: `g${start}`,
  number: null,
  name: 'Unallocated',
  role: 'free' as const,
  size,
  start,
  used: 0,
  kind: '',
})

/** How much of a drawn part is shown as used: never less than a line where something is. */
export function usedHeight(part: Drawn): number {
  if (part.role === 'free' || !part.used) return 0
  return Math.max(2, Math.min(1, part.used / part.size) * part.height)
}
