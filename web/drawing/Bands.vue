<script setup lang="ts">
import { computed } from 'vue'
import type { Part } from '../api/types'
import { stack } from './heights'

/** What goes where: a band from each part of one core to the same part of another. */
const props = defineProps<{
  from: Part[]
  fromSize: number
  to: Part[]
  toSize: number
  width: number
  height: number
  lit?: number | null
}>()
const bands = computed(() => {
  const right = stack(props.to, props.toSize, props.height - 2)
  return stack(props.from, props.fromSize, props.height - 2).flatMap((part) => {
    const twin = right.find((other) => part.number !== null && other.number === part.number)
    if (!twin) return []
    const w = props.width
    const [a, b, c, d] = [part.top + 1, twin.top + 1, twin.top + twin.height + 1, part.top + part.height + 1]
    return [
      {
        key: part.key,
        number: part.number,
        role: part.role,
        path: `M0 ${a} C${w / 2} ${a} ${w / 2} ${b} ${w} ${b} V${c} C${w / 2} ${c} ${w / 2} ${d} 0 ${d} Z`,
      },
    ]
  })
})
</script>

<template>
  <svg :width="width" :height="height" aria-hidden="true">
    <path
      v-for="band in bands"
      :key="band.key"
      :d="band.path"
      :class="[`b-${band.role}`, { lit: band.number === lit }]"
    />
  </svg>
</template>

<style scoped>
svg {
  display: block;
}
path {
  opacity: 0.2;
}
path.lit {
  opacity: 0.45;
}
.b-startup {
  fill: var(--r-startup);
}
.b-reserved {
  fill: var(--r-reserved);
}
.b-system {
  fill: var(--r-system);
}
.b-data {
  fill: var(--r-data);
}
.b-recovery {
  fill: var(--r-recovery);
}
.b-swap {
  fill: var(--r-swap);
}
</style>
