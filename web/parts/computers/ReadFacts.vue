<script setup lang="ts">
import type { ReadComputer } from '../../api/types'

/** What was understood of a computer, each with where it stands. */
defineProps<{ read: ReadComputer }>()
const WORDS: Record<string, string> = {
  name: 'Name',
  maker: 'Maker',
  model: 'Model',
  serial: 'Serial number',
  system_identity: 'System identity',
  firmware: 'Starts by',
  boot_entries: 'Start entries',
  boot_order: 'Start order',
  hardware: 'Hardware',
}
</script>

<template>
  <div class="read" role="status">
    <p v-if="read.systems.length" class="small">
      On it: <b>{{ read.systems.join(', ') }}</b>
    </p>
    <dl v-if="read.facts.length">
      <template v-for="fact in read.facts" :key="fact.field"
        ><dt>{{ WORDS[fact.field] ?? fact.field }}</dt>
        <dd>
          {{ fact.value }} <span class="small muted">{{ fact.source }}</span>
        </dd></template
      >
    </dl>
    <p v-else class="small muted">Nothing of its computer could be read.</p>
  </div>
</template>

<style scoped>
.read {
  border: 1px solid var(--rule);
  border-radius: 7px;
  padding: 8px 12px;
  font-size: 14px;
}
dl {
  margin: 0;
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: 2px 12px;
}
dt {
  color: var(--ink2);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
</style>
