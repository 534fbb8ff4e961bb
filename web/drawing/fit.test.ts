import { describe, expect, it } from 'vitest'
import type { PlacedPart } from '../api/types'
import { catching, moved, perPixel, region, stride } from './fit'
import { stack } from './heights'

const MIB = 1024 ** 2
const GB = 1e9
const volume = { kind: 'ext4', label: null, uuid: null, size_bytes: 0, used_bytes: 0, clean: true }
const part = (number: number, start: number, size: number, more: Partial<PlacedPart> = {}) =>
  ({
    number,
    name: `part ${number}`,
    role: 'data',
    start_bytes: start,
    size_bytes: size,
    resizable: true,
    least_bytes: 10 * MIB,
    most_bytes: null,
    volume,
    ...more,
  }) as unknown as PlacedPart

const parts = [part(1, MIB, 100 * MIB), part(2, 300 * MIB, 200 * MIB)]
const room = (number: number) => region(parts, stack(parts, GB, 400), number, MIB, 900 * MIB)!

describe('a part that is dragged in a core', () => {
  it('has the room from the part before it to the part behind it', () => {
    expect(room(1)).toMatchObject({ from: MIB, to: 300 * MIB, before: null, behind: 'part 2' })
    expect(room(2)).toMatchObject({ from: 101 * MIB, to: 900 * MIB, before: 'part 1', behind: null })
    expect(region(parts, stack(parts, GB, 400), 9, MIB, GB)).toBeNull()
  })

  it('grows at its end on the alignment, and no further than what stands behind it', () => {
    expect(moved(room(1), 'bottom', 50 * MIB + 300, MIB, 0).place).toEqual({ start: MIB, size: 151 * MIB })
    const met = moved(room(1), 'bottom', 500 * MIB, MIB, 0)
    expect(met.place.start + met.place.size).toBe(300 * MIB)
  })

  it('is caught by an edge that is near, and says by which', () => {
    expect(moved(room(1), 'bottom', 197 * MIB, MIB, 5 * MIB)).toEqual({
      place: { start: MIB, size: 299 * MIB },
      stop: 'meets part 2',
    })
    expect(moved(room(1), 'bottom', -88 * MIB, MIB, 5 * MIB).stop).toBe('its least size')
  })

  it('never becomes smaller than its least size, at either end', () => {
    expect(moved(room(2), 'top', 400 * MIB, MIB, 0).place).toEqual({ start: 490 * MIB, size: 10 * MIB })
    expect(moved(room(2), 'bottom', -400 * MIB, MIB, 0).place).toEqual({ start: 300 * MIB, size: 10 * MIB })
  })

  it('moves as a whole within its room, and keeps its size', () => {
    expect(moved(room(2), 'whole', 2000 * MIB, MIB, 0).place).toEqual({ start: 700 * MIB, size: 200 * MIB })
    expect(moved(room(2), 'whole', -2000 * MIB, MIB, 0).place).toEqual({ start: 101 * MIB, size: 200 * MIB })
  })

  it('keeps its size where nothing can resize it', () => {
    const fixed = [part(1, MIB, 100 * MIB, { resizable: false })]
    const found = region(fixed, stack(fixed, GB, 400), 1, MIB, 900 * MIB)!
    expect(moved(found, 'bottom', 50 * MIB, MIB, 0).place.size).toBe(100 * MIB)
  })

  it('steps by a round number that is at least the alignment', () => {
    expect(stride(room(2), MIB, false)).toBe(4 * MIB)
    expect(stride(room(2), MIB, true)).toBe(64 * MIB)
    expect(stride(room(1), 64 * MIB, false)).toBe(64 * MIB)
    expect(catching(room(1))).toBeGreaterThan(perPixel(room(1)))
  })
})

describe('the parts of a core', () => {
  it('fill its height, gaps among them, in their order on the disk', () => {
    const drawn = stack([parts[1]!, parts[0]!], GB, 400)
    expect(drawn.map((one) => one.name)).toEqual(['part 1', 'Unallocated', 'part 2', 'Unallocated'])
    expect(drawn.reduce((sum, one) => sum + one.height, 0)).toBeCloseTo(400)
    expect(Math.min(...drawn.map((one) => one.height))).toBeGreaterThanOrEqual(26)
  })

  it('are all there where there are very many', () => {
    const many = Array.from({ length: 128 }, (_, at) => part(at + 1, (at + 1) * 4 * MIB, 4 * MIB))
    const drawn = stack(many, 520 * MIB, 400)
    expect(drawn).toHaveLength(128)
    expect(drawn.at(-1)!.top + drawn.at(-1)!.height).toBeCloseTo(400)
  })
})
