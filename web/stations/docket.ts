import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import { api, errorText } from '../api/client'
import { inTurn } from '../api/inTurn'
import type { StationAnswer } from '../api/answers'
import type { Docket, StationName } from '../api/types'

/**
 * The docket that is open and the view of the station that is shown: the one place that asks the server for them. An
 * answer that was asked for before the page itself changed the view is not taken.
 */
export const useDocketStore = defineStore('docket', () => {
  const id = ref('')
  const docket = ref<Docket | null>(null)
  const station = ref<StationName | null>(null)
  const answer = ref<StationAnswer<unknown> | null>(null)
  /** Why the docket, or its station, cannot be shown, or what was refused. */
  const error = ref('')
  const stationError = ref<string | null>(null)
  const changes = shallowRef(0)

  const load = inTurn(async () => {
    const asked = id.value
    try {
      const found = await api.get<Docket>(`/dockets/${asked}`)
      if (asked !== id.value) return true
      docket.value = found
      error.value = ''
    } catch (problem) {
      error.value = errorText(problem)
    }
    return asked !== id.value
  })

  const loadStation = inTurn(async () => {
    const asked = path()
    const before = changes.value
    if (!asked) return false
    try {
      const found = await api.get<StationAnswer<unknown>>(asked)
      if (asked === path() && before === changes.value) answer.value = found
    } catch (problem) {
      if (asked === path()) stationError.value = errorText(problem)
    }
    return asked !== path() || before !== changes.value
  })

  const path = () => (station.value ? `/dockets/${id.value}/stations/${station.value}` : null)

  async function open(next: string) {
    if (next !== id.value) {
      docket.value = answer.value = station.value = null
      error.value = ''
    }
    id.value = next
    await load()
  }

  async function show(name: StationName) {
    station.value = name
    answer.value = null
    stationError.value = null
    await loadStation()
  }

  /** What the server answered to something that the page did. */
  function take(next: StationAnswer<unknown>) {
    changes.value += 1
    answer.value = next
  }

  /** Something has happened: both may be other ones now. */
  async function refresh() {
    await Promise.all([load(), loadStation()])
  }

  return { docket, answer, error, stationError, open, load, show, loadStation, take, refresh }
})
