import type { Part, Run, RunPlace, State } from '../../api/types'
import { range } from '../../words/format'
import { done } from '../../words/progress'

/** What a place in the row is at, in a word or two. */
const WORDS: Record<RunPlace['state'], string> = {
  open: 'No drive',
  unfitted: 'Not fitted',
  ready: 'Ready',
  queued: 'Waits',
  running: 'Writing',
  paused: 'Paused',
  stopped: 'Stopped',
  failed: 'Needs you',
  done: 'Verified',
  signed: 'Signed off',
}

/** Percent of the write of a place. */
export const percent = (place: RunPlace): number =>
  ['done', 'signed'].includes(place.state) ? 100 : place.write ? done(place.write.progress) : 0

/** What is said below a place. */
export function words(place: RunPlace): string {
  if (place.state === 'running' && place.write?.left) return range(place.write.left.low, place.write.left.high)
  if (place.state === 'done' && place.start === 'no') return 'Would not start'
  if (place.state === 'done' && place.tried?.reached) return 'Seen to start'
  return WORDS[place.state]
}

/** The shape that stands for its state; none while nothing is to be said. */
export function mark(place: RunPlace): State | null {
  if (['failed', 'stopped', 'unfitted'].includes(place.state) || place.start === 'no' || place.name_error) return 'no'
  if (place.state === 'paused' || (place.state === 'open' && place.broken) || place.start === 'ask') return 'ask'
  return ['done', 'signed'].includes(place.state) ? 'ok' : null
}

/** Why a place needs somebody, the first line only; null where it does not. */
export function trouble(place: RunPlace): string | null {
  if (place.state === 'open' && place.broken) return `its drive was given up: ${place.broken}`
  if (place.name_error) return `it did not get its name: ${place.name_error}`
  if (place.state === 'unfitted') return 'the image was not fitted to its drive'
  if (place.state === 'failed') return place.write?.trouble?.message ?? place.write?.error ?? 'it failed'
  if (place.state === 'done' && place.start === 'no') return 'something of what starts it is missing'
  if (place.tried?.state === 'done' && !place.tried.reached) return place.tried.message ?? 'it was not seen to start'
  return null
}

/** How far the parts of an image are filled when so many percent are done, the first part first. */
export function filled(parts: Part[], percent: number): Record<string, number> {
  const used = (part: Part) => part.volume.used_bytes ?? 0
  let rest = (parts.reduce((sum, part) => sum + used(part), 0) * percent) / 100
  return Object.fromEntries(
    parts.map((part) => {
      const share = used(part) ? Math.min(1, Math.max(0, rest / used(part))) : percent >= 100 ? 1 : 0
      rest -= used(part)
      return [String(part.number), share]
    }),
  )
}

/** How many places are at what, as one sentence. */
export function tally(run: Run): string {
  const at = (...states: RunPlace['state'][]) => run.places.filter((place) => states.includes(place.state)).length
  const told: [number, string][] = [
    [run.places.filter((place) => trouble(place)).length, 'need you'],
    [at('running'), 'being written'],
    [at('queued'), 'waiting'],
    [at('paused', 'stopped'), 'paused'],
    [at('ready'), 'ready to be written'],
    [at('open'), 'without a drive'],
    [at('done', 'signed'), 'verified'],
  ]
  return told
    .filter(([count]) => count > 0)
    .map(([count, what]) => `${count} ${what}`)
    .join(', ')
}

/** Columns and height of a core, so that a whole row is seen at once. */
export function shape(count: number): { columns: number; height: number; large: boolean } {
  if (count <= 8) return { columns: Math.max(4, count), height: 340, large: true }
  if (count <= 24) return { columns: 8, height: 88, large: false }
  return { columns: 8, height: 44, large: false }
}
