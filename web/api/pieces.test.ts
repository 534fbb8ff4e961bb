import { describe, expect, it } from 'vitest'
import { asLong, joined } from './pieces'

const list = (count: number) => Array.from({ length: count }, (_, id) => ({ id }))

/** A server with that many rows, and what it was asked for. */
function server(all: { id: number }[]) {
  const asked: [number, number][] = []
  const ask = async (from: number, count: number) => {
    asked.push([from, count])
    return { total: all.length, rows: all.slice(from, from + count) }
  }
  return { ask, asked }
}

describe('asLong', () => {
  it('asks for a list as long as it was, a piece at a time', async () => {
    const { ask, asked } = server(list(2000))
    expect((await asLong(1300, 'rows', ask)).rows).toEqual(list(1300))
    expect(asked).toEqual([
      [0, 250],
      [250, 250],
      [500, 250],
      [750, 250],
      [1000, 250],
      [1250, 50],
    ])
  })

  it('ends where the list has become shorter', async () => {
    const { ask, asked } = server(list(700))
    expect((await asLong(1300, 'rows', ask)).rows).toEqual(list(700))
    expect(asked.length).toBe(3)
  })

  it('ends where nothing new comes, whatever the total says', async () => {
    const ask = async () => ({ total: 5000, rows: list(10) })
    expect((await asLong(100, 'rows', ask)).rows).toEqual(list(10))
  })
})

describe('joined', () => {
  it('has no row twice that has moved down meanwhile', () => {
    expect(joined(list(3), [{ id: 2 }, { id: 3 }])).toEqual(list(4))
  })
})
