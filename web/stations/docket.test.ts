import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { api } from '../api/client'
import { useDocketStore } from './docket'

/** Answers of the server that are given when the test says so. */
let asked: { path: string; answer: (value: unknown) => void }[] = []
const settled = () => new Promise((resolve) => setTimeout(resolve))
const view = (words: string) => ({ station: 'image', view: words, facts: [] })

beforeEach(() => {
  setActivePinia(createPinia())
  asked = []
  const later = (path: string) => new Promise<unknown>((answer) => asked.push({ path, answer }))
  vi.spyOn(api, 'get').mockImplementation(later as typeof api.get)
})

describe('the docket that is open', () => {
  it('asks once more after many events, not once for each', async () => {
    const store = useDocketStore()
    store.open('7')
    for (let times = 0; times < 5; times += 1) store.load()
    expect(asked.map((one) => one.path)).toEqual(['/dockets/7'])
    asked[0]!.answer({ id: 7 })
    await settled()
    expect(asked.length).toBe(2)
    asked[1]!.answer({ id: 7 })
    await settled()
    expect(asked.length).toBe(2)
    expect(store.docket).toEqual({ id: 7 })
  })

  it('does not show an answer from before what the page did itself', async () => {
    const store = useDocketStore()
    store.open('7')
    store.show('image')
    store.take(view('as chosen') as never)
    asked[1]!.answer(view('as it was'))
    await settled()
    expect(store.answer?.view).toBe('as chosen')
    asked[2]!.answer(view('as it is'))
    await settled()
    expect(store.answer?.view).toBe('as it is')
  })

  it('does not show the answer of a station that was left', async () => {
    const store = useDocketStore()
    store.open('7')
    store.show('computer')
    store.show('image')
    asked[1]!.answer({ station: 'computer', view: 'of the computer', facts: [] })
    await settled()
    expect(store.answer).toBeNull()
    expect(asked[2]!.path).toBe('/dockets/7/stations/image')
  })

  it('forgets all of a docket when another is opened', async () => {
    const store = useDocketStore()
    store.open('7')
    asked[0]!.answer({ id: 7 })
    await settled()
    store.open('8')
    expect(store.docket).toBeNull()
  })
})
