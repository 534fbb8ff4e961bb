import { onUnmounted, ref, watch, type Ref } from 'vue'

/** Height and width of an element, kept up to date. */
export function useElementSize(element: Ref<HTMLElement | null>) {
  const height = ref(0)
  const width = ref(0)
  const observer = new ResizeObserver(([entry]) => {
    height.value = entry?.contentRect.height ?? 0
    width.value = entry?.contentRect.width ?? 0
  })
  watch(
    element,
    (next, old) => {
      if (old) observer.unobserve(old)
      if (next) observer.observe(next)
    },
    { immediate: true },
  )
  onUnmounted(() => observer.disconnect())
  return { height, width }
}
