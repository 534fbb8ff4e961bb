<script setup lang="ts">
import { computed } from 'vue'
import type { Catalogue, Shelf } from '../../api/types'
import { count } from '../../words/format'
import { imageStates } from '../../words/images'

/** Which images are listed: by state, each with how many there are, and by shelf. */
const props = defineProps<{ states: Catalogue['states']; shelves: Shelf[] | null }>()
const state = defineModel<keyof Catalogue['states'] | ''>('state', { required: true })
const shelf = defineModel<number | ''>('shelf', { required: true })
/** What was given up is told of like a state, and is none. */
const words = (key: keyof Catalogue['states']) => (key === 'given_up' ? (['', 'Given up'] as const) : imageStates[key])
const all = computed(() =>
  Object.entries(props.states).reduce((sum, [key, number]) => (key === 'given_up' ? sum : sum + number), 0),
)
</script>

<template>
  <div class="filters" role="group" aria-label="Only images in this state">
    <button type="button" class="chip" :class="{ on: state === '' }" :aria-pressed="state === ''" @click="state = ''">
      All {{ count(all) }}
    </button>
    <button
      v-for="(number, key) in states"
      :key="key"
      type="button"
      class="chip"
      :class="[words(key)[0], { on: state === key }]"
      :aria-pressed="state === key"
      @click="state = state === key ? '' : key"
    >
      {{ words(key)[1] }} {{ count(number ?? 0) }}
    </button>
    <select v-model="shelf" class="push" aria-label="Only images on this shelf">
      <option value="">On every shelf</option>
      <option v-for="one in shelves" :key="one.id" :value="one.id">{{ one.name }}</option>
    </select>
  </div>
</template>

<style scoped>
.filters {
  display: flex;
  gap: 6px;
  align-items: center;
}
select {
  padding: 3px 8px;
}
.chip {
  border: 1.5px solid transparent;
  cursor: pointer;
}
.chip.on {
  border-color: currentcolor;
}
</style>
