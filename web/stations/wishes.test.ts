import { describe, expect, it } from 'vitest'
import type { LayoutView } from '../api/types'
import { byWay, growing, partAt, without, withAgain } from './wishes'

const part = (number: number, role: string, size: number, more = {}) => ({
  number,
  role,
  start_bytes: number * 1000,
  size_bytes: size,
  ...more,
})
const view = {
  way: 'as_in_image',
  wish: { way: 'as_in_image' },
  image: { parts: [part(1, 'startup', 9), part(2, 'system', 50), part(3, 'data', 70), part(4, 'swap', 99)] },
  after: { parts: [part(2, 'system', 50), part(-1, 'data', 5, { kept: true })] },
  now: { parts: [part(7, 'data', 8)] },
} as unknown as LayoutView

describe('growing', () => {
  it('is the chosen part where it can grow, or else the system', () => {
    expect(growing(view, 3)).toBe(3)
    expect(growing(view, 4)).toBe(2)
    expect(growing(view, null)).toBe(2)
    expect(growing(null, 2)).toBeUndefined()
  })
})

describe('byWay', () => {
  it('changes nothing where the way is the same, but for what grows', () => {
    expect(byWay(view, 'as_in_image', null)).toBeNull()
    expect(byWay({ ...view, way: 'grow' }, 'grow', 3)).toEqual({ way: 'grow', with: { part: 3 } })
  })

  it('takes the places as they are by hand, without those of the disk that stay', () => {
    expect(byWay(view, 'by_hand', null)).toEqual({ way: 'by_hand', with: { parts: { 2: { start: 2000, size: 50 } } } })
  })

  it('puts one part over the first of the disk, or at its beginning', () => {
    expect(byWay(view, 'part', 3)).toEqual({ way: 'part', with: { part: 3, leave_out: [], over: 7 } })
    const empty = { ...view, now: { parts: [] } } as unknown as LayoutView
    expect(byWay(empty, 'part', 3)).toEqual({ way: 'part', with: { part: 3, leave_out: [], at: 1_048_576 } })
  })
})

describe('partAt', () => {
  const only = { ...view, way: 'part', wish: { way: 'part', part: 2, over: 7 } } as unknown as LayoutView

  it('stays over its partition while only its size changes', () => {
    expect(partAt(only, 2, { start: 2000, size: 60 })).toEqual({ way: 'part', part: 2, over: 7, size: 60 })
  })

  it('goes to a place of its own when it is moved', () => {
    expect(partAt(only, 2, { start: 3000, size: 50 })).toEqual({
      way: 'part',
      part: 2,
      over: undefined,
      at: 3000,
      size: 50,
    })
  })
})

describe('leaving a part out', () => {
  it('is taken back', () => {
    expect(without({ way: 'spread' }, 3)).toEqual({ way: 'spread', leave_out: [3] })
    expect(withAgain({ way: 'spread', leave_out: [3, 4] }, 3)).toEqual({ way: 'spread', leave_out: [4] })
    expect(withAgain({ way: 'by_hand', leave_out: [3] }, 3)).toEqual({ way: 'shrink', leave_out: [] })
  })
})
