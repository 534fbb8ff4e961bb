import { describe, expect, it } from 'vitest'
import { place, spread } from './timeScale'

const DAY = 86_400_000

describe('images on a line of time', () => {
  it('lie in their order, within the line', () => {
    const marks = [0, 3 * DAY, 10 * DAY]
    const at = marks.map(place(marks, 0, 1, 700))
    expect(at).toEqual([...at].sort((one, two) => one - two))
    expect(at[0]).toBeGreaterThanOrEqual(0)
    expect(at[2]).toBeLessThanOrEqual(700)
  })

  it('lie in the middle where there is none', () => expect(place([], 0, 1, 700)(123)).toBe(350))

  it('are moved apart where they would lie upon each other, and only some dates are printed', () => {
    const points = [300, 300, 301].map((x, id) => ({ id, x, image: { taken_at: '2031-03-02T18:30:00Z' } }))
    const found = spread(points)
    expect(found.map((one) => one.x)).toEqual([300, 315, 330])
    expect(found.map((one) => one.label !== null)).toEqual([true, false, false])
  })
})
