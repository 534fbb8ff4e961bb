const DAY = 86_400_000
/** Days behind which all is as old. */
const OLDEST = 400

/**
 * Where a moment lies on a line of +width+ pixels that ends with today: the last days have as much room as the
 * months before them.
 */
export function ageScale(width: number, now = Date.now()): (time: number) => number {
  const whole = Math.log1p(OLDEST)
  return (time) => width * (1 - Math.log1p(Math.min(Math.max((now - time) / DAY, 0), OLDEST)) / whole)
}

/** Ages that are written above the line, in days. */
export const AGES: readonly (readonly [number, string])[] = [
  [365, 'a year'],
  [30, '30 days'],
  [7, '7'],
  [1, '1'],
]
