<script setup lang="ts">
import { computed } from 'vue'
import type { Catalogue, Shelf } from '../../api/types'
import { imagesOf, imageStates } from '../../words/images'
import FilterChips from '../common/FilterChips.vue'

/** Which images are listed: by state, each with how many there are, and by shelf. */
const props = defineProps<{ states: Catalogue['states']; shelves: Shelf[] | null }>()
const state = defineModel<keyof Catalogue['states'] | ''>('state', { required: true })
const shelf = defineModel<number | ''>('shelf', { required: true })
/** What was given up, or could be, is told of like a state, and is none. */
const OTHERS = { given_up: ['', 'Given up'], spare: ['', 'Could go'] } as const
type Key = keyof Catalogue['states']
const words = (key: Key) => (key === 'given_up' || key === 'spare' ? OTHERS[key] : imageStates[key])
const kinds = computed(() =>
  Object.entries(props.states).map(([name, number]) => {
    const key = name as keyof Catalogue['states']
    return { key, name: words(key)[1], number: number ?? 0, look: words(key)[0] }
  }),
)
</script>

<template>
  <div class="filters">
    <FilterChips v-model="state" label="Only images in this state" :of="kinds" :all="imagesOf(states)" />
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
</style>
