<script setup lang="ts">
import { computed } from 'vue'
import type { Shelf } from '../../api/types'
import { bytes } from '../../words/format'

/** The room on a shelf as a bar, and what it is made of: images, those in the bin, other files, and what is free. */
const props = defineProps<{ shelf: Shelf }>()
const made = computed(() => {
  const { made_of: of, free_bytes: free, total_bytes: total } = props.shelf
  if (!total || free === null) return null
  const images = of?.images ?? 0
  const bin = of?.given_up ?? 0
  const others = Math.max(0, total - free - images - bin)
  return [
    { name: 'images', look: 'images', size: images },
    { name: 'in the bin', look: 'bin', size: bin },
    { name: 'other files', look: 'others', size: others },
    { name: 'free', look: 'free', size: free },
  ].filter((one) => one.size > 0)
})
const words = computed(() => made.value?.map((one) => `${bytes(one.size)} ${one.name}`).join(', '))
/** Less than a tenth, or than the largest that lies on it, is soon gone. */
const tight = computed(() => (props.shelf.free_bytes ?? 0) < (props.shelf.total_bytes ?? 0) / 10)
</script>

<template>
  <span v-if="made" class="room small" :class="{ tight }" :title="words">
    <span class="bar" role="img" :aria-label="words"
      ><i v-for="one in made" :key="one.name" :class="one.look" :style="{ flexGrow: one.size }"
    /></span>
    <span>{{ bytes(shelf.free_bytes!) }} free{{ tight ? ', nearly full' : '' }}</span>
  </span>
</template>

<style scoped>
.room {
  display: grid;
  gap: 2px;
  width: 150px;
  color: var(--ink2);
}
.tight {
  color: var(--ochre-ink);
  font-weight: 600;
}
.bar {
  display: flex;
  height: 9px;
  border-radius: 5px;
  overflow: hidden;
  background: var(--fold);
}
.bar i {
  min-width: 1px;
}
.images {
  background: var(--spruce);
}
.bin {
  background: repeating-linear-gradient(45deg, var(--ink2) 0 2px, var(--fold) 2px 4px);
}
.others {
  background: var(--ink2);
}
</style>
