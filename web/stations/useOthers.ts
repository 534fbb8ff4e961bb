import { onScopeDispose, ref, shallowRef, watch } from 'vue'
import { api } from '../api/client'
import { useLive } from '../api/live'
import type { SomebodyHere, StationName } from '../api/types'

const EVERY = 10_000
/** This page, as long as it is loaded. */
const PAGE = Array.from(crypto.getRandomValues(new Uint8Array(12)), (byte) => byte.toString(16).padStart(2, '0')).join(
  '',
)

/** What is chosen here and not sealed yet: "image-12", "drive-4". */
export const choice = ref<string | null>(null)
/** Who else has this docket open, and at what. */
export const others = shallowRef<SomebodyHere[]>([])

/** Initials and names of those who have chosen the same thing on their pages. */
export const choosing = (what: string): SomebodyHere[] => others.value.filter((one) => one.choice === what)

/** Says that this page shows a docket, and hears who else does, as long as the component lives. */
export function useOthers(docket: () => string, station: () => StationName): void {
  async function say() {
    const asked = docket()
    const said = { page: PAGE, station: station(), choice: choice.value }
    const found = await api.put<SomebodyHere[]>(`/dockets/${asked}/people`, said).catch(() => null)
    if (found && asked === docket()) others.value = found
  }

  watch([docket, station], () => (choice.value = null), { flush: 'sync' })
  watch([docket, station, choice], say, { immediate: true })
  const timer = setInterval(say, EVERY)
  useLive({ people: (told) => String(told.docket_id) === docket() && say(), back: say })
  onScopeDispose(() => {
    clearInterval(timer)
    others.value = []
    choice.value = null
  })
}
