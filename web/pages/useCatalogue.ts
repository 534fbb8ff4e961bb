import { computed, ref, shallowRef, watch } from 'vue'
import { api, errorText } from '../api/client'
import { useLive } from '../api/live'
import { asLong, joined } from '../api/pieces'
import type { Catalogue, FileGroup, Image, ImageRow, Shelf, Unsearched } from '../api/types'
import { imagesOf } from '../words/images'

const PAGE = 100
const PAUSE = 150 // ms after the last key until what was typed is looked for

/**
 * The catalogue as it is asked for: by words, state and shelf, or by the name of a file inside; with the chosen image,
 * and kept true by what the server tells.
 * @param asked name of a file, words, number of an image, state and shelf that the address names
 */
export function useCatalogue(asked: {
  file?: string
  words?: string
  show: number | null
  state: keyof Catalogue['states'] | ''
  shelf: number | ''
}) {
  const rows = shallowRef<ImageRow[]>([])
  const total = ref(0)
  const states = ref<Catalogue['states']>({})
  const shelves = ref<Shelf[] | null>(null)
  const files = ref<FileGroup[] | null>(null)
  const unsearched = ref<Unsearched | null>(null)
  const image = ref<Image | null>(null)
  const error = ref('')
  const loaded = ref(false)
  const text = ref(asked.file ?? asked.words ?? '')
  const within = ref<'images' | 'files'>(asked.file ? 'files' : 'images')
  const state = ref<keyof Catalogue['states'] | ''>(asked.state)
  const shelf = ref<number | ''>(asked.shelf)
  const chosen = ref<number | null>(asked.show)
  const all = computed(() => imagesOf(states.value))
  const searching = computed(() => within.value === 'files' && text.value.trim().length > 1)
  let typing: ReturnType<typeof setTimeout> | undefined
  let reading = false

  async function attempt(request: () => Promise<void>) {
    try {
      await request()
      error.value = ''
    } catch (problem) {
      error.value = errorText(problem)
    }
  }

  function ask(from: number, count: number) {
    const asked = new URLSearchParams({
      q: within.value === 'images' ? text.value : '',
      state: state.value,
      shelf: String(shelf.value),
      from: String(from),
      count: String(count),
    })
    return api.get<Catalogue>(`/images?${asked}`)
  }

  /** The beginning of another list, or all of this one that is shown already. */
  async function load(length = PAGE) {
    await attempt(async () => {
      const [page, places] = await Promise.all([asLong(length, 'images', ask), api.get<Shelf[]>('/shelves')])
      rows.value = page.images
      total.value = page.total
      states.value = page.states
      shelves.value = places
      loaded.value = true
      if (!rows.value.some((row) => row.id === chosen.value) && !asked.show) chosen.value = rows.value[0]?.id ?? null
      if (within.value !== 'files') return
      unsearched.value ??= await api.get<Unsearched>('/files/unsearched')
      files.value = searching.value ? await api.get<FileGroup[]>(`/files?q=${encodeURIComponent(text.value)}`) : null
    })
  }

  /** The list is long: only as much of it as is looked at is asked for. */
  async function more() {
    if (reading || rows.value.length >= total.value) return
    reading = true
    const from = rows.value.length
    await attempt(async () => {
      const next = (await ask(from, PAGE)).images
      // Another list may have been asked for meanwhile.
      if (rows.value.length === from) rows.value = joined(rows.value, next)
    })
    reading = false
  }

  async function show() {
    if (!chosen.value) return (image.value = null)
    await attempt(async () => {
      image.value = await api.get<Image>(`/images/${chosen.value}`)
    })
  }

  function showAll() {
    text.value = ''
    state.value = ''
    shelf.value = ''
  }

  const refresh = () => load(Math.max(PAGE, rows.value.length))

  async function again() {
    await Promise.all([refresh(), show()])
  }

  watch([state, shelf, within], () => load())
  watch(text, () => {
    clearTimeout(typing)
    typing = setTimeout(load, PAUSE)
  })
  watch(chosen, show, { immediate: true })
  useLive({
    images: ({ checking }) => {
      const mine = checking.find((one) => one.id === image.value?.id)
      if (mine && image.value) Object.assign(image.value, { state: 'checking', progress: mine.progress })
      else if (image.value?.state === 'checking') again() // it has ended
    },
    shelves: ({ looking }) => {
      for (const { id, ...look } of looking) {
        const found = shelves.value?.find((one) => one.id === id)
        if (found) Object.assign(found.look, look)
      }
      const ended = (shelf: Shelf) =>
        ['queued', 'running'].includes(shelf.look.state) && !looking.some((one) => one.id === shelf.id)
      if (shelves.value?.some(ended)) refresh()
    },
    event: (event) => /^(image_|shelf_|trial_done)/.test(event.kind) && again(),
    trial: (trial) => {
      if (image.value?.trial?.id === trial.id) image.value.trial = trial
    },
    bench: refresh,
    back: again,
  })
  load()
  return {
    rows,
    total,
    all,
    states,
    shelves,
    files,
    unsearched,
    image,
    error,
    loaded,
    text,
    within,
    searching,
    state,
    shelf,
    chosen,
    refresh,
    more,
    showAll,
  }
}
