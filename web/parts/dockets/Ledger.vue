<script setup lang="ts">
import type { Fact } from '../../api/types'
import StateMark from '../common/StateMark.vue'

defineProps<{ title: string; facts: (Fact & { weight?: number })[]; empty?: string }>()
const emit = defineEmits<{ hover: [fact: Fact | null] }>()
</script>

<template>
  <aside class="ledger scroll" aria-label="Ledger" tabindex="0">
    <h3>{{ title }}</h3>
    <div
      v-for="fact in facts"
      :key="fact.id + fact.title"
      class="fact"
      :title="fact.evidence ?? undefined"
      @mouseenter="emit('hover', fact)"
      @mouseleave="emit('hover', null)"
    >
      <StateMark :state="fact.state" />
      <div>
        {{ fact.title }}<small>{{ fact.detail }}</small>
      </div>
      <span
        v-if="fact.weight"
        class="weight mono"
        :title="`Weighs ${fact.weight > 0 ? 'for' : 'against'} this image`"
        >{{ fact.weight > 0 ? `+${fact.weight}` : `−${-fact.weight}` }}</span
      >
    </div>
    <p v-if="!facts.length" class="small muted">{{ empty ?? 'Nothing to check yet.' }}</p>
    <slot />
  </aside>
</template>

<style scoped>
.ledger {
  padding: 16px 18px;
  display: flex;
  flex-direction: column;
  gap: 2px;
  min-height: 0;
}
h3 {
  font-size: 13px;
  font-weight: 700;
  color: var(--ink2);
  margin-bottom: 4px;
}
.weight {
  font-size: 12px;
  color: var(--ink2);
}
.fact {
  display: grid;
  grid-template-columns: 20px 1fr auto;
  gap: 6px;
  font-size: 14px;
  line-height: 1.3;
  padding: 9px 0;
  border-bottom: 1px solid var(--fold);
  overflow-wrap: anywhere;
}
small {
  display: block;
  color: var(--ink2);
  font-size: 13px;
}
</style>
