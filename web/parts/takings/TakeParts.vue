<script setup lang="ts">
import { computed } from 'vue'
import type { TakingSheet } from '../../api/types'
import Core from '../../drawing/Core.vue'
import { stack } from '../../drawing/heights'
import { bytes, roleName } from '../../words/format'

/** The drive as a core, with a tick for each part that the image is to hold. */
const props = defineProps<{ sheet: TakingSheet; parts: number[] | null; height: number }>()
const emit = defineEmits<{ choose: [parts: number[] | null] }>()
const numbers = computed(() => props.sheet.parts.flatMap((part) => (part.number === null ? [] : [part.number])))
const free = computed(() => numbers.value.length > 1 && !props.sheet.whole)
const on = (number: number | null) => props.parts === null || (number !== null && props.parts.includes(number))
/** What is left out is pale. */
const shares = computed(() =>
  Object.fromEntries(props.sheet.parts.map((part) => [String(part.number), on(part.number) ? 1 : 0])),
)
const LEAST = 44
/** Each beside its part, and none upon another. */
const rows = computed(() => {
  let below = 0
  return stack(props.sheet.parts, props.sheet.drive.capacity, props.height - 2).map((drawn) => {
    const part = props.sheet.parts.find((one) => drawn.role !== 'free' && one.number === drawn.number)
    const least = part ? LEAST : 20
    const top = Math.max(below, drawn.top + drawn.height / 2 - least / 2)
    below = top + least
    return { ...drawn, part, top }
  })
})

function tick(number: number) {
  const now = props.parts ?? numbers.value
  const part = props.sheet.parts.find((one) => one.number === number)
  const next = now.includes(number) ? now.filter((one) => one !== number) : [...now, number, ...(part?.with_it ?? [])]
  const unique = numbers.value.filter((one) => next.includes(one))
  emit('choose', unique.length === numbers.value.length ? null : unique)
}
</script>

<template>
  <div class="drive">
    <Core
      :parts="sheet.parts"
      :size="sheet.drive.capacity"
      :width="64"
      :height="height"
      :written="shares"
      label="The drive"
    />
    <div class="rows" :style="{ height: `${height}px` }" role="group" aria-label="What the image holds">
      <label
        v-for="row in rows"
        :key="row.key"
        :style="{ top: `${row.top}px` }"
        :class="{ off: row.part && !on(row.number), gap: !row.part }"
      >
        <input
          v-if="row.part && row.number !== null"
          type="checkbox"
          :checked="on(row.number)"
          :disabled="!free"
          @change="tick(row.number)"
        />
        <span
          ><b>{{ row.part ? row.name || roleName(row.role) : 'Unallocated' }}</b
          ><small v-if="row.part">{{ bytes(row.used) }} used of {{ bytes(row.size) }} · {{ row.kind }}</small></span
        >
      </label>
    </div>
  </div>
</template>

<style scoped>
.drive {
  display: grid;
  grid-template-columns: 64px minmax(0, 1fr);
  gap: 14px;
}
.rows {
  position: relative;
}
label {
  position: absolute;
  left: 0;
  right: 0;
  display: grid;
  grid-template-columns: 18px minmax(0, 1fr);
  gap: 6px;
  font-size: 13px;
  line-height: 1.25;
}
label.gap {
  color: var(--ink2);
  grid-template-columns: minmax(0, 1fr);
  padding-left: 24px;
}
.gap b {
  font-weight: 400;
}
b {
  display: block;
  font-size: 14.5px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
small {
  display: block;
  font-size: 13px;
  color: var(--ink2);
}
.off b {
  color: var(--ink2);
  text-decoration: line-through;
}
input {
  margin: 2px 0 0;
  width: 14px;
  height: 14px;
}
</style>
