import type { Catalogue, CheckProgress, ImageState } from '../api/types'
import { count } from './format'

/** State of an image → class of its chip, and the word on it. */
export const imageStates: Record<ImageState, readonly [string, string]> = {
  whole: ['ok', 'Whole'],
  damaged: ['no', 'Damaged'],
  incomplete: ['no', 'Incomplete'],
  checking: ['', 'Being checked'],
  paused: ['ask', 'Check paused'],
  unchecked: ['ask', 'Unchecked'],
}

/**
 * Class and word of the chip, where a check that is too long ago counts as none, and what was not read counts more than
 * a check.
 */
export function stateChip(image: {
  state: ImageState
  due: boolean
  unread: number
  lock?: { open: boolean } | null
}): readonly [string, string] {
  if (image.lock && !image.lock.open) return ['locked', 'Locked']
  if (image.unread && ['whole', 'unchecked'].includes(image.state)) return ['ask', `${count(image.unread)} unread`]
  return image.due ? ['ask', 'Check is due'] : imageStates[image.state]
}

/** "Being checked, 41 %" */
export function progressWords(progress: CheckProgress | null): string {
  if (!progress || !progress.total) return 'Waiting for its turn…'
  const doing = progress.doing === 'unpacking' ? 'Being unpacked' : 'Being checked'
  return `${doing}, ${Math.floor((100 * progress.done) / progress.total)} %`
}

/** A part by its name, its label or its number. */
export function partName(part: { name: string; number: number | null; volume: { label: string | null } }): string {
  return part.name || part.volume.label || (part.number === null ? 'Volume' : `Part ${part.number}`)
}

/** Kinds of volume whose files are listed here. */
const BROWSABLE = /^(ext|fat|ntfs)/
export const browsable = (part: { volume: { kind: string } }): boolean => BROWSABLE.test(part.volume.kind)

/** Whether a file or folder can be taken out of an image. */
export const takeable = (entry: { type: string; note?: string | null }): boolean =>
  ['file', 'directory'].includes(entry.type) && !entry.note

/** How many images there are to be offered. What was given up, or could be, is told of beside the states. */
export const imagesOf = (states: Catalogue['states']): number =>
  Object.entries(states).reduce((sum, [key, number]) => (key === 'given_up' || key === 'spare' ? sum : sum + number), 0)
