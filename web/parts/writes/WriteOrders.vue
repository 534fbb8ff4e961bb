<script setup lang="ts">
import { computed } from 'vue'
import type { WriteView } from '../../api/types'
import { exact } from '../../words/format'
import { orderAmount, orderState } from '../../words/orders'
import OrderMark from './OrderMark.vue'

/** The orders of a write, each with how far it has come and what it did. */
const props = defineProps<{ view: WriteView }>()
const rows = computed(() =>
  (props.view.orders ?? []).map((order, index) => ({
    order,
    state: orderState(props.view.orders ?? [], props.view.write ?? null, index),
    amount: orderAmount(props.view, index),
  })),
)
</script>

<template>
  <ol class="orders" aria-label="Orders">
    <li v-for="{ order, state, amount } in rows" :key="order.id" :class="state">
      <OrderMark :state="state" /><span
        ><b>{{ order.title }}</b
        ><span class="small muted"> · {{ order.detail }}</span></span
      ><span class="mono" :title="order.bytes ? exact(order.bytes) : undefined">{{ amount }}</span>
    </li>
  </ol>
</template>

<style scoped>
ol {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 24px 1fr auto;
  gap: 8px;
  align-items: center;
  padding: 7px 0;
  border-bottom: 1px solid var(--fold);
}
b {
  font-weight: 500;
}
.now b {
  font-weight: 750;
}
</style>
