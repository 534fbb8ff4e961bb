<script setup lang="ts">
import { computed, markRaw, watch, type Component } from 'vue'
import { useRouter } from 'vue-router'
import { storeToRefs } from 'pinia'
import { useLive } from '../api/live'
import type { Docket, StationName } from '../api/types'
import DocketMenu from '../parts/dockets/DocketMenu.vue'
import OthersHere from '../parts/dockets/OthersHere.vue'
import Spine from '../parts/dockets/Spine.vue'
import { useDocketStore } from '../stations/docket'
import ComputerStation from '../stations/ComputerStation.vue'
import ImageStation from '../stations/ImageStation.vue'
import LayoutStation from '../stations/LayoutStation.vue'
import StartStation from '../stations/StartStation.vue'
import TargetStation from '../stations/TargetStation.vue'
import WriteStation from '../stations/WriteStation.vue'
import { others, useOthers } from '../stations/useOthers'
import { ago, moment } from '../words/format'
import { pressMain, useKeys } from '../words/keys'

const props = defineProps<{ id: string; station?: string }>()
const router = useRouter()
const store = useDocketStore()
const { docket, error } = storeToRefs(store)
const pages: Record<StationName, Component> = {
  computer: markRaw(ComputerStation),
  image: markRaw(ImageStation),
  target: markRaw(TargetStation),
  layout: markRaw(LayoutStation),
  write: markRaw(WriteStation),
  start: markRaw(StartStation),
}
const NAMES = Object.keys(pages) as StationName[]
const current = computed<StationName>(
  () => NAMES.find((name) => name === props.station) ?? docket.value?.current ?? 'computer',
)

/** After a seal: on to the station that is next. */
function sealed(next: Docket) {
  docket.value = next
  go(next.closed_at ? 'start' : next.current)
}

function go(name: StationName) {
  router.push(`/dockets/${props.id}/${name}`)
}

useOthers(
  () => props.id,
  () => current.value,
)
watch(() => props.id, store.open, { immediate: true })
watch(docket, (now) => now && (document.title = `${now.computer} · ${now.number} · Evrel`), { immediate: true })
useLive({
  event: (event) => {
    if (event.docket_id === Number(props.id)) store.refresh()
    else if (event.kind === 'image_checked') store.loadStation()
  },
  back: store.refresh,
  bench: store.refresh,
})
useKeys({
  ...Object.fromEntries(NAMES.map((name, index) => [String(index + 1), () => go(name)])),
  enter: pressMain,
  escape: () => router.push('/dockets'),
})
</script>

<template>
  <div v-if="docket" class="docket">
    <div class="head">
      <div>
        <div class="docno">{{ docket.number }}</div>
        <h1>
          {{ docket.computer }}<template v-if="docket.place"> · {{ docket.place }}</template>
        </h1>
      </div>
      <span class="chip" :class="docket.cause === 'drive_failed' ? 'no' : ''">{{ docket.cause_name }}</span>
      <span v-if="docket.trouble_since && docket.trouble_noticed" class="chip"
        >Trouble began between {{ moment(docket.trouble_since) }} and {{ moment(docket.trouble_noticed) }}</span
      >
      <span v-else-if="docket.trouble_since" class="chip">Trouble since {{ moment(docket.trouble_since) }}</span>
      <span v-else-if="docket.trouble_noticed" class="chip">Trouble noticed {{ moment(docket.trouble_noticed) }}</span>
      <span v-if="docket.closed_at" class="chip ok">Signed off {{ moment(docket.closed_at) }}</span>
      <span v-if="docket.waits_for" class="chip hot" :title="docket.waits_note ?? undefined"
        >Waits for {{ docket.waits_for }}</span
      >
      <span class="push muted small"
        >Opened {{ ago(docket.opened_at) }} by {{ docket.opened_by
        }}<template v-if="docket.copied_from">, as {{ docket.copied_from }}</template
        ><template v-if="docket.run"
          >, in <RouterLink :to="`/runs/${docket.run.id}`">{{ docket.run.number }}</RouterLink></template
        ></span
      >
      <OthersHere :people="others" station />
      <DocketMenu :docket="docket" @changed="store.load" />
    </div>
    <p
      v-if="
        docket.broken &&
        !docket.closed_at &&
        docket.stations.find((one) => one.name === docket?.broken?.station)?.state !== 'sealed'
      "
      class="message ask broken"
      role="status"
    >
      A seal was broken {{ ago(docket.broken.at) }}: {{ docket.broken.because }}.
    </p>
    <div class="body" :class="current">
      <Spine :stations="docket.stations" :current="current" :docket="docket.id" />
      <component
        :is="pages[current]"
        :key="`${docket.id}-${current}`"
        :docket="docket"
        @sealed="sealed"
        @changed="store.load"
      />
    </div>
  </div>
  <div v-else-if="error" class="empty">
    <b>This docket cannot be shown</b>{{ error }}<RouterLink class="btn" to="/dockets">To the dockets</RouterLink>
  </div>
  <p v-else class="empty" role="status">Loading…</p>
</template>

<style scoped>
.docket {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
}
.head {
  flex: none;
  min-height: 66px;
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 8px 20px;
  background: var(--sheet);
  border-bottom: 1px solid var(--rule);
}
.docno {
  font-family: var(--mono);
  font-size: 13px;
  color: var(--ink2);
}
h1 {
  font-size: 21px;
  font-weight: 750;
  letter-spacing: -0.01em;
  line-height: 1.15;
}
.broken {
  margin: 6px 20px 0;
  flex: none;
}
.body {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: 216px minmax(0, 1fr) 276px;
  grid-template-rows: minmax(0, 1fr);
}
@media (max-width: 1150px) {
  .body {
    grid-template-columns: 116px minmax(0, 1fr) 212px;
  }
}
/* On a telephone all is one column that scrolls; at the computer its list comes first. */
@media (max-width: 700px) {
  .docket {
    overflow-y: auto;
  }
  .head {
    flex-wrap: wrap;
    gap: 6px 10px;
    padding: 8px 12px;
  }
  .head > :first-child {
    flex-basis: 100%;
  }
  .body {
    display: flex;
    flex-direction: column;
    flex: none;
  }
  .body.start > :deep(.ledger) {
    order: 1;
  }
  .body.start > :deep(.station) {
    order: 2;
  }
}
</style>
