import { describe, expect, it } from 'vitest'
import { understand } from './sizes'

const room = { now: 60e9, least: 21e9, most: 90e9, of: 100e9 }
const size = (text: string) => {
  const found = understand(text, room)
  return 'bytes' in found ? found.bytes : found.error
}

describe('a size as somebody typed it', () => {
  it.each([
    ['64.9 GB', 64.9e9],
    ['64,9', 64.9e9],
    ['60GiB', 60 * 1024 ** 3],
    ['512m', 512 * 1024 ** 2],
    ['+10G', 60e9 + 10 * 1024 ** 3],
    ['-500 MB', 59.5e9],
    ['25%', 25e9],
    ['max', 90e9],
    ['least', 21e9],
    ['min', 21e9],
  ])('understands %s', (text, expected) => expect(size(text)).toBe(expected))

  it.each([
    ['', /Type a size/],
    ['lots', /“lots” is no size/],
    ['-70 GB', /less than nothing/],
    ['99999999 TB', /more than any disk/],
    ['1e9', /is no size/],
  ])('says what is wrong with “%s”', (text, expected) => expect(size(text)).toMatch(expected))
})
