import { expect, test } from 'vitest'
import { ageScale } from './ageScale'

const DAY = 86_400_000
const now = Date.parse('2031-03-10T12:00:00Z')
const at = ageScale(300, now)

test('today is at the right end, and what is older lies to its left', () => {
  const places = [0, 1, 7, 30, 365].map((days) => at(now - days * DAY))
  expect(places[0]).toBe(300)
  expect([...places].sort((one, two) => two - one)).toEqual(places)
  expect(places[2]! - places[3]!).toBeGreaterThan(50)
})

test('what is older than the line, or not yet, stays on it', () => {
  expect(at(now - 5000 * DAY)).toBe(0)
  expect(at(now + DAY)).toBe(300)
})
