import type { LayoutView, Part, Way, Wish } from '../api/types'
import type { Place } from '../drawing/fit'

/** Bytes at which a part begins that is put on an empty disk. */
const FIRST = 1024 ** 2

/** Another wish than the one of the page: a way with what it needs, or a whole wish. */
export type Next = { way: Way; with?: Partial<Wish> } | { wish: Wish; spring?: boolean }

/** What grows: the chosen part where it can, or the largest system or data part that can. */
export function growing(view: LayoutView | null, chosen: number | null): number | undefined {
  const able = (view?.image?.parts ?? []).filter((one) => ['system', 'data'].includes(one.role))
  const rank = (one: Part) => (one.role === 'system' ? 1 : 0)
  const best = [...able].sort((one, two) => rank(two) - rank(one) || two.size_bytes - one.size_bytes)[0]
  return (able.find((one) => one.number === chosen) ?? best)?.number ?? undefined
}

/** What is wished where another way of fitting is chosen; null where nothing changes. */
export function byWay(view: LayoutView, way: Way, chosen: number | null): Next | null {
  if (way === view.way && way !== 'grow') return null
  const part = growing(view, chosen)
  if (way === 'grow') return { way, with: part ? { part } : {} }
  if (way === 'by_hand') return { way, with: { parts: places(view.after?.parts ?? []) } }
  if (way !== 'part') return { way }
  const only = part ?? view.image?.parts[0]?.number
  const over = view.now?.parts[0]?.number
  return only ? { way, with: { part: only, leave_out: [], ...(over ? { over } : { at: FIRST }) } } : null
}

const places = (parts: NonNullable<LayoutView['after']>['parts']) =>
  Object.fromEntries(
    parts
      .filter((one) => !one.kept)
      .map((one) => [String(one.number), { start: one.start_bytes, size: one.size_bytes }]),
  )

/** Of a part restore, the part at another place, within the room or the partition that it goes to. */
export function partAt(view: LayoutView, number: number, to: Place): Wish {
  const now = view.wish ?? {}
  const same = to.start === view.after?.parts.find((one) => one.number === number)?.start_bytes
  return { ...now, ...(now.over && same ? {} : { over: undefined, at: to.start }), size: to.size }
}

export const without = (wish: Wish | null | undefined, number: number): Wish => ({
  ...wish,
  leave_out: [...(wish?.leave_out ?? []), number],
})

/** By hand, nobody has said where the part would go: the rest makes room for it. */
export const withAgain = (wish: Wish | null | undefined, number: number): Wish => ({
  ...wish,
  way: wish?.way === 'by_hand' ? 'shrink' : wish?.way,
  leave_out: (wish?.leave_out ?? []).filter((one) => one !== number),
})
