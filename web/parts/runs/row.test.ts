import { expect, test } from 'vitest'
import type { Part, Run, RunPlace } from '../../api/types'
import { filled, mark, percent, tally, trouble, words } from './row'

const place = (given: Partial<RunPlace>) =>
  ({ place: 1, state: 'open', write: null, start: null, tried: null, ...given }) as RunPlace
const part = (number: number, used: number) => ({ number, volume: { used_bytes: used } }) as unknown as Part

test('parts fill from the first to the last', () => {
  const parts = [part(1, 100), part(2, 300), part(3, 0)]
  expect(filled(parts, 0)).toEqual({ '1': 0, '2': 0, '3': 0 })
  expect(filled(parts, 50)).toEqual({ '1': 1, '2': 1 / 3, '3': 0 })
  expect(filled(parts, 100)).toEqual({ '1': 1, '2': 1, '3': 1 })
})

test('what needs somebody is said, and has the shape for it', () => {
  const failed = place({ state: 'failed', write: { error: 'the drive has gone' } as RunPlace['write'] })
  expect([trouble(failed), mark(failed), words(failed)]).toEqual(['the drive has gone', 'no', 'Needs you'])
  const dumb = place({ state: 'done', start: 'no' })
  expect([mark(dumb), words(dumb), percent(dumb)]).toEqual(['no', 'Would not start', 100])
  expect([trouble(place({ state: 'ready' })), mark(place({ state: 'ready' }))]).toEqual([null, null])
})

test('a sentence counts what there is', () => {
  const run = { places: [place({}), place({ state: 'done' }), place({ state: 'done', start: 'ok' })] } as Run
  expect(tally(run)).toBe('1 without a drive, 2 verified')
})
