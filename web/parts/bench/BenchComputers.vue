<script setup lang="ts">
import type { BenchComputer } from '../../api/types'
import { vMay } from '../../words/may'

/** Computers at hand: on or off, and what they would start from. */
defineProps<{ computers: BenchComputer[] }>()
const emit = defineEmits<{ do: [bench: string, path: string, body: object] }>()
const path = (name: string) => `computers/${encodeURIComponent(name)}`
const first = (order: string[], one: string) => [one, ...order.filter((other) => other !== one)]
</script>

<template>
  <div class="computers" aria-label="Computers">
    <div v-for="one in computers" :key="`${one.bench}/${one.name}`" class="computer small">
      <b>{{ one.name }}</b><span class="muted">{{ one.firmware.toUpperCase() }}</span>
      <span class="muted">starts from</span>
      <button
        v-for="(from, at) in one.boot_order"
        :key="from"
        type="button"
        class="chip"
        :class="{ ok: at === 0 }"
        :title="at === 0 ? `${from} is tried first` : `Try ${from} first`"
        @click="emit('do', one.bench, path(one.name), { boot_order: first(one.boot_order, from) })"
      >
        {{ at + 1 }}. {{ from }}
      </button>
      <button
        v-may="'technician'"
        type="button"
        class="btn slim push"
        @click="emit('do', one.bench, path(one.name), { on: !one.on })"
      >
        {{ one.on ? 'Turn off' : 'Turn on' }}
      </button>
    </div>
  </div>
</template>

<style scoped>
.computers {
  display: grid;
  gap: 6px;
  padding-bottom: 12px;
}
.computer {
  display: flex;
  gap: 8px;
  align-items: center;
  border: 1px solid var(--rule);
  border-radius: 9px;
  background: var(--sheet);
  padding: 6px 12px;
}
button.chip {
  border: 0;
  cursor: pointer;
}
</style>
