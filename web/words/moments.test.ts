import { expect, test } from 'vitest'
import { typedMoment } from './moments'

const said = (time: Date | null) =>
  time && [time.getFullYear(), time.getMonth() + 1, time.getDate(), time.getHours(), time.getMinutes()].join(' ')

test.each([
  ['26 Nov 2031 14:20', 'day-first'],
  ['26.11.2031 14:20', 'day-first'],
  ['26/11/2031, 2:20 pm', 'day-first'],
  ['Nov 26 2031 14:20', 'month-first'],
  ['11/26/2031 2:20 PM', 'month-first'],
  ['26 November 2031 14:20', 'month-first'],
  ['2031-11-26 14:20', 'year-first'],
  ['2031-11-26T14:20', 'day-first'],
] as const)('%s, %s', (text, way) => expect(said(typedMoment(text, way, true))).toBe('2031 11 26 14 20'))

test('a day has no time, and a moment has one', () => {
  expect(said(typedMoment('5 Mar 2031', 'day-first', false))).toBe('2031 3 5 0 0')
  expect(typedMoment('5 Mar 2031', 'day-first', true)).toBeNull()
  expect(typedMoment('5 Mar 2031 10:00', 'day-first', false)).toBeNull()
})

test('midnight and noon', () => {
  expect(said(typedMoment('5 Mar 2031 12:05 am', 'day-first', true))).toBe('2031 3 5 0 5')
  expect(said(typedMoment('5 Mar 2031 12:05 pm', 'day-first', true))).toBe('2031 3 5 12 5')
})

test.each([
  '',
  '2',
  '26 Nov',
  '31 Feb 2031',
  '26 Nuv 2031',
  '0.5.2031',
  '5.13.2031',
  '26 Nov 20311',
  '1.1.0031',
  'a b c',
])('%s is none', (text) => expect(typedMoment(text, 'day-first', false)).toBeNull())

test.each(['24:00', '10:60', '13:00 pm', '0:10 am', '10'])('%s is no time', (text) =>
  expect(typedMoment(`5 Mar 2031 ${text}`, 'day-first', true)).toBeNull(),
)
