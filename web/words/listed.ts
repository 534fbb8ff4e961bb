import { computed, onUnmounted, ref } from 'vue'

/** How old a list is that people compare with what lies before them: call `listed` whenever it is read. */
export function useListAge() {
  const now = ref(Date.now())
  const at = ref(Date.now())
  const clock = setInterval(() => (now.value = Date.now()), 1000)
  onUnmounted(() => clearInterval(clock))
  const age = computed(() => `listed ${Math.max(0, Math.round((now.value - at.value) / 1000))} s ago`)
  return { now, age, listed: () => (at.value = Date.now()) }
}
