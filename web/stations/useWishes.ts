import { computed, ref, watch, type Ref } from 'vue'
import { api, errorText } from '../api/client'
import type { StationAnswer } from '../api/answers'
import type { Fact, LayoutView, Way, Wish } from '../api/types'

/** Settings that stay when another way is chosen. */
const KEPT = ['leave_out', 'free', 'table', 'identity', 'rewrite', 'align', 'air', 'by'] as const
/** So much is kept of what was undone, in the browser. */
const MOST = 500

/** The wishes of a layout: each is tried on the server, kept there, and can be taken back. */
export function useWishes(docket: () => number, view: Ref<LayoutView | null>, facts: Ref<Fact[]>) {
  const key = () => `evrel-layout-${docket()}`
  const before = ref<Wish[]>([])
  const after = ref<Wish[]>([])
  const busy = ref(false)
  /** Why the last move did not hold. */
  const refusal = ref('')
  recall()

  function recall() {
    try {
      const kept = JSON.parse(sessionStorage.getItem(key()) ?? '{}') as { before?: Wish[]; after?: Wish[] }
      before.value = kept.before ?? []
      after.value = kept.after ?? []
    } catch {
      before.value = after.value = []
    }
  }
  watch(
    [before, after],
    () =>
      sessionStorage.setItem(
        key(),
        JSON.stringify({ before: before.value.slice(-MOST), after: after.value.slice(-MOST) }),
      ),
    { deep: true, flush: 'sync' },
  )

  /** The settings of the wish now, without its way and places. */
  function settings(): Wish {
    const wish = view.value?.wish ?? {}
    return Object.fromEntries(KEPT.filter((name) => wish[name] !== undefined).map((name) => [name, wish[name]])) as Wish
  }

  const post = (wish: Wish) => send('plan', { wish })

  async function send(path: 'plan' | 'read', body: object): Promise<boolean> {
    busy.value = true
    try {
      const answer = await api.post<StationAnswer<LayoutView>>(`/dockets/${docket()}/layout/${path}`, body)
      view.value = answer.view
      facts.value = answer.facts
      return true
    } catch (problem) {
      refusal.value = errorText(problem)
      return false
    } finally {
      busy.value = false
    }
  }

  /** Makes a wish; +spring+: where the plan cannot be, it goes back with the reason. */
  const wish = (next: Wish, { spring = false } = {}) => change(() => post(next), spring)

  /** Takes a plan or a script for sfdisk, given as text, as the wish. */
  const read = (text: string) => change(() => send('read', { text }), false)

  /** A change of the wish that can be taken back. */
  async function change(send: () => Promise<boolean>, spring: boolean): Promise<boolean> {
    const old = view.value?.wish
    if (busy.value || !old || view.value?.sealed) return false
    refusal.value = ''
    // Noted first: a page that is loaded anew in the middle can take it back too.
    before.value.push(old)
    const forgotten = after.value
    after.value = []
    const forget = () => {
      before.value.pop()
      after.value = forgotten
      return false
    }
    if (!(await send())) return forget()
    if (!spring || view.value?.valid) return true
    const problem = view.value?.problem
    await post(old)
    refusal.value = problem ? `${problem.title}. ${problem.message}.` : 'That cannot be'
    return forget()
  }

  async function step(from: Ref<Wish[]>, to: Ref<Wish[]>) {
    const next = from.value[from.value.length - 1]
    const now = view.value?.wish
    if (!next || !now || busy.value || view.value?.sealed) return
    refusal.value = ''
    if (!(await post(next))) return
    from.value.pop()
    to.value.push(now)
  }

  /** Another way, with the settings that were made besides. */
  const way = (name: Way, more: Wish = {}) => wish({ ...settings(), ...more, way: name })

  /** Everything as it lies now, but for one place. */
  function byHand(number: number, place: { start: number; size: number }) {
    const parts = Object.fromEntries(
      (view.value?.after?.parts ?? []).map((part) => [
        String(part.number),
        { start: part.start_bytes, size: part.size_bytes },
      ]),
    )
    return wish({ ...settings(), way: 'by_hand', parts: { ...parts, [String(number)]: place } }, { spring: true })
  }

  return {
    wish,
    read,
    way,
    byHand,
    settings,
    busy,
    refusal,
    undo: () => step(before, after),
    redo: () => step(after, before),
    canUndo: computed(() => before.value.length > 0),
    canRedo: computed(() => after.value.length > 0),
  }
}
