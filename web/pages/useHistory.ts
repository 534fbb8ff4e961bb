import { ref, watch, type Ref } from 'vue'
import { api, errorText } from '../api/client'

/** What something has been through, loaded anew whenever another is asked for. */
export function useHistory<History>(path: () => string, name: (history: History) => string) {
  const history = ref<History | null>(null) as Ref<History | null>
  const error = ref('')

  async function load() {
    try {
      history.value = await api.get<History>(path())
      document.title = `${name(history.value)} · Evrel`
    } catch (problem) {
      error.value = errorText(problem)
    }
  }

  watch(path, load, { immediate: true })
  return { history, error, load }
}
