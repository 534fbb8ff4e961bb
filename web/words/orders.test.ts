import { describe, expect, it } from 'vitest'
import type { Order, Write, WriteView } from '../api/types'
import { orderAmount, orderState, partShares, toWrite } from './orders'

const orders = [
  { id: 'clear', kind: 'clear', title: 'Clears the old table', detail: '' },
  { id: 'part-1', kind: 'part', part: 1, bytes: 1000, title: 'Writes part 1', detail: '' },
  { id: 'part-2', kind: 'part', part: 2, bytes: 3000, title: 'Writes part 2', detail: '' },
  { id: 'table', kind: 'table', title: 'Writes the table', detail: '' },
] as unknown as Order[]

const write = (state: string, order: string | undefined, done = 0, outcomes: unknown[] = []) =>
  ({ state, progress: { order, done }, outcomes }) as unknown as Write
const view = (of: Write | null, expected: unknown = null) => ({ orders, write: of, expected }) as unknown as WriteView
const states = (of: Write | null) => orders.map((_, index) => orderState(orders, of, index))

describe('orderState', () => {
  it('is ahead before the write, and done behind it', () => {
    expect(new Set(states(null))).toEqual(new Set(['ahead']))
    expect(new Set(states(write('done', 'table')))).toEqual(new Set(['done']))
  })

  it('tells where a write is, failed, or waits', () => {
    expect(states(write('running', 'part-1'))).toEqual(['done', 'now', 'ahead', 'ahead'])
    expect(states(write('failed', 'part-2'))).toEqual(['done', 'done', 'failed', 'ahead'])
    expect(states(write('paused', 'part-2'))).toEqual(['done', 'done', 'held', 'ahead'])
  })
})

describe('what is written', () => {
  it('counts parts only', () => expect(toWrite(orders)).toBe(4000))

  it('is a share of each part', () => {
    expect(partShares(orders, write('running', 'part-2', 750))).toEqual({ 1: 1, 2: 0.25 })
    expect(partShares(orders, null)).toEqual({ 1: 0, 2: 0 })
  })
})

describe('orderAmount', () => {
  it('tells how much it will be, how far it is, and what it did', () => {
    expect(orderAmount(view(null), 1)).toBe('1 kB')
    expect(orderAmount(view(write('running', 'part-1', 500)), 1)).toBe('500 B of 1 kB')
    const over = write('running', 'part-2', 0, [{ id: 'part-1', bytes: 1000, seconds: 4 }])
    expect(orderAmount(view(over, { orders: { 'part-1': 5 } }), 1)).toBe('1 kB · 4 s, said 5 s')
    expect(orderAmount(view(null), 3)).toBe('')
  })

  it('tells what was there already', () => {
    const over = write('running', 'part-2', 0, [{ id: 'part-1', bytes: 1000, moved: 200, spared: 800, seconds: 1 }])
    expect(orderAmount(view(over), 1)).toBe('200 B written, 800 B there already · 1 s')
  })
})
