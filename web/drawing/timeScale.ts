import { day } from '../words/format'

const DAY = 86_400_000
/** Pixels between two dates that are printed. */
const LABEL = 92
/** Pixels between two images, so that each can be seen and hit. */
const LEAST = 15

/**
 * Where a time lies on a line of +width+ pixels that shows all marks, or, zoomed
 * in, less time around a focus.
 */
export function place(marks: number[], focus: number, zoom: number, width: number): (time: number) => number {
  if (!marks.length) return () => width / 2
  const first = Math.min(...marks)
  const last = Math.max(...marks)
  const span = Math.max(last - first, DAY) / zoom
  const air = span * 0.07
  const from =
    zoom <= 1
      ? first - (Math.max(last - first, DAY) - (last - first)) / 2
      : Math.min(Math.max(focus - span / 2, first), Math.max(last - span, first))
  return (time) => ((time - from + air) / (span + 2 * air)) * width
}

/** Moves images apart that would lie upon each other, and says which dates have room to be printed. */
export function spread<Of extends { image: { taken_at: string }; x: number }>(
  points: Of[],
): (Of & { label: string | null })[] {
  const sorted = [...points].sort((one, two) => one.x - two.x)
  let previous = -Infinity
  let labelled = -Infinity
  return sorted.map((point) => {
    const x = Math.max(point.x, previous + LEAST)
    previous = x
    const label = x - labelled >= LABEL ? dateOf(point.image.taken_at) : null
    if (label) labelled = x
    return { ...point, x, label }
  })
}

function dateOf(iso: string): string {
  const time = new Date(iso)
  return day(time, time.getFullYear() !== new Date().getFullYear())
}
