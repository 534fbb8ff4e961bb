<script setup lang="ts">
import { computed } from 'vue'
import type { Image } from '../../api/types'
import { bytes, count, exact } from '../../words/format'
import { partName } from '../../words/images'

/**
 * What is missing from an image: damage that a check found and what was never read, the files that hits, and what is
 * still good.
 */
const props = defineProps<{ image: Pick<Image, 'check' | 'parts' | 'state'>; open?: boolean }>()
const named = computed(() => props.image.check.hit.filter((file) => file.path !== null))
const unreadFiles = computed(() => props.image.check.unread_hit.filter((file) => file.path !== null))
const damage = computed(() => (props.image.state === 'whole' ? null : props.image.check.words))
const part = (number: number | null) => {
  const found = props.image.parts.find((one) => one.number === number)
  return found ? partName(found) : 'the partition table'
}
</script>

<template>
  <section v-if="damage || image.check.unread" class="message" :class="{ ask: !damage }" aria-label="What is missing">
    <b v-if="damage">{{ damage }}</b>
    <b v-if="image.check.unread">{{ image.check.unread }}</b>
    <details v-if="unreadFiles.length" :open="open">
      <summary>
        {{ unreadFiles.length }} file{{ unreadFiles.length > 1 ? 's' : '' }} with zeros in the place of what was not
        read
      </summary>
      <ul class="scroll">
        <li v-for="file in unreadFiles" :key="`${file.part}${file.path}`">
          <span class="mono">{{ file.path }}</span>
          <span class="muted">in {{ part(file.part) }}, {{ bytes(file.size ?? 0) }}</span>
        </li>
      </ul>
    </details>
    <p v-if="image.check.usable.length">
      {{ image.check.usable.join(', ') }} {{ image.check.usable.length === 1 ? 'is' : 'are' }} not touched, and can
      still be looked into.
    </p>
    <details v-if="image.check.places.length" :open="open">
      <summary>
        {{ named.length ? `${named.length} file${named.length > 1 ? 's' : ''} and ` : ''
        }}{{ image.check.places.length }} place{{ image.check.places.length > 1 ? 's' : '' }}
      </summary>
      <ul class="scroll">
        <li v-for="file in named" :key="`${file.part}${file.path}`">
          <span class="mono">{{ file.path }}</span>
          <span class="muted">in {{ part(file.part) }}, {{ bytes(file.size ?? 0) }}</span>
        </li>
        <li v-for="place in image.check.places.slice(0, 30)" :key="place.cluster" class="muted">
          Cluster {{ count(place.cluster) }}, <span :title="exact(place.offset)">at {{ bytes(place.offset) }}</span
          >, in {{ part(place.part) }}: {{ place.reason }}
        </li>
      </ul>
    </details>
    <ul v-if="image.check.files.length">
      <li v-for="text in image.check.files" :key="text">{{ text }}</li>
    </ul>
  </section>
</template>

<style scoped>
section {
  margin-top: 10px;
  display: grid;
  gap: 4px;
}
summary {
  cursor: pointer;
}
ul {
  margin: 4px 0 0;
  padding-left: 18px;
  max-height: 130px;
  font-size: 13px;
}
li {
  overflow-wrap: anywhere;
}
</style>
