import { describe, expect, it } from 'vitest'
import { inTurn } from './inTurn'

/** Work that ends when it is told to. */
function work() {
  const ends: (() => void)[] = []
  return { ends, begin: () => new Promise<void>((resolve) => ends.push(resolve)) }
}
const settled = () => new Promise((resolve) => setTimeout(resolve))

describe('inTurn', () => {
  it('does it once more, however often it was asked for meanwhile', async () => {
    const { ends, begin } = work()
    const ask = inTurn(begin)
    const all = [ask(), ask(), ask()]
    expect(ends.length).toBe(1)
    ends[0]!()
    await settled()
    expect(ends.length).toBe(2)
    ends[1]!()
    await Promise.all(all)
    expect(ends.length).toBe(2)
  })

  it('does it again where the work says so', async () => {
    let times = 0
    await inTurn(async () => ++times < 3)()
    expect(times).toBe(3)
  })

  it('tells an error to whoever asked, and goes on the next time', async () => {
    let times = 0
    const ask = inTurn(async () => {
      if (++times === 1) throw new Error('no line')
    })
    await expect(ask()).rejects.toThrow('no line')
    await ask()
    expect(times).toBe(2)
  })
})
