import { describe, expect, it } from 'vitest'
import { milestone } from './milestones'

const writing = (percent: number) => ({ percent, step: 'Writing', running: true })

describe('milestone', () => {
  it('tells each quarter once, and no figure between', () => {
    expect(milestone(writing(3), writing(24))).toBeNull()
    expect(milestone(writing(24), writing(25))).toBe('25 percent done')
    expect(milestone(writing(25), writing(49))).toBeNull()
    expect(milestone(writing(20), writing(80))).toBe('75 percent done')
  })

  it('tells what begins', () => {
    expect(milestone(null, writing(0))).toBe('Writing, 0 percent done')
    expect(milestone(writing(50), { percent: 50, step: 'Reading back', running: true })).toBe(
      'Reading back, 50 percent done',
    )
  })

  it('tells the end once', () => {
    const over = { percent: 100, step: 'Written', running: false }
    expect(milestone(writing(99), over)).toBe('Written')
    expect(milestone(over, over)).toBeNull()
  })
})
