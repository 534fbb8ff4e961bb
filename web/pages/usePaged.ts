import { onScopeDispose, ref, shallowRef, watch } from 'vue'
import { api, errorText } from '../api/client'
import { asLong, joined } from '../api/pieces'
import { nearEnd } from '../words/rows'

/**
 * A list of the API that is loaded a page at a time, further as it is scrolled, and anew when what is asked for
 * changes.
 * @param path of the list in the API
 * @param key where a page has its rows
 * @param asked what narrows it
 * @param size rows of a page
 */
export function usePaged<Key extends string, Page extends { total: number } & Record<Key, { id: number }[]>>(
  path: string,
  key: Key,
  asked: () => Record<string, string>,
  size = 60,
) {
  type Rows = Page[Key]
  const page = shallowRef<Page | null>(null)
  const rows = shallowRef<Rows | null>(null)
  const error = ref('')
  let reading = false

  const ask = (from: number, count: number) =>
    api.get<Page>(`${path}?${new URLSearchParams({ ...asked(), from: String(from), count: String(count) })}`)

  async function load(length = size) {
    try {
      const next = await asLong<Key, Page>(length, key, ask)
      page.value = next
      rows.value = next[key]
      error.value = ''
    } catch (problem) {
      error.value = errorText(problem)
    }
  }

  async function scrolled(event: Event) {
    const shown = rows.value
    if (!shown || reading || shown.length >= page.value!.total || !nearEnd(event.target as HTMLElement, 300)) return
    reading = true
    const next = await ask(shown.length, size).catch(() => null)
    if (next && rows.value === shown) rows.value = joined(shown, next[key]) as Rows
    reading = false
  }

  let timer = 0
  watch(asked, () => {
    clearTimeout(timer)
    timer = window.setTimeout(load, 150)
  })
  onScopeDispose(() => clearTimeout(timer))

  /** As long as it is now: whoever has scrolled stays there. */
  const refresh = () => load(Math.max(size, rows.value?.length ?? 0))

  return { page, rows, error, load, refresh, scrolled }
}
