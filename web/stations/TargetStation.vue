<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import type { Docket, DriveCard, TargetView } from '../api/types'
import Core from '../drawing/Core.vue'
import Ledger from '../parts/Ledger.vue'
import SealedFoot from '../parts/SealedFoot.vue'
import StationFrame from '../parts/StationFrame.vue'
import Waits from '../parts/Waits.vue'
import { ago, bytes, exact } from '../words/format'
import { useKeys } from '../words/keys'
import { useListAge } from '../words/listed'
import { useStation } from './useStation'

const props = defineProps<{ docket: Docket }>()
const emit = defineEmits<{ sealed: [docket: Docket]; changed: [] }>()
const { view, error, busy, load, seal, breakSeal, row, locked } = useStation<TargetView>('target', () => props.docket, emit)
const chosenId = ref<number | null>(null)
const label = ref('')
const field = useTemplateRef<HTMLInputElement>('field')
const { now, age, listed } = useListAge()
const sealed = computed(() => row().state === 'sealed')
const drives = computed(() => view.value?.drives ?? [])
const chosen = computed(() => drives.value.find((drive) => drive.id === chosenId.value) ?? null)
const lookAlike = computed(() => chosen.value?.verdict.facts.find((fact) => fact.id === 'look-alike'))
const pause = computed(() => Math.max(0, Math.ceil((new Date(view.value?.locked_until ?? 0).getTime() - now.value) / 1000)))
const words = { clear: ['ok', 'Clear'], ask: ['ask', 'Ask'], refused: ['no', 'Refused'] } as const

watch(view, (next) => {
  listed()
  if (next?.sealed_id) chosenId.value = next.sealed_id
  else if (!next?.drives.some((drive) => drive.id === chosenId.value)) chosenId.value = null
})

function holds(drive: DriveCard): string {
  if (drive.problem) return `Its table cannot be read: ${drive.problem}`
  if (!drive.parts.length) return 'No table and no volume on it'
  const used = bytes(drive.parts.reduce((sum, part) => sum + part.volume.used_bytes, 0))
  const names = drive.parts.map((part) => part.volume.label || part.name).filter(Boolean).join(', ')
  const what = drive.shelves.length ? `Shelf “${drive.shelves.join('”, “')}”` : drive.parts.length === 1 ? `One volume “${names}”` : `${drive.parts.length} parts: ${names}`
  return `${what}, ${used}${drive.written_at ? `, last written ${ago(drive.written_at)}` : ''}`
}

async function choose(drive: DriveCard) {
  if (sealed.value) return
  chosenId.value = drive.id
  label.value = ''
  await nextTick()
  field.value?.focus()
}

function move(by: number) {
  if (sealed.value || !drives.value.length) return
  const at = drives.value.findIndex((drive) => drive.id === chosenId.value)
  chosenId.value = drives.value[(at + by + drives.value.length) % drives.value.length]!.id
  label.value = ''
}

async function stamp() {
  if (!(await seal({ drive_id: chosenId.value, label: label.value }))) label.value = ''
}

useKeys({ r: load, arrowdown: () => move(1), arrowup: () => move(-1) })
</script>

<template>
  <StationFrame title="Choose the disk to overwrite" :sub="view?.drives.length ? `${drives.length} disks attached · ${age}` : undefined" :error="error" :loading="!view"
    :lead="view && !view.waits_for ? 'Go by the label on the drive itself. Names and ports can change when drives are swapped.' : undefined">
    <template #corner><button v-if="!view?.waits_for" type="button" class="btn slim" @click="load">List again <span class="key">R</span></button></template>
    <Waits v-if="view?.waits_for" :for="view.waits_for" :docket="docket.id" />
    <div v-else-if="view && !drives.length" class="empty"><b>No drive is attached</b>Plug the target in; it shows here by itself.</div>
    <div v-else class="cards" role="radiogroup" aria-label="Attached drives">
      <div v-for="drive in drives" :key="drive.id" class="card" :class="[drive.verdict.state, { on: drive.id === chosenId }]" role="radio" :aria-checked="drive.id === chosenId" tabindex="0" @click="choose(drive)" @keydown.space.prevent="choose(drive)" @keydown.enter.stop.prevent="choose(drive)">
        <div class="port"><span class="small muted">port</span><b>{{ drive.port }}</b></div>
        <Core :parts="drive.parts" :size="drive.capacity" :width="22" :height="78" :label="`Drive on port ${drive.port}`" />
        <div class="what">
          <div class="top"><b :title="exact(drive.capacity)">{{ bytes(drive.capacity) }}</b><span>{{ drive.maker }} {{ drive.model }}</span><span class="muted small">{{ drive.bus }}</span></div>
          <div class="small">{{ holds(drive) }}</div>
          <div class="small verdict">{{ drive.verdict.reason ? `${drive.verdict.reason.title}: ${drive.verdict.reason.detail}` : 'Big enough, healthy, not in use, empty' }}</div>
        </div>
        <div class="side"><span class="chip" :class="words[drive.verdict.state][0]">{{ words[drive.verdict.state][1] }}</span>
          <span class="serial"><small>{{ drive.serial.slice(0, -4) }}</small>{{ drive.serial.slice(-4) }}</span></div>
      </div>
    </div>
    <template #foot>
      <SealedFoot v-if="sealed" :row="row()" :locked="locked" @break="breakSeal" />
      <template v-else-if="!view?.waits_for">
        <label class="proof" for="label"><b>Show that you hold the right drive</b>
          <span class="small muted">{{ pause ? `Three wrong labels: locked for ${pause} s` : lookAlike ? `${lookAlike.detail}: read letter by letter` : 'The last four characters of its label, hidden here on purpose' }}</span></label>
        <input id="label" ref="field" v-model="label" class="label mono" maxlength="4" autocomplete="off" spellcheck="false" aria-label="Last four characters of the drive’s label" :disabled="!chosen || chosen.verdict.state === 'refused' || pause > 0" @keydown.enter.prevent="label.length === 4 && stamp()">
        <button type="button" class="btn go push" data-main :disabled="busy || !chosen || chosen.verdict.state === 'refused' || label.length < 4 || pause > 0" @click="stamp">{{ chosen ? `Seal port ${chosen.port} as the target` : 'Choose a drive' }}</button><span class="key">Enter</span>
      </template>
    </template>
  </StationFrame>
  <Ledger :title="chosen ? `Why port ${chosen.port}` : 'Target'" :facts="chosen?.verdict.facts ?? []" empty="Choose a drive to see what speaks for and against it." />
</template>

<style scoped>
.cards { display: flex; flex-direction: column; gap: 7px; padding: 3px 0; }
.card { display: grid; grid-template-columns: 44px 22px minmax(0, 1fr) auto; gap: 14px; align-items: center; border: 1px solid var(--rule); border-radius: 9px; background: var(--field); padding: 7px 12px; cursor: pointer; }
.card.refused { background: var(--fold); }
.card.on { outline: 3px solid var(--ember); outline-offset: -1px; }
.port { text-align: center; display: grid; }
.port b { font-size: 22px; line-height: 1; font-weight: 800; }
.top { display: flex; gap: 10px; align-items: baseline; }
.top b { font-size: 17px; }
.what > div { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.clear .verdict { color: var(--spruce); }
.ask .verdict { color: var(--ochre-ink); }
.refused .verdict { color: var(--crimson); }
.side { display: grid; gap: 10px; justify-items: end; }
.serial { font-family: var(--mono); font-size: 19px; font-weight: 700; letter-spacing: 0.04em; }
.serial small { font-size: 13px; font-weight: 400; color: var(--ink2); letter-spacing: 0; }
.proof { display: grid; max-width: 350px; line-height: 1.3; }
.label { width: 140px; border: 1.5px solid var(--ember); border-radius: 7px; background: var(--field); color: var(--ink); font-size: 22px; font-weight: 700; letter-spacing: 0.3em; text-align: center; padding: 4px 0 4px 0.3em; text-transform: uppercase; }
.label:disabled { border-color: var(--rule); background: var(--fold); }
</style>
