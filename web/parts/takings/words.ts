import type { Taking } from '../../api/types'
import { percentOf } from '../../words/progress'
import { bytes, count } from '../../words/format'

/** Reading the drive, then reading the image back: what is shown as one. */
export type Phase = 'waits' | 'takes' | 'checks' | 'over'

export function phase(taking: Taking): Phase {
  if (taking.state === 'queued') return 'waits'
  if (taking.state === 'running') return taking.progress.checked == null ? 'takes' : 'checks'
  if (taking.state === 'done' && taking.image?.state === 'checking') return 'checks'
  return 'over'
}

const LIMITS = { drive: 'the drive sets the pace', packing: 'packing sets the pace', shelf: 'the shelf sets the pace' }
export const limitWords = (taking: Taking) =>
  taking.progress.limit && phase(taking) === 'takes' ? LIMITS[taking.progress.limit] : ''

export const PASSES: Record<NonNullable<Taking['progress']['pass']>, string> = {
  structures: 'What says what is used',
  used: 'What is used, in large steps',
  edges: 'Into the gaps, from both ends',
  middles: 'Between the ends',
  sectors: 'Sector by sector',
  again: 'The bad ones once more',
  unused: 'What is not used',
}
/** What a salvage is at. */
export const passWords = (taking: Taking) => (taking.progress.pass ? PASSES[taking.progress.pass] : '')

/** Percent of what goes on now. */
export function percent(taking: Taking): number {
  const now = phase(taking)
  if (now === 'checks' && taking.state === 'running')
    return percentOf({ done: taking.progress.checked, total: taking.progress.total })
  if (now === 'checks') return percentOf(taking.image?.check_progress)
  return taking.state === 'done' ? 100 : percentOf(taking.progress)
}

const TITLES: Record<Taking['state'], string> = {
  queued: 'Waits for its turn',
  running: 'Taking the image',
  paused: 'Paused',
  failed: 'It has stopped',
  stopped: 'Stopped, nothing of it is kept',
  done: 'The image is taken',
}
export function title(taking: Taking): string {
  if (phase(taking) === 'checks') return 'Reading it back'
  if (taking.state !== 'done' || !taking.checked) return TITLES[taking.state]
  if (taking.summary?.unread) return `Taken, but for ${count(taking.summary.unread)} sectors`
  if (taking.image?.state === 'whole') return 'Taken and checked: whole'
  return taking.image?.state === 'damaged' ? 'Taken, but found damaged' : TITLES.done
}

/** What became of it, as facts. */
export function facts(taking: Taking) {
  const { summary, image } = taking
  const list: { id: string; state: 'ok' | 'ask' | 'no'; title: string; detail: string }[] = []
  const add = (id: string, state: 'ok' | 'ask' | 'no', title: string, detail = '') =>
    list.push({ id, state, title, detail })
  if (['queued', 'running', 'paused'].includes(taking.state)) {
    add('read-only', 'ok', 'The drive is only read', 'Nothing on it is changed')
    const unread = taking.progress.unread ?? 0
    if (unread) add('unread', 'no', `${count(unread)} sectors could not be read so far`, 'Zeros stand in their place')
    add('name', 'ok', 'It has its name when it is complete', 'Until then nobody takes it for an image')
  }
  if (taking.error && taking.state !== 'stopped') add('error', 'no', taking.error)
  if (taking.away)
    add('away', 'ask', `It waits for the ${taking.away}`, 'It goes on by itself when it is plugged in again')
  if (image?.state === 'whole') add('whole', 'ok', 'Read back from its shelf', 'Every cluster matches its digest')
  if (image?.state === 'damaged') add('damaged', 'no', 'It does not read back', 'See what is hit on the Images page')
  if (summary?.unread)
    add(
      'unread',
      'no',
      `${count(summary.unread)} sectors could not be read`,
      'Zeros stand in their place; the files on them are named',
    )
  if (summary && !summary.unread) add('read', 'ok', 'Every sector in use was read')
  if (summary?.not_taken?.length)
    add('parts', 'ask', `Without ${summary.not_taken.join(', ')}`, 'A restore makes no part of it')
  for (const file of summary?.temporary ?? [])
    add(`temporary-${file.path}`, 'ok', `${file.path} is zeros`, `${bytes(file.bytes)} that the system makes anew`)
  if (taking.state === 'done' && !taking.checked)
    add('unchecked', 'ask', 'It was not checked', 'Check it on the Images page')
  return list
}
