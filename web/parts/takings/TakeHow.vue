<script setup lang="ts">
import { computed } from 'vue'
import type { TakingSheet } from '../../api/types'
import { range } from '../../words/format'
import { bytesRange, forecast, LEVELS, type Choice, type Level } from './forecast'

/** The three ways of packing, each with what it would take of this drive. */
const props = defineProps<{ sheet: TakingSheet; choice: Choice }>()
const level = defineModel<Level>({ required: true })
const rows = computed(() =>
  (Object.keys(LEVELS) as Level[]).map((name) => ({
    name,
    title: LEVELS[name][0],
    words: LEVELS[name][1],
    expected: forecast(props.sheet, { ...props.choice, level: name, checked: false }),
  })),
)
const measuring = computed(() => ['queued', 'running'].includes(props.sheet.measure?.state ?? ''))
</script>

<template>
  <div class="how" role="radiogroup" aria-label="How it is packed">
    <label v-for="row in rows" :key="row.name" :class="{ on: level === row.name }">
      <input v-model="level" type="radio" name="level" :value="row.name" />
      <b>{{ row.title }}</b>
      <span class="small muted">{{ row.words }}</span>
      <template v-if="row.expected"
        ><b class="figure">{{ bytesRange(row.expected.stored) }}</b
        ><span class="figure small">{{ range(...row.expected.seconds) }}</span></template
      >
      <span v-else class="small muted wide">{{ measuring ? 'Measuring on this drive…' : 'Not measured' }}</span>
    </label>
  </div>
</template>

<style scoped>
.how {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 8px;
}
label {
  display: grid;
  grid-template-columns: 18px minmax(0, 1fr);
  gap: 1px 6px;
  align-content: start;
  border: 1px solid var(--rule);
  border-radius: 7px;
  padding: 8px 10px;
  font-size: 14px;
  cursor: pointer;
}
label.on {
  border-color: var(--ember);
  box-shadow: inset 0 0 0 1px var(--ember);
}
label > :not(input, b:first-of-type) {
  grid-column: 2;
}
.figure {
  font-variant-numeric: tabular-nums;
}
</style>
