import type { Progress } from '../api/types'

/** How much of it is done, in percent; 0 where the whole is not known. */
export const percentOf = (progress: { done?: number | null; total?: number | null } | null | undefined): number =>
  progress?.total ? Math.floor((100 * (progress.done ?? 0)) / progress.total) : 0

/** How much of a write is done, in percent: writing and reading back count alike. */
export function done(progress: Progress): number {
  const all = 2 * (progress.to_write ?? 0)
  return all ? Math.floor((100 * ((progress.written ?? 0) + (progress.compared_bytes ?? 0))) / all) : 0
}
