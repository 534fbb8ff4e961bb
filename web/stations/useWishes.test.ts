import { beforeEach, describe, expect, it, vi } from 'vitest'
import { ref } from 'vue'
import type { Fact, LayoutView, Wish } from '../api/types'
import { useWishes } from './useWishes'

/** The server, as far as a wish goes: it takes every wish but one that is marked, and refuses one that is odd. */
let asked: Wish[] = []
const kept = new Map<string, string>()
vi.stubGlobal('sessionStorage', {
  getItem: (key: string) => kept.get(key) ?? null,
  setItem: (key: string, value: string) => kept.set(key, value),
})
vi.stubGlobal('fetch', async (_: string, { body }: { body: string }) => {
  const { wish = { way: 'by_hand' } } = JSON.parse(body) as { wish?: Wish; text?: string }
  asked.push(wish)
  if (wish.way === 'part') return new Response(JSON.stringify({ error: 'Refused', message: 'no' }), { status: 409 })
  const valid = wish.salt !== 'cannot be'
  const problem = valid ? null : { title: 'Too small', message: 'choose another drive' }
  return new Response(JSON.stringify({ station: 'layout', view: { wish, valid, problem }, facts: [] }), { status: 200 })
})

const made = () => {
  const view = ref({ wish: { way: 'grow', air: 20 }, valid: true } as unknown as LayoutView)
  return { view, wishes: useWishes(() => 7, view, ref<Fact[]>([])) }
}

describe('the wishes of a layout', () => {
  beforeEach(() => {
    asked = []
    kept.clear()
  })

  it('keep their settings when another way is chosen, and can be taken back and done again', async () => {
    const { view, wishes } = made()
    await wishes.way('spread')
    expect(view.value.wish).toEqual({ way: 'spread', air: 20 })
    await wishes.undo()
    expect(view.value.wish).toEqual({ way: 'grow', air: 20 })
    expect([wishes.canUndo.value, wishes.canRedo.value]).toEqual([false, true])
    await wishes.redo()
    expect(view.value.wish).toEqual({ way: 'spread', air: 20 })
  })

  it('take what is read in by one call, which can be taken back', async () => {
    const { view, wishes } = made()
    expect(await wishes.read('label: gpt')).toBe(true)
    expect(asked).toHaveLength(1)
    expect(view.value.wish).toEqual({ way: 'by_hand' })
    await wishes.undo()
    expect(view.value.wish).toEqual({ way: 'grow', air: 20 })
  })

  it('go back with the reason where a place cannot be', async () => {
    const { view, wishes } = made()
    expect(await wishes.wish({ way: 'by_hand', salt: 'cannot be' }, { spring: true })).toBe(false)
    expect(view.value.wish).toEqual({ way: 'grow', air: 20 })
    expect(wishes.refusal.value).toBe('Too small. choose another drive.')
    expect(wishes.canUndo.value).toBe(false)
  })

  it('forget nothing where the server refuses', async () => {
    const { view, wishes } = made()
    await wishes.way('spread')
    await wishes.undo()
    expect(await wishes.wish({ way: 'part' })).toBe(false)
    expect(view.value.wish).toEqual({ way: 'grow', air: 20 })
    expect(wishes.canRedo.value).toBe(true)
  })

  it('are still there when the page is loaded anew', async () => {
    await made().wishes.way('spread')
    expect(made().wishes.canUndo.value).toBe(true)
  })
})
