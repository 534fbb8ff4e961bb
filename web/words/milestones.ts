/** What a screen reader is told of running work: a quarter done, a step begun, the end; not every figure. */
export interface Moment {
  percent: number
  /** What is being done, in words that change only when another step begins. */
  step: string
  running: boolean
}

/** The sentence for what was passed between two moments, or null where it was nothing worth hearing. */
export function milestone(before: Moment | null, now: Moment): string | null {
  if (!before || before.running !== now.running || before.step !== now.step) {
    return now.running ? `${now.step}, ${now.percent} percent done` : now.step
  }
  if (!now.running) return null
  const quarter = Math.floor(now.percent / 25)
  return quarter > Math.floor(before.percent / 25) ? `${quarter * 25} percent done` : null
}
