import type { DriveTaskOf } from '../api/answers'
import type { BenchDrive, DriveCard, Health, Loss, State } from '../api/types'
import { ago, bytes, count, moment } from './format'

export const verdictWords = { clear: ['ok', 'Clear'], ask: ['ask', 'Ask'], refused: ['no', 'Refused'] } as const

/** State of a drive's health → the mark that stands for it. */
export const healthMarks: Record<Health['state'], State> = { good: 'ok', worn: 'ask', failing: 'no', unknown: 'ask' }

type Held = Pick<DriveCard | BenchDrive, 'parts' | 'problem' | 'shelves' | 'hosts' | 'written_at' | 'started_at'>

/** What is on a drive, in one line. */
export function holds(drive: Held): string {
  if (drive.problem) return `Its table cannot be read: ${drive.problem}`
  if (!drive.parts.length) return 'No table and no volume on it'
  const used = bytes(drive.parts.reduce((sum, part) => sum + part.volume.used_bytes, 0))
  const names = drive.parts
    .map((part) => part.volume.label || part.name)
    .filter(Boolean)
    .join(', ')
  let what =
    drive.parts.length === 1
      ? names
        ? `One volume “${names}”`
        : `One volume, ${drive.parts[0]!.volume.kind}`
      : `${drive.parts.length} parts: ${names}`
  if (drive.hosts.length) what = `System of ${drive.hosts.join(' and ')}`
  if (drive.shelves.length) what = `Shelf “${drive.shelves.join('”, “')}”`
  const when = drive.started_at
    ? `, last started ${moment(drive.started_at)}`
    : drive.written_at
      ? `, last written ${ago(drive.written_at)}`
      : ''
  return `${what}, ${used}${when}`
}

export const files = (number: number) => `${count(number)} file${number === 1 ? '' : 's'}`

/** What would be lost, in one line. */
export function lossWords(loss: Loss): string {
  const told = loss.count
  if (!told) return 'Not counted yet'
  if (told.state === 'queued' || told.state === 'running')
    return `Counting… ${count(told.progress?.entries ?? 0)} names so far`
  const found = told.result
  if (!found) return `Could not be counted: ${told.error ?? 'stopped'}`
  if (!found.volumes.length) return 'Nothing: no table and no volume on it'
  const newer = found.newer_files
    ? `${files(found.newer_files)} newer than the image (${bytes(found.newer_bytes)})`
    : 'none newer than the image'
  const unknown = found.unknown.length ? `; what is in ${found.unknown.join(', ')} cannot be known` : ''
  return found.files || !found.unknown.length
    ? `${files(found.files)}, ${bytes(found.bytes)}; ${newer}${unknown}`
    : `What is in ${found.unknown.join(', ')} cannot be known`
}

const DOING = {
  count: 'Counting',
  save: 'Saving files',
  measure: 'Measuring for an image',
  clean: 'Cleaning',
  capacity: 'Testing the capacity',
} as const

/** What work on a drive does, without figures. */
export const taskDoing = (task: { kind: keyof typeof DOING }): string => DOING[task.kind]

/** "Saving files, 41 %", or how it ended. */
export function taskWords(
  task: DriveTaskOf<{
    files?: number
    bytes?: number
    archive?: string | null
    folder?: string | null
    missed?: string[]
    message?: string
    how?: string
  }>,
): string {
  if (task.state === 'queued') return `${DOING[task.kind]}: waiting for its turn…`
  if (task.state === 'running') {
    const { done = 0, total } = task.progress ?? {}
    return `${DOING[task.kind]}… ${total ? `${Math.min(99, Math.floor((100 * done) / total))} %` : bytes(done)}`
  }
  if (task.state !== 'done') return `${DOING[task.kind]}: ${task.error ?? task.state}`
  const missed = task.result?.missed?.length ? `, ${task.result.missed.length} not, or not whole` : ''
  if (task.kind === 'save')
    return `${files(task.result?.files ?? 0)} saved and read back: ${task.shelf}, ${task.result?.archive}${missed}`
  return task.result?.message ?? (task.kind === 'clean' ? 'Cleaned, and read back as empty' : 'Done')
}
