<script setup lang="ts">
import Dialog from 'primevue/dialog'

const visible = defineModel<boolean>('visible', { required: true })
const keys = [
  ['1 – 6', 'The six stations of a docket'],
  ['Enter', 'The main action of the page'],
  ['↑ ↓', 'Move in a list'],
  ['+ −', 'Less or more time on the time line of images'],
  ['L', 'Look inside the chosen image; at what a target would lose'],
  ['U', 'Start the unplug check of the chosen target'],
  ['P', 'On the Bench: pull the drive out of the chosen port'],
  ['Space', 'Inside an image: tick a file to take it out'],
  ['Backspace', 'Inside an image: the folder above'],
  ['T', 'At Layout: try the plan'],
  ['M', 'At Layout: more settings, files and kept layouts'],
  ['↑ ↓ on a part or its edge', 'At Layout: move or resize it; with Shift in larger steps'],
  ['Ctrl Z', 'At Layout: take the last move back; with Shift do it again'],
  ['R', 'List the drives again'],
  ['/', 'Find a computer, image or disk'],
  ['Esc', 'Back, or close what is open'],
  ['?', 'This list'],
]
</script>

<template>
  <Dialog v-model:visible="visible" modal header="All keys" :style="{ width: '440px' }" dismissable-mask>
    <dl>
      <template v-for="[key, what] in keys" :key="key"
        ><dt>
          <span class="key">{{ key }}</span>
        </dt>
        <dd>{{ what }}</dd></template
      >
    </dl>
  </Dialog>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: 90px 1fr;
  gap: 8px;
  margin: 0;
}
dd {
  margin: 0;
}
</style>
