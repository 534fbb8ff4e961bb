<script setup lang="ts">
import Core from '../../drawing/Core.vue'
import { bytes, moment } from '../../words/format'
import { besideOf, type Held } from '../../words/held'
import { browsable, partName } from '../../words/images'

/** The parts of an image or of a drive; those whose files can be listed can be chosen. */
defineProps<{ holding: Held; part: number | null }>()
defineEmits<{ choose: [number: number | null] }>()
</script>

<template>
  <nav class="parts scroll" aria-label="Parts" tabindex="0">
    <h2>{{ holding.computer ?? 'Unknown computer' }}</h2>
    <p v-if="holding.kind === 'images'" class="small muted">{{ moment(holding.taken_at) }}</p>
    <p>
      <span class="chip" :class="holding.chip[0]">{{ holding.chip[1] }}</span>
    </p>
    <div class="drawn">
      <Core
        :parts="holding.parts"
        :size="holding.size_bytes"
        :width="34"
        :height="Math.max(160, holding.parts.length * 66)"
      />
      <ul>
        <li v-for="one in holding.parts" :key="one.number ?? 0">
          <button
            type="button"
            :class="{ on: one.number === part }"
            :disabled="!browsable(one)"
            @click="$emit('choose', one.number)"
          >
            <b>{{ partName(one) }}</b><span class="small">{{ bytes(one.size_bytes) }} · {{ one.volume.kind }}</span>
          </button>
        </li>
      </ul>
    </div>
    <RouterLink v-if="holding.twins.length" class="btn slim" :to="besideOf(holding, holding.twins[0]!.id)">{{
      holding.kind === 'drives' ? 'Lay beside an image…' : 'Lay beside another…'
    }}</RouterLink>
  </nav>
</template>

<style scoped>
.parts {
  padding: 16px 14px 16px 20px;
  display: flex;
  flex-direction: column;
  gap: 8px;
  min-height: 0;
}
h2 {
  font-size: 15px;
  overflow-wrap: anywhere;
}
.drawn {
  display: grid;
  grid-template-columns: 34px 1fr;
  gap: 8px;
  margin: 6px 0;
}
.drawn ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  align-content: space-around;
}
.drawn button {
  width: 100%;
  text-align: left;
  border: 1px solid transparent;
  border-radius: 7px;
  background: none;
  padding: 5px 8px;
  cursor: pointer;
  color: var(--ink);
}
.drawn button:disabled {
  color: var(--ink2);
  cursor: not-allowed;
}
.drawn button.on {
  background: var(--sheet);
  border-color: var(--ember);
}
.drawn b,
.drawn span {
  display: block;
  overflow-wrap: anywhere;
}
</style>
