<script setup lang="ts">
import type { TakingSheet } from '../../api/types'
import { bytes } from '../../words/format'
import StateMark from '../common/StateMark.vue'
import { roomOn, type Forecast } from './forecast'

/** The shelves, with the room that each would have left. */
const props = defineProps<{ sheet: TakingSheet; expected: Forecast | null }>()
const shelf = defineModel<number | null>({ required: true })
const room = (one: TakingSheet['shelves'][number]) => roomOn(one, props.expected)
/** Shares of a shelf in percent: taken, and what the image would take at the most. */
function shares(one: TakingSheet['shelves'][number]) {
  if (!one.total_bytes || one.free_bytes === null) return null
  const taken = (100 * (one.total_bytes - one.free_bytes)) / one.total_bytes
  return { taken, added: Math.min(100 - taken, (100 * (props.expected?.stored[1] ?? 0)) / one.total_bytes) }
}
</script>

<template>
  <div class="where" role="radiogroup" aria-label="Onto which shelf">
    <label v-for="one in sheet.shelves" :key="one.id" :class="{ on: shelf === one.id, no: room(one)[0] === 'no' }">
      <input v-model="shelf" type="radio" name="shelf" :value="one.id" :disabled="room(one)[0] === 'no'" />
      <b>{{ one.name }}</b>
      <span class="bar" :title="one.total_bytes ? `of ${bytes(one.total_bytes)}` : undefined"
        ><template v-if="shares(one)"
          ><i :style="{ width: `${shares(one)!.taken}%` }" /><i
            class="new"
            :style="{ width: `${shares(one)!.added}%` }" /></template
      ></span>
      <span class="why small"
        ><StateMark :state="room(one)[0]" />{{ room(one)[1] }}
        <RouterLink
          v-if="one.state !== 'no' && room(one)[0] !== 'ok' && one.spare"
          :to="`/images?state=spare&shelf=${one.id}`"
          >{{ one.spare.count }} could be given up{{ one.spare.bytes ? `: ${bytes(one.spare.bytes)}` : '' }}</RouterLink
        ></span
      >
    </label>
    <p v-if="!sheet.shelves.length" class="small muted">
      There is no shelf yet. <RouterLink to="/images">Add one</RouterLink> on the Images page.
    </p>
  </div>
</template>

<style scoped>
.where {
  display: grid;
  gap: 6px;
}
label {
  display: grid;
  grid-template-columns: 18px 110px 110px minmax(0, 1fr);
  gap: 8px;
  align-items: center;
  border: 1px solid var(--rule);
  border-radius: 7px;
  padding: 7px 10px;
  font-size: 14px;
  cursor: pointer;
}
label.on {
  border-color: var(--ember);
  box-shadow: inset 0 0 0 1px var(--ember);
}
label.no {
  color: var(--ink2);
  cursor: not-allowed;
}
b {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.bar {
  display: flex;
  height: 10px;
  border-radius: 5px;
  background: var(--fold);
  overflow: hidden;
}
.bar i {
  background: var(--ink2);
}
.bar .new {
  background: var(--ember);
}
.why {
  display: flex;
  gap: 6px;
  align-items: center;
  min-width: 0;
}
</style>
