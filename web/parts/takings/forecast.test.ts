import { describe, expect, it } from 'vitest'
import type { TakingSheet } from '../../api/types'
import { bytesRange, choiceWords, forecast, roomOn, temporaryFiles, type Choice } from './forecast'

const GB = 1e9
const level = (stored: number, seconds: number) => ({
  stored: [stored, stored * 1.2],
  seconds: [seconds, seconds * 1.5],
})
const levels = (stored: number, seconds: number) => ({
  quick: level(stored * 1.1, seconds / 2),
  balanced: level(stored, seconds),
  small: level(stored * 0.9, seconds * 4),
})
const sheet = {
  drive: { computer: 'TKT-03', hosts: [], port: '3' },
  parts: [
    { number: 1, name: 'Start-up', volume: { label: null } },
    { number: 2, name: 'System', volume: { label: null } },
  ],
  learnt: [1, 1],
  shelves: [{ id: 4, name: 'Holm', state: 'ok', why: null, free_bytes: 40 * GB, read_speed: 100e6 }],
  measure: {
    result: {
      survey: 20,
      parts: [
        { number: 1, used_bytes: GB, temporary: [], with: levels(0.5 * GB, 10) },
        {
          number: 2,
          used_bytes: 60 * GB,
          temporary: [{ part: 2, path: '/swapfile', bytes: 8 * GB }],
          with: levels(30 * GB, 300),
          without: levels(26 * GB, 260),
        },
      ],
    },
  },
} as unknown as TakingSheet
const choice: Choice = { parts: null, temporary: true, level: 'balanced', checked: true, shelf: 4 }

describe('the forecast of an image', () => {
  it('adds up the parts that are chosen, with the check', () => {
    expect(forecast(sheet, choice)).toEqual({ used: 61 * GB, stored: [30.5 * GB, 36.6 * GB], seconds: [940, 1095] })
    expect(forecast(sheet, { ...choice, parts: [1], checked: false })!.seconds).toEqual([30, 35])
  })

  it('leaves out what the system makes anew', () => {
    expect(forecast(sheet, { ...choice, temporary: false })).toMatchObject({
      used: 53 * GB,
      stored: [26.5 * GB, 31.8 * GB],
    })
    expect(temporaryFiles(sheet, null).map((file) => file.path)).toEqual(['/swapfile'])
    expect(temporaryFiles(sheet, [1])).toEqual([])
  })

  it('says whether a shelf has room', () => {
    const shelf = sheet.shelves[0]!
    const expected = forecast(sheet, choice)
    expect(roomOn(shelf, expected)).toEqual(['ok', '40.0 GB free'])
    expect(roomOn({ ...shelf, free_bytes: 33 * GB }, expected)).toEqual(['ask', 'it may lack up to 3.6 GB'])
    expect(roomOn({ ...shelf, free_bytes: 30 * GB }, expected)).toEqual(['no', 'lacks 500 MB at the least'])
    expect(roomOn({ ...shelf, state: 'no', why: 'it lies on this very drive' }, expected)[0]).toBe('no')
  })

  it('reads the choice back in one sentence', () => {
    const [what, takes] = choiceWords(sheet, { ...choice, parts: [1, 2] }).split(': ')
    expect(what).toBe('Start-up and System of TKT-03, 61.0 GB in use, onto Holm, balanced, checked afterwards')
    expect(takes).toBe('30.5 to 36.6 GB, 16 to 18 min')
    expect(choiceWords({ ...sheet, measure: null }, { ...choice, shelf: null })).toBe(
      'The whole drive of TKT-03, onto no shelf yet, balanced, checked afterwards',
    )
    expect(bytesRange([900e6, 1.2 * GB])).toBe('900 MB to 1.2 GB')
  })
})
