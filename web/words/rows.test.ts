import { describe, expect, it } from 'vitest'
import { stepTo } from './rows'

describe('stepTo', () => {
  it('goes by one row, and not over an end', () => {
    expect([stepTo('ArrowDown', 0, 3), stepTo('ArrowDown', 2, 3)]).toEqual([1, 2])
    expect([stepTo('ArrowUp', 2, 3), stepTo('ArrowUp', 0, 3)]).toEqual([1, 0])
  })

  it('begins at the first row where none is chosen', () => {
    expect(stepTo('ArrowDown', -1, 3)).toBe(0)
    expect(stepTo('ArrowUp', -1, 3)).toBe(0)
  })

  it('goes to the ends, and by a page', () => {
    expect([stepTo('Home', 7, 30), stepTo('End', 7, 30)]).toEqual([0, 29])
    expect([stepTo('PageDown', 25, 30), stepTo('PageUp', 25, 30)]).toEqual([29, 15])
  })

  it('stays for other keys, and in an empty list', () => {
    expect(stepTo('a', 4, 30)).toBe(4)
    expect(stepTo('ArrowDown', -1, 0)).toBe(-1)
  })
})
