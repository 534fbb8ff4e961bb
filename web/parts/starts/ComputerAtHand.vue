<script setup lang="ts">
import type { AtHand } from '../../api/types'
import { vMay } from '../../words/may'

/** The computer itself, with what is plugged in: what it tries first, what can be taken out, and turning it on. */
defineProps<{ computer: AtHand; busy: boolean; trying: boolean }>()
const emit = defineEmits<{ order: [order: string[]]; out: [port: string]; on: [] }>()
const first = (order: string[], one: string) => [one, ...order.filter((other) => other !== one)]
</script>

<template>
  <div class="hand small">
    <b>{{ computer.name }}</b><span class="muted">tries</span>
    <button
      v-for="(from, at) in computer.boot_order"
      :key="from"
      type="button"
      class="chip"
      :class="{ ok: at === 0 }"
      :disabled="busy || trying"
      :title="at === 0 ? `${from} is tried first` : `Try ${from} first`"
      @click="emit('order', first(computer.boot_order, from))"
    >
      {{ at + 1 }}. {{ from }}
    </button>
    <button
      v-for="one in computer.media"
      :key="one.port"
      type="button"
      class="chip ask"
      :disabled="busy || trying"
      :title="`Take ${one.word} out of port ${one.port}`"
      @click="emit('out', one.port)"
    >
      take out {{ one.word }} ({{ one.port }})
    </button>
    <button v-may="'technician'" type="button" class="btn slim push" :disabled="busy || trying" @click="emit('on')">
      Turn it on
    </button>
  </div>
</template>

<style scoped>
.hand {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
  border-top: 1px solid var(--rule);
  padding-top: 7px;
}
button.chip {
  border: 0;
  cursor: pointer;
}
</style>
