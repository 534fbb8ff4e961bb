<script setup lang="ts">
import { computed } from 'vue'
import type { Part } from '../api/types'
import { bytes, exact, roleName } from '../words/format'
import { stack } from './heights'

/** The names beside a core, each at the height of its part. */
const props = defineProps<{
  parts: Part[]
  size: number
  height: number
  side: 'left' | 'right'
  say: (part: Part | null, size: number) => string[]
  chosen?: number | null
}>()
const emit = defineEmits<{ choose: [number: number] }>()
const rows = computed(() =>
  stack(props.parts, props.size, props.height - 2).map((drawn) => {
    const part = props.parts.find((one) => drawn.role !== 'free' && (one.number ?? 0) === (drawn.number ?? 0)) ?? null
    return { ...drawn, title: drawn.name || roleName(drawn.role), words: props.say(part, drawn.size) }
  }),
)
const LINE = 17
/** Where names would lie upon each other, some say less, and some nothing: never the chosen one. */
const named = computed(() => {
  let free = -LINE
  const chosen = rows.value.find((row) => row.number !== null && row.number === props.chosen)
  return rows.value.flatMap((row) => {
    const middle = row.top + row.height / 2
    const full = LINE * (2 + row.words.length)
    const fits = (size: number) =>
      middle - size / 2 >= free &&
      (row === chosen ||
        !chosen ||
        Math.abs(middle - (chosen.top + chosen.height / 2)) >= (size + LINE * (2 + chosen.words.length)) / 2)
    const size = row === chosen || fits(full) ? full : fits(LINE) ? LINE : 0
    if (size) free = Math.max(free, middle + size / 2 - 2)
    return size ? [{ ...row, short: size === LINE }] : []
  })
})
</script>

<template>
  <ul :class="side" :style="{ height: `${height}px` }">
    <li
      v-for="row in named"
      :key="row.key"
      :style="{ top: `${row.top + row.height / 2}px` }"
      :title="exact(row.size)"
      :class="{ chosen: chosen !== undefined && row.number !== null && row.number === chosen }"
      @click="row.number !== null && emit('choose', row.number)"
    >
      <b>{{ row.title }}</b>
      <template v-if="!row.short"
        ><span>{{ bytes(row.size) }}{{ row.kind ? ` · ${row.kind}` : '' }}</span
        ><span v-for="word in row.words" :key="word">{{ word }}</span></template
      >
    </li>
  </ul>
</template>

<style scoped>
ul {
  position: relative;
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  position: absolute;
  left: 0;
  right: 0;
  transform: translateY(-50%);
  font-size: 13px;
  line-height: 1.28;
  color: var(--ink2);
}
.left li {
  text-align: right;
}
b {
  display: block;
  font-size: 14.5px;
  color: var(--ink);
  overflow: hidden;
  text-overflow: ellipsis;
}
span {
  display: block;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.chosen b {
  text-decoration: underline;
  text-decoration-thickness: 2px;
  text-underline-offset: 3px;
  text-decoration-color: var(--ember);
}
</style>
