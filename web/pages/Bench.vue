<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, errorText } from '../api/client'
import { useLive } from '../api/live'
import type { Bench } from '../api/types'
import Core from '../drawing/Core.vue'
import StateMark from '../parts/StateMark.vue'
import { ago, bytes, exact } from '../words/format'
import { useKeys } from '../words/keys'
import { useListAge } from '../words/listed'

const bench = ref<Bench | null>(null)
const error = ref('')
const { age, listed } = useListAge()
const taken = computed(() => bench.value?.ports.filter((port) => port.drive).length ?? 0)
const marks = { good: 'ok', worn: 'ask', failing: 'no' } as const

async function load() {
  try {
    bench.value = await api.get<Bench>('/bench')
    listed()
    error.value = ''
  } catch (problem) {
    error.value = errorText(problem)
  }
}

useLive({ bench: load, back: load, event: load })
useKeys({ r: load })
load()
</script>

<template>
  <div class="page">
    <div class="head"><h1>Bench</h1><span v-if="bench" class="muted small">{{ taken }} drives on {{ bench.ports.length }} ports · {{ age }}</span>
      <button type="button" class="btn slim push" @click="load">List again <span class="key">R</span></button></div>
    <p v-if="error" class="message" role="alert">{{ error }}</p>
    <div class="ports scroll">
      <article v-for="{ port, drive } in bench?.ports" :key="port" :class="{ bare: !drive }" :aria-label="`Port ${port}`">
        <div class="port"><span class="small muted">port</span><b>{{ port }}</b></div>
        <template v-if="drive">
          <Core :parts="drive.parts" :size="drive.capacity" :width="40" :height="150" :label="`Drive on port ${port}`" />
          <div class="what">
            <div class="top"><b :title="exact(drive.capacity)">{{ bytes(drive.capacity) }}</b> {{ drive.maker }} {{ drive.model }}</div>
            <div class="serial"><small>{{ drive.serial.slice(0, -4) }}</small>{{ drive.serial.slice(-4) }}</div>
            <div class="small muted">{{ drive.bus }} · {{ drive.rotating ? 'rotating' : 'solid state' }} · sectors {{ drive.logical_sector }}/{{ drive.physical_sector }}</div>
            <div class="small">{{ drive.problem ?? (drive.parts.map((part) => part.volume.label || part.name).filter(Boolean).join(', ') || 'Empty') }}<template v-if="drive.written_at">, written {{ ago(drive.written_at) }}</template></div>
            <div class="small health"><StateMark :state="marks[drive.health.state as keyof typeof marks] ?? 'ask'" />{{ drive.health.reason }}</div>
            <div class="chips"><span v-if="drive.owner" class="chip">was in {{ drive.owner }}</span><span v-for="shelf in drive.shelves" :key="shelf" class="chip ok">shelf {{ shelf }}</span><span v-if="drive.docket" class="chip hot">locked by {{ drive.docket }}</span><span v-if="drive.read_only" class="chip no">read-only</span></div>
          </div>
        </template>
        <p v-else class="muted">Nothing is plugged in</p>
      </article>
    </div>
  </div>
</template>

<style scoped>
.page { flex: 1; min-height: 0; display: flex; flex-direction: column; gap: 12px; padding: 18px 20px 0; }
.head { display: flex; align-items: baseline; gap: 14px; }
h1 { font-size: 21px; font-weight: 750; }
.ports { flex: 1; min-height: 0; display: grid; grid-template-columns: repeat(auto-fill, minmax(400px, 1fr)); gap: 10px; align-content: start; padding-bottom: 16px; }
article { background: var(--sheet); border: 1px solid var(--rule); border-radius: 9px; padding: 14px; display: grid; grid-template-columns: 40px 40px minmax(0, 1fr); gap: 14px; align-items: center; min-height: 182px; }
article.bare { grid-template-columns: 40px 1fr; border-style: dashed; background: none; }
.port { text-align: center; display: grid; }
.port b { font-size: 22px; font-weight: 800; line-height: 1; }
.what { display: grid; gap: 4px; }
.top b { font-size: 17px; margin-right: 4px; }
.serial { font-family: var(--mono); font-size: 19px; font-weight: 700; }
.serial small { font-size: 13px; font-weight: 400; color: var(--ink2); }
.health { display: flex; gap: 8px; }
.chips { display: flex; flex-wrap: wrap; gap: 6px; }
</style>
