<script setup lang="ts">
import { ref } from 'vue'
import type { BenchDrive } from '../../api/types'
import Core from '../../drawing/Core.vue'
import { healthMarks, holds } from '../../words/drives'
import { bytes, exact } from '../../words/format'
import StateMark from '../common/StateMark.vue'

/** A port of the bench, with the drive in it. A drive can be carried to another port by mouse. */
defineProps<{
  bench: string
  port: string
  drive: BenchDrive | null
  named: boolean
  movable: boolean
  on: boolean
  hidden: boolean
}>()
const emit = defineEmits<{ choose: []; dropped: [from: string] }>()
const over = ref(false)

function drop(event: DragEvent) {
  over.value = false
  const from = event.dataTransfer?.getData('text/port')
  if (from) emit('dropped', from)
}
</script>

<template>
  <div
    class="port-card"
    :class="{ bare: !drive, on, over }"
    role="option"
    :aria-selected="on"
    :data-port="port"
    :draggable="!!drive && movable"
    @click="emit('choose')"
    @dragstart="$event.dataTransfer?.setData('text/port', `${bench}/${port}`)"
    @dragover.prevent="over = true"
    @dragleave="over = false"
    @drop.prevent="drop"
  >
    <div class="port">
      <span class="small muted">port</span><b>{{ port }}</b
      ><span v-if="named" class="small muted of">{{ bench }}</span>
    </div>
    <template v-if="drive">
      <Core :parts="drive.parts" :size="drive.capacity" :width="18" :height="74" :label="`Drive on port ${port}`" />
      <div class="what">
        <div>
          <b :title="exact(drive.capacity)">{{ bytes(drive.capacity) }}</b>
          <span class="small">{{ drive.maker }} {{ drive.model }}</span>
        </div>
        <div class="serial">
          <template v-if="drive.serial"
            ><small>{{ drive.serial.slice(0, -4) }}</small
            >{{ hidden ? '••••' : drive.serial.slice(-4) }}</template
          ><small v-else>no serial</small>
        </div>
        <div class="small muted line">{{ holds(drive) }}</div>
        <div class="small line mark">
          <StateMark :state="drive.refused ? 'no' : healthMarks[drive.health.state]" /><span>{{
            drive.docket ? `Locked by ${drive.docket}` : drive.refused ? drive.refused.title : drive.health.reason
          }}</span>
        </div>
      </div>
    </template>
    <p v-else class="muted small">Nothing is plugged in</p>
  </div>
</template>

<style scoped>
.port-card {
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-radius: 9px;
  padding: 8px 10px;
  display: grid;
  grid-template-columns: 30px 18px minmax(0, 1fr);
  gap: 10px;
  align-items: center;
  min-height: 98px;
  cursor: pointer;
}
div.port-card.bare {
  grid-template-columns: 30px 1fr;
  border-style: dashed;
  background: none;
  min-height: 56px;
}
div.port-card.on {
  outline: 3px solid var(--ember);
  outline-offset: -1px;
}
div.port-card.over {
  border-color: var(--spruce);
  background: var(--spruce-l);
}
.port {
  text-align: center;
  display: grid;
}
.port .of {
  font-size: 12px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.port b {
  font-size: 20px;
  font-weight: 800;
  line-height: 1;
}
.what {
  display: grid;
  line-height: 1.28;
}
.what > div {
  overflow: hidden;
}
.what b {
  font-size: 16px;
}
.serial {
  font-family: var(--mono);
  font-size: 17px;
  font-weight: 700;
}
.serial small {
  font-size: 12px;
  font-weight: 400;
  color: var(--ink2);
}
.mark {
  display: flex;
  gap: 6px;
  align-items: center;
}
</style>
