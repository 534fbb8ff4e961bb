<script setup lang="ts">
import { computed } from 'vue'
import type { LayoutView, Wish } from '../../api/types'
import { bytes, roleName } from '../../words/format'

/** One part of the image, over a partition of the target or into its free room. */
const props = defineProps<{ view: LayoutView; fixed: boolean }>()
const emit = defineEmits<{ wish: [wish: Wish] }>()
const wish = computed(() => props.view.wish ?? {})
const parts = computed(() => props.view.image?.parts ?? [])
const there = computed(() => props.view.now?.parts ?? [])
const word = (part: { name: string; role: string; volume: { label: string | null }; size_bytes: number }) =>
  `${part.name || part.volume.label || roleName(part.role)}, ${bytes(part.size_bytes)}`
/** Gaps of the target that are worth offering. */
const gaps = computed(() => {
  const found: { start: number; size: number }[] = []
  let at = 1024 ** 2
  for (const part of [...there.value].sort((one, two) => one.start_bytes - two.start_bytes)) {
    if (part.start_bytes - at > 8 * 1024 ** 2) found.push({ start: at, size: part.start_bytes - at })
    at = part.start_bytes + part.size_bytes
  }
  const rest = (props.view.now?.size_bytes ?? 0) - at - 2 * 1024 ** 2
  if (rest > 8 * 1024 ** 2) found.push({ start: Math.ceil(at / 1024 ** 2) * 1024 ** 2, size: rest })
  return found
})
const place = computed(() => (wish.value.over ? `over ${wish.value.over}` : `at ${wish.value.at}`))
function choose(value: string) {
  const [how, number] = value.split(' ')
  emit('wish', {
    ...wish.value,
    over: undefined,
    at: undefined,
    size: undefined,
    ...(how === 'over' ? { over: Number(number) } : { at: Number(number) }),
  })
}
</script>

<template>
  <div class="only small">
    <label
      >Restore
      <select
        :value="wish.part"
        :disabled="fixed"
        aria-label="Part of the image"
        @change="emit('wish', { ...wish, part: Number(($event.target as HTMLSelectElement).value) })"
      >
        <option v-for="part in parts" :key="part.number!" :value="part.number">{{ word(part) }}</option>
      </select></label
    >
    <label
      >to
      <select
        :value="place"
        :disabled="fixed"
        aria-label="Place on the target"
        @change="choose(($event.target as HTMLSelectElement).value)"
      >
        <option v-for="part in there" :key="`o${part.number}`" :value="`over ${part.number}`">
          over {{ part.number }}: {{ word(part) }}
        </option>
        <option v-for="gap in gaps" :key="`g${gap.start}`" :value="`at ${gap.start}`">
          free room at {{ bytes(gap.start) }}, {{ bytes(gap.size) }}
        </option>
      </select></label
    >
    <span class="muted">All other parts stay byte for byte.</span>
  </div>
</template>

<style scoped>
.only {
  display: flex;
  gap: 12px;
  align-items: center;
  padding: 6px 0 0;
  flex-wrap: wrap;
}
select {
  padding: 3px 6px;
  max-width: 240px;
}
</style>
