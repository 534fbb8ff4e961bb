<script setup lang="ts">
import Dialog from 'primevue/dialog'
import type { StartView } from '../../api/types'
import { moment } from '../../words/format'

/** Screens of several starts beside each other. */
defineProps<{ pictures: StartView['pictures'] }>()
const open = defineModel<boolean>({ required: true })
</script>

<template>
  <Dialog v-model:visible="open" modal header="Pictures of the start" :style="{ width: 'min(1180px, 96vw)' }">
    <div class="beside">
      <figure v-for="one in pictures" :key="one.title">
        <a :href="one.picture" target="_blank" rel="noopener"><img :src="one.picture" :alt="one.title" /></a>
        <figcaption>
          <b>{{ one.title }}</b><span class="small muted"
            >{{ moment(one.at) }} · {{ one.outcome === 'reached' ? 'seen to start' : 'not seen to start' }}</span
          >
        </figcaption>
      </figure>
    </div>
  </Dialog>
</template>

<style scoped>
.beside {
  display: grid;
  grid-auto-flow: column;
  grid-auto-columns: minmax(0, 1fr);
  gap: 14px;
}
figure {
  margin: 0;
}
img {
  width: 100%;
  border-radius: 8px;
  background: var(--screen);
  display: block;
}
figcaption {
  padding-top: 6px;
  display: grid;
}
</style>
