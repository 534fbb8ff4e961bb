<script setup lang="ts">
import type { DriveCard } from '../../api/types'
import Core from '../../drawing/Core.vue'
import { holds, verdictWords } from '../../words/drives'
import { choosing } from '../../stations/useOthers'
import { bytes, exact } from '../../words/format'
import OthersHere from '../dockets/OthersHere.vue'

/** An attached drive as a target: capacity first, what is on it, the verdict, and its serial. */
defineProps<{ drive: DriveCard; on: boolean; /** Whether it is the one that the tab key stops at. */ stop: boolean }>()
defineEmits<{ choose: [] }>()
</script>

<template>
  <div
    class="card"
    :class="[drive.verdict.state, { on }]"
    role="radio"
    :aria-checked="on"
    :tabindex="stop ? 0 : -1"
    @click="$emit('choose')"
    @keydown.space.prevent="$emit('choose')"
    @keydown.enter.stop.prevent="$emit('choose')"
  >
    <div class="port">
      <span class="small muted">port</span><b>{{ drive.port }}</b>
    </div>
    <Core :parts="drive.parts" :size="drive.capacity" :width="22" :height="70" :label="`Drive on port ${drive.port}`" />
    <div class="what">
      <div class="top">
        <b :title="exact(drive.capacity)">{{ bytes(drive.capacity) }}</b><span>{{ drive.maker }} {{ drive.model }}</span
        ><span class="muted small">{{ drive.bus }}</span
        ><OthersHere :people="choosing(`drive-${drive.id}`)" />
      </div>
      <div class="small">{{ holds(drive) }}</div>
      <div class="small verdict">
        {{
          drive.verdict.reason
            ? `${drive.verdict.reason.title}: ${drive.verdict.reason.detail}`
            : 'Big enough, healthy, not in use, empty'
        }}
      </div>
    </div>
    <div class="side">
      <span class="chip" :class="verdictWords[drive.verdict.state][0]">{{ verdictWords[drive.verdict.state][1] }}</span>
      <span v-if="drive.serial" class="serial"
        ><small>{{ drive.serial.slice(0, -4) }}</small
        >{{ drive.serial.slice(-4) }}</span
      ><span v-else class="small muted">no serial</span>
    </div>
  </div>
</template>

<style scoped>
.card {
  display: grid;
  grid-template-columns: 44px 22px minmax(0, 1fr) auto;
  gap: 14px;
  align-items: center;
  border: 1px solid var(--rule);
  border-radius: 9px;
  background: var(--field);
  padding: 6px 12px;
  cursor: pointer;
}
.card.refused {
  background: var(--fold);
}
.card.on {
  outline: 3px solid var(--ember);
  outline-offset: -1px;
}
.port {
  text-align: center;
  display: grid;
}
.port b {
  font-size: 22px;
  line-height: 1;
  font-weight: 800;
}
.top {
  display: flex;
  gap: 10px;
  align-items: baseline;
}
.top b {
  font-size: 17px;
}
.what > div {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.clear .verdict {
  color: var(--spruce);
}
.ask .verdict {
  color: var(--ochre-ink);
}
.refused .verdict {
  color: var(--crimson);
}
.side {
  display: grid;
  gap: 8px;
  justify-items: end;
}
.serial {
  font-family: var(--mono);
  font-size: 19px;
  font-weight: 700;
  letter-spacing: 0.04em;
}
.serial small {
  font-size: 13px;
  font-weight: 400;
  color: var(--ink2);
  letter-spacing: 0;
}
</style>
