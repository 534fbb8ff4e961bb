<script setup lang="ts">
import DatePicker from 'primevue/datepicker'
import { computed, ref } from 'vue'
import { dated, day } from '../../words/format'
import { typedMoment } from '../../words/moments'
import { preferred } from '../../words/preferences'

/** A day, or a moment, as whoever is signed in likes it to be written; typed, or chosen in a calendar. */
const model = defineModel<Date | null>({ required: true })
const props = defineProps<{ time?: boolean; disabled?: boolean }>()
const WAYS = { 'day-first': 'd M yy', 'month-first': 'M d yy', 'year-first': 'yy-mm-dd' } as const
/** What was typed and is no date. */
const wrong = ref('')
const example = computed(() => (props.time ? dated(new Date().toISOString()) : day(new Date(), true)))

/** The calendar's own field understands less than people type. */
function typed(event: Event) {
  const text = (event.target as HTMLInputElement).value
  const found = typedMoment(text, preferred.dates, props.time)
  if (found) model.value = found
  else if (!text.trim()) model.value = null
  if (found || !text.trim()) wrong.value = ''
}

function left({ value }: { value: unknown }) {
  const text = String(value ?? '').trim()
  wrong.value = text && !typedMoment(text, preferred.dates, props.time) ? text : ''
}
</script>

<template>
  <DatePicker
    :model-value="model"
    :date-format="WAYS[preferred.dates]"
    :hour-format="preferred.clock"
    :show-time="time"
    :disabled="disabled"
    :invalid="!!wrong"
    show-icon
    icon-display="input"
    fluid
    @update:model-value="model = $event as Date | null"
    @input="typed"
    @blur="left"
  />
  <span v-if="wrong" class="small wrong" role="alert">“{{ wrong }}” is no date: write it as {{ example }}</span>
</template>

<style scoped>
.wrong {
  color: var(--crimson);
}
</style>
