import type { PlacedPart } from '../api/types'
import type { Drawn } from './heights'

/** The room in which a part can be moved and resized: from the part before it to the part behind it. */
export interface Region {
  part: PlacedPart
  from: number
  to: number
  top: number
  height: number
  before: string | null
  behind: string | null
}

export interface Place {
  start: number
  size: number
}

export type Grip = 'top' | 'bottom' | 'whole'

/** Pixels within which an edge catches what is near. */
const CATCH = 7
const up = (value: number, unit: number) => Math.ceil(value / unit) * unit
const down = (value: number, unit: number) => Math.floor(value / unit) * unit

/** @returns the room around a part, and where it is drawn */
export function region(
  parts: PlacedPart[],
  drawn: Drawn[],
  number: number,
  first: number,
  limit: number,
): Region | null {
  const order = [...parts].sort((one, two) => one.start_bytes - two.start_bytes)
  const at = order.findIndex((part) => part.number === number)
  const part = order[at]
  const index = drawn.findIndex((one) => one.number === number && one.role !== 'free')
  if (!part || index < 0) return null
  const before = order[at - 1]
  const behind = order[at + 1]
  const around = [drawn[index - 1], drawn[index], drawn[index + 1]].filter(
    (one) => one && (one.role === 'free' || one.number === number),
  ) as Drawn[]
  return {
    part,
    before: before?.name ?? null,
    behind: behind?.name ?? null,
    from: before ? before.start_bytes + before.size_bytes : Math.min(first, part.start_bytes),
    to: behind ? behind.start_bytes : Math.max(limit, part.start_bytes + part.size_bytes),
    top: around[0]!.top,
    height: around.reduce((sum, one) => sum + one.height, 0),
  }
}

/**
 * Moves a grip by bytes, within the room, on the alignment, and caught by its
 * least size, by the neighbours and by where it lay in the image.
 * @returns the place, and what stopped or caught it
 */
export function moved(
  room: Region,
  grip: Grip,
  by: number,
  unit: number,
  snap: number,
): { place: Place; stop: string } {
  const { part } = room
  const [start, end] = [part.start_bytes, part.start_bytes + part.size_bytes]
  if (grip === 'whole') return whole(room, start + by, unit, snap)
  const least = part.resizable ? Math.max(part.least_bytes, unit) : part.size_bytes
  const most = part.resizable ? (part.most_bytes ?? Infinity) : part.size_bytes
  const size = Math.min(Math.max(grip === 'bottom' ? part.size_bytes + by : part.size_bytes - by, least), most)
  const stop = (grip === 'bottom' ? part.size_bytes + by : part.size_bytes - by) < least ? 'its least size' : ''
  if (grip === 'bottom') {
    const wanted = caught(
      start + size,
      [
        [room.to, room.behind ? `meets ${room.behind}` : 'the end of the disk'],
        [up(start + least, unit), 'its least size'],
      ],
      snap,
    )
    const last = Math.min(wanted.at === room.to ? room.to : up(wanted.at, unit), room.to)
    return { place: { start, size: last - start }, stop: wanted.why || stop }
  }
  const wanted = caught(
    end - size,
    [
      [up(room.from, unit), room.before ? `meets ${room.before}` : 'the start of the disk'],
      [down(end - least, unit), 'its least size'],
    ],
    snap,
  )
  const first = Math.min(Math.max(down(wanted.at, unit), up(room.from, unit)), down(end - least, unit))
  return { place: { start: first, size: end - first }, stop: wanted.why || stop }
}

function whole(room: Region, to: number, unit: number, snap: number): { place: Place; stop: string } {
  const { size_bytes: size } = room.part
  const lowest = up(room.from, unit)
  const highest = Math.max(lowest, down(room.to - size, unit))
  const wanted = caught(
    Math.min(Math.max(to, lowest), highest),
    [
      [lowest, room.before ? `meets ${room.before}` : 'the start of the disk'],
      [highest, room.behind ? `meets ${room.behind}` : 'the end of the disk'],
    ],
    snap,
  )
  return { place: { start: Math.min(Math.max(down(wanted.at, unit), lowest), highest), size }, stop: wanted.why }
}

function caught(value: number, marks: [number, string][], snap: number): { at: number; why: string } {
  const near = marks
    .filter(([mark]) => Math.abs(mark - value) <= snap)
    .sort((one, two) => Math.abs(one[0] - value) - Math.abs(two[0] - value))[0]
  return near ? { at: near[0], why: near[1] } : { at: value, why: '' }
}

/** @returns bytes for a number of pixels in a room, and those within which an edge is caught */
export const perPixel = (room: Region) => (room.to - room.from) / Math.max(room.height, 1)
export const catching = (room: Region) => perPixel(room) * CATCH

/** A step of the arrow keys: about a hundredth of the room, in a round number. */
export function stride(room: Region, unit: number, large: boolean): number {
  const wanted = (room.to - room.from) / (large ? 10 : 100)
  const step = 2 ** Math.floor(Math.log2(Math.max(wanted, unit)))
  return Math.max(up(step, unit), unit)
}
