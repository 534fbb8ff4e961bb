import { storeToRefs } from 'pinia'
import { computed, ref } from 'vue'
import { api, errorText } from '../api/client'
import type { Docket, Fact, StationName } from '../api/types'
import { useDocketStore } from './docket'

export interface StationEmits {
  (event: 'sealed', docket: Docket): void
  (event: 'changed'): void
}

/** What every station does: show its view, seal, break the seal, and say what went wrong. */
export function useStation<View>(name: StationName, docket: () => Docket, emit: StationEmits) {
  const store = useDocketStore()
  const { answer, stationError: error } = storeToRefs(store)
  const mine = computed(() => (answer.value?.station === name ? answer.value : null))
  const view = computed<View | null>({
    get: () => (mine.value?.view ?? null) as View | null,
    set: (next) => store.take({ station: name, view: next, facts: facts.value }),
  })
  const facts = computed<Fact[]>({
    get: () => mine.value?.facts ?? [],
    set: (next) => store.take({ station: name, view: view.value, facts: next }),
  })
  const busy = ref(false)
  const path = () => `/dockets/${docket().id}/stations/${name}`
  const load = () => store.loadStation()

  /** Runs a request; on a refusal the reason is shown and nothing else changes. */
  async function attempt<T>(request: () => Promise<T>): Promise<T | undefined> {
    if (busy.value) return undefined
    busy.value = true
    error.value = null
    try {
      return await request()
    } catch (problem) {
      error.value = errorText(problem)
      emit('changed') // somebody else may have been faster
      await load()
      return undefined
    } finally {
      busy.value = false
    }
  }

  /** The seal that this page shows: the server tells where it is another one by now. */
  const seen = () => row().seal?.id ?? null

  async function seal(body: object = {}): Promise<boolean> {
    const next = await attempt(() => api.post<Docket>(`${path()}/seal`, { ...body, seen: seen() }))
    if (next) emit('sealed', next)
    return next !== undefined
  }

  async function breakSeal(reason: string) {
    const next = await attempt(() => api.delete<Docket>(`${path()}/seal`, { reason, seen: seen() }))
    if (!next) return
    emit('changed')
    await load()
  }

  /** Why no seal can be broken now. */
  const locked = computed(() =>
    ['running', 'queued'].includes(docket().write?.state ?? '') ? 'A write is running' : undefined,
  )
  const row = () => docket().stations.find((station) => station.name === name)!
  store.show(name)
  return { view, facts, error, busy, load, attempt, seal, breakSeal, row, locked }
}
