<script setup lang="ts">
import DatePicker from 'primevue/datepicker'
import { computed, ref, watch } from 'vue'
import { preferred } from '../../words/preferences'

/** A day, or a moment, as whoever is signed in likes it to be written; typed, or chosen in a calendar. */
const model = defineModel<Date | null>({ required: true })
defineProps<{ time?: boolean; disabled?: boolean }>()
const WAYS = { 'day-first': 'd M yy', 'month-first': 'M d yy', 'year-first': 'yy-mm-dd' } as const
/** What is typed and is no date yet is a text. */
const typed = ref<Date | string | null>(model.value)
const wrong = computed(() => typeof typed.value === 'string' && typed.value !== '')

watch(model, (next) => {
  if (next?.getTime() !== (typed.value instanceof Date ? typed.value.getTime() : undefined)) typed.value = next
})

function take(next: unknown) {
  typed.value = next as Date | string | null
  model.value = next instanceof Date ? next : null
}
</script>

<template>
  <DatePicker
    :model-value="typed as Date"
    :date-format="WAYS[preferred.dates]"
    :hour-format="preferred.clock"
    :show-time="time"
    :disabled="disabled"
    :invalid="wrong"
    :first-day-of-week="1"
    show-icon
    icon-display="input"
    fluid
    @update:model-value="take"
  />
  <span v-if="wrong" class="small" role="alert">That is no date yet</span>
</template>
