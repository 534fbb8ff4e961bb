<script setup lang="ts" generic="Key extends string">
import { count } from '../../words/format'

/** Narrows a list to one kind of its rows; each kind with its name, how many there are, and the class of its chip. */
defineProps<{ label: string; of: { key: Key; name: string; number: number; look?: string }[]; all?: number }>()
const chosen = defineModel<Key | ''>({ required: true })
</script>

<template>
  <div class="filters" role="group" :aria-label="label">
    <button
      type="button"
      class="chip"
      :class="{ on: chosen === '' }"
      :aria-pressed="chosen === ''"
      @click="chosen = ''"
    >
      All{{ all === undefined ? '' : ` ${count(all)}` }}
    </button>
    <button
      v-for="one in of"
      :key="one.key"
      type="button"
      class="chip"
      :class="[one.look, { on: chosen === one.key }]"
      :aria-pressed="chosen === one.key"
      @click="chosen = chosen === one.key ? '' : one.key"
    >
      {{ one.name }} {{ count(one.number) }}
    </button>
  </div>
</template>

<style scoped>
.filters {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
.chip {
  border: 1.5px solid transparent;
  cursor: pointer;
}
.chip.on {
  border-color: currentcolor;
}
</style>
