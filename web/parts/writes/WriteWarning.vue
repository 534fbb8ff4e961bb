<script setup lang="ts">
import { computed } from 'vue'
import type { WriteView } from '../../api/types'
import { bytes, range } from '../../words/format'
import { toWrite } from '../../words/orders'

/** What a write that has not begun will do to the target, and about how long it will take. */
const props = defineProps<{ view: WriteView }>()
const target = computed(() => props.view.target!)
/** Parts of the target that a part restore leaves alone. */
const stays = computed(() => target.value.parts.filter((part) => (part.number ?? 0) < 0).length)
const drive = computed(() => `${bytes(target.value.capacity)} ${target.value.model}, label …${target.value.label}`)
</script>

<template>
  <div class="before">
    <b v-if="stays"
      >One part is written to the {{ drive }}:
      {{ stays === 1 ? 'one other stays as it is' : `${stays} others stay as they are` }}.</b
    >
    <b v-else>Everything on the {{ drive }}, is deleted.</b>
    <span class="small muted"
      >{{ bytes(toWrite(view.orders ?? [])) }} will be written{{
        view.expected ? `, ${range(view.expected.low, view.expected.high)} with the read-back` : ''
      }}.</span
    >
  </div>
</template>

<style scoped>
.before {
  display: grid;
  gap: 2px;
  border-left: 5px solid var(--crimson);
  padding: 4px 12px;
  margin-bottom: 14px;
}
</style>
