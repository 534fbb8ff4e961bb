<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import { useElementSize } from './useElementSize'
import type { Docket, LayoutView, Part } from '../api/types'
import Bands from '../drawing/Bands.vue'
import Core from '../drawing/Core.vue'
import Names from '../drawing/Names.vue'
import Ledger from '../parts/Ledger.vue'
import SealedFoot from '../parts/SealedFoot.vue'
import StationFrame from '../parts/StationFrame.vue'
import Waits from '../parts/Waits.vue'
import { bytes } from '../words/format'
import { useStation } from './useStation'

const props = defineProps<{ docket: Docket }>()
const emit = defineEmits<{ sealed: [docket: Docket]; changed: [] }>()
const { view, facts, error, busy, seal, breakSeal, row, locked } = useStation<LayoutView>('layout', () => props.docket, emit)
const sealed = computed(() => row().state === 'sealed')
const room = useTemplateRef<HTMLElement>('room')
const { height: free } = useElementSize(room)
const height = computed(() => Math.max(260, Math.min(640, free.value - 30)))
const used = (part: Part | null) => (part ? [`${bytes(part.volume.used_bytes)} used`] : [])
const after = (part: Part | null) => (part ? [part.change ?? 'as is'] : ['left free'])
const gone = (part: Part | null) => (part ? [`${bytes(part.volume.used_bytes)} used`, 'is lost'] : [])
</script>

<template>
  <StationFrame title="Fit the image to the disk" sub="Heights are not to scale, so that small parts stay readable" :error="error" :loading="!view">
    <Waits v-if="view?.waits_for" :for="view.waits_for" :docket="docket.id" />
    <div v-else-if="view?.problem" class="empty"><b>It does not fit</b>{{ view.problem.message }}. {{ view.problem.hint ?? 'Choose a larger target.' }}<RouterLink class="btn" :to="`/dockets/${docket.id}/target`">To Target</RouterLink></div>
    <div v-else-if="view?.image && view.after && view.now" ref="room" class="cores">
      <div class="heads"><span /><h3>In the image</h3><span /><h3>After the restore</h3><span /><h3 class="lost">On the disk now</h3><span /></div>
      <div class="row">
        <Names :parts="view.image.parts" :size="view.image.size_bytes" :height="height" side="left" :say="used" />
        <Core :parts="view.image.parts" :size="view.image.size_bytes" :width="92" :height="height" label="In the image" />
        <Bands :from="view.image.parts" :from-size="view.image.size_bytes" :to="view.after.parts" :to-size="view.after.size_bytes" :width="130" :height="height" />
        <Core :parts="view.after.parts" :size="view.after.size_bytes" :width="104" :height="height" label="After the restore" />
        <Names :parts="view.after.parts" :size="view.after.size_bytes" :height="height" side="right" :say="after" />
        <Core :parts="view.now.parts" :size="view.now.size_bytes" :width="70" :height="height" :lost="view.now.parts.length > 0" label="On the disk now" />
        <Names :parts="view.now.parts" :size="view.now.size_bytes" :height="height" side="right" :say="gone" />
      </div>
    </div>
    <template #foot>
      <SealedFoot v-if="sealed" :row="row()" :locked="locked" @break="breakSeal" />
      <template v-else-if="view?.after">
        <span class="small"><b>As in the image:</b> every part keeps its place and size.</span>
        <span class="push small muted">Nothing is written yet</span>
        <button type="button" class="btn go" data-main :disabled="busy" @click="seal()">Seal the layout</button><span class="key">Enter</span>
      </template>
    </template>
  </StationFrame>
  <Ledger title="What this layout means" :facts="facts" />
</template>

<style scoped>
.cores { height: 100%; min-height: 0; }
.heads, .row { display: grid; grid-template-columns: minmax(0, 1.05fr) 92px 110px 104px minmax(0, 1fr) 70px minmax(0, 1fr); gap: 0 10px; }
.row { column-gap: 10px; }
.heads { height: 26px; }
.heads h3 { font-size: 15px; font-weight: 750; text-align: center; white-space: nowrap; margin: 0 -40px; }
.heads .lost { color: var(--crimson); }
.row > :nth-child(3) { margin: 0 -10px; }
</style>
