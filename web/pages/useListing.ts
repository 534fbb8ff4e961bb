import { computed, ref, shallowRef, type Ref } from 'vue'
import { api, errorText } from '../api/client'
import type { Entry, FilePreview, Listing } from '../api/types'

/** Characters from which on names are looked for. */
const SHORTEST = 2

/**
 * What is in a part of an image: a folder, or the names that were found; with a look at one file.
 * @param base path of the part in the API
 */
export function useListing(base: Ref<string>) {
  const listing = shallowRef<Listing | null>(null)
  const found = shallowRef<Entry[] | null>(null)
  const preview = ref<FilePreview | null>(null)
  const text = ref('')
  const error = ref('')
  const busy = ref(false)
  const at = ref(-1)
  const rows = computed(() => found.value ?? listing.value?.entries ?? [])

  async function attempt(request: () => Promise<void>) {
    busy.value = true
    try {
      await request()
      error.value = ''
    } catch (problem) {
      error.value = errorText(problem)
    } finally {
      busy.value = false
    }
  }

  async function open(path: string) {
    await attempt(async () => {
      listing.value = await api.get<Listing>(`${base.value}/files?path=${encodeURIComponent(path)}`)
      leaveFound()
      at.value = -1
    })
  }

  /** The rest of a long folder, as far as it is looked at. */
  async function more() {
    const now = listing.value
    if (!now || found.value || busy.value || now.entries.length >= now.total) return
    await attempt(async () => {
      const path = encodeURIComponent(now.path)
      const next = await api.get<Listing>(`${base.value}/files?path=${path}&from=${now.entries.length}`)
      if (listing.value === now) listing.value = { ...now, entries: [...now.entries, ...next.entries] }
    })
  }

  /** Goes into a folder, or shows the beginning of a file. */
  async function look(entry: Entry) {
    at.value = rows.value.indexOf(entry)
    if (entry.type === 'directory') return open(entry.path)
    if (entry.type !== 'file' || entry.note) return (preview.value = null)
    await attempt(async () => {
      preview.value = await api.get<FilePreview>(`${base.value}/preview?path=${encodeURIComponent(entry.path)}`)
    })
  }

  async function find() {
    if (text.value.trim().length < SHORTEST) return (found.value = null)
    await attempt(async () => {
      found.value = await api.get<Entry[]>(`${base.value}/find?q=${encodeURIComponent(text.value.trim())}`)
      at.value = -1
    })
  }

  function leaveFound() {
    found.value = null
    text.value = ''
  }

  /** To the folder above, or from what was found to the folder; false where there is none above. */
  function up(): boolean {
    if (found.value) {
      found.value = null
      return true
    }
    const path = listing.value?.path ?? '/'
    if (path === '/') return false
    open(path.slice(0, path.lastIndexOf('/')) || '/')
    return true
  }

  return { listing, found, preview, text, error, busy, at, rows, attempt, open, more, look, find, leaveFound, up }
}
