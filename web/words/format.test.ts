import { describe, expect, it } from 'vitest'
import { bytes, count, exact, otherZone, range, roleName, span } from './format'
import { preferred } from './preferences'

describe('sizes and times as people say them', () => {
  it('prints capacities in decimal units, as on a label', () => {
    expect([0, 999, 1000, 64_900_000, 480_103_981_056, 1e12].map(bytes)).toEqual([
      '0 B',
      '999 B',
      '1 kB',
      '65 MB',
      '480.1 GB',
      '1.0 TB',
    ])
    expect(exact(480_103_981_056)).toBe('480,103,981,056 bytes')
  })

  it('rounds spans to what one would say', () => {
    expect([0.2, 40, 89.6, 720, 18_000, 259_200].map(span)).toEqual([
      'under 1 s',
      '40 s',
      '90 s',
      '12 min',
      '5 h',
      '3 days',
    ])
  })

  it('says a unit once where both ends have it, and one number where they are alike', () => {
    expect([range(120, 180), range(40, 120), range(61, 61.2)]).toEqual(['2 to 3 min', '40 s to 2 min', 'about 61 s'])
    expect([range(0.1, 0.4), range(0.1, 2.6)]).toEqual(['under 1 s', 'up to 3 s'])
  })

  it('tells the time of an image in its own zone only where that is another', () => {
    const here = new Date('2031-03-02T18:30:00Z').getTimezoneOffset()
    expect(otherZone('2031-03-02T18:30:00+13:45')).toBe('18:30 (UTC+13:45)')
    if (here === 0) expect(otherZone('2031-03-02T18:30:00Z')).toBeNull()
    expect(otherZone('yesterday')).toBeNull()
  })

  it('names a role that it does not know by itself', () => {
    expect([roleName('startup'), roleName('free'), roleName('odd')]).toEqual(['Start-up', 'Unallocated', 'odd'])
  })
})

it('numbers are written as somebody likes them', () => {
  preferred.numbers = 'comma'
  expect([count(1204882), bytes(480103981056)]).toEqual(['1.204.882', '480,1 GB'])
  preferred.numbers = 'space'
  expect(count(1204882).replace(/\s/g, ' ')).toBe('1 204 882')
  preferred.numbers = 'point'
  expect([count(1204882), bytes(480103981056)]).toEqual(['1,204,882', '480.1 GB'])
})
