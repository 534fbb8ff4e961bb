<script setup lang="ts">
import { useTemplateRef } from 'vue'
import type { Way } from '../../api/types'
import { stepTo } from '../../words/rows'

/** The ways of fitting an image to a disk; one tab stop, left and right choose another. */
const props = defineProps<{ way: Way | null | undefined; fixed: boolean }>()
const emit = defineEmits<{ choose: [way: Way]; more: [] }>()
const WAYS: [Way, string][] = [
  ['as_in_image', 'As in the image'],
  ['grow', 'Grow one part'],
  ['spread', 'Spread evenly'],
  ['shrink', 'Shrink to fit'],
  ['by_hand', 'By hand'],
  ['part', 'One part only'],
]
const group = useTemplateRef<HTMLElement>('group')
const stop = (index: number) =>
  index ===
  Math.max(
    0,
    WAYS.findIndex(([name]) => name === props.way),
  )
    ? 0
    : -1

/** Left and right move the focus only: a way is tried when it is chosen, not when it is passed. */
function step(event: KeyboardEvent, index: number) {
  const key = { ArrowRight: 'ArrowDown', ArrowLeft: 'ArrowUp', Home: 'Home', End: 'End' }[event.key]
  if (!key) return
  event.preventDefault()
  event.stopPropagation()
  group.value?.querySelectorAll('button')[stepTo(key, index, WAYS.length)]?.focus()
}
</script>

<template>
  <div class="ways">
    <div ref="group" class="segments" role="radiogroup" aria-label="Way of fitting">
      <button
        v-for="([name, words], index) in WAYS"
        :key="name"
        type="button"
        role="radio"
        :aria-checked="way === name"
        :class="{ on: way === name }"
        :disabled="fixed"
        :tabindex="stop(index)"
        @click="emit('choose', name)"
        @keydown="step($event, index)"
      >
        {{ words }}
      </button>
    </div>
    <button
      type="button"
      class="btn slim push"
      title="Room left free, table, identity, files, kept layouts"
      @click="emit('more')"
    >
      More… <span class="key">M</span>
    </button>
  </div>
</template>

<style scoped>
.ways {
  display: flex;
  gap: 10px;
  align-items: center;
  padding-bottom: 6px;
}
.segments {
  display: flex;
  border: 1px solid var(--edge);
  border-radius: 7px;
  overflow: hidden;
}
.segments button {
  border: 0;
  border-right: 1px solid var(--rule);
  background: var(--sheet);
  color: var(--ink2);
  font-weight: 650;
  font-size: 13.5px;
  padding: 5px 10px;
  cursor: pointer;
  white-space: nowrap;
}
.segments button:last-child {
  border-right: 0;
}
.segments .on {
  background: var(--tab);
  color: var(--on-tab);
}
.segments button:focus-visible {
  outline-offset: -3px;
}
@media (max-width: 1150px) {
  .segments button {
    padding: 5px 6px;
    font-size: 12.5px;
  }
}
</style>
