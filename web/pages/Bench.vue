<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { api, errorText } from '../api/client'
import { useLive } from '../api/live'
import type { Bench, BenchPort as Port } from '../api/types'
import BenchComputers from '../parts/bench/BenchComputers.vue'
import BenchPort from '../parts/bench/BenchPort.vue'
import DriveCare from '../parts/bench/DriveCare.vue'
import DriveFacts from '../parts/bench/DriveFacts.vue'
import DriveHands from '../parts/bench/DriveHands.vue'
import UnplugProof from '../parts/bench/UnplugProof.vue'
import { bytes } from '../words/format'
import { useRouter } from 'vue-router'
import { useKeys } from '../words/keys'
import { vMay } from '../words/may'
import { useListAge } from '../words/listed'

const bench = ref<(Bench & { revision?: string }) | null>(null)
const error = ref('')
/** Bench and port, since several benches may have a port of one name. */
const at = ref<string | null>(null)
const hidden = ref(false)
const { now, age, listed } = useListAge()
const ports = computed(() => bench.value?.ports ?? [])
const taken = computed(() => ports.value.filter((one) => one.drive).length)
const place = (one: { bench: string; port: string }) => `${one.bench}/${one.port}`
const chosen = computed(() => ports.value.find((one) => place(one) === at.value) ?? null)
const beside = computed(() => bench.value?.spare.filter((one) => one.bench === chosen.value?.bench) ?? [])
const several = computed(() => (bench.value?.benches.length ?? 0) > 1)
/** Whether hands handle the bench of a port from here. */
const handled = (name: string) => !!bench.value?.benches.find((one) => one.name === name)?.offers.includes('handling')

function show(next: Bench) {
  bench.value = next
  const first = next.ports.find((one) => one.drive) ?? next.ports[0]
  at.value ??= first ? place(first) : null
  listed()
}

async function load() {
  try {
    show(await api.get<Bench>('/bench'))
    error.value = ''
  } catch (problem) {
    error.value = errorText(problem)
  }
}

/** What hands do: the answer is the bench as it is afterwards. */
async function handle(name: string, path: string, body: object = {}) {
  try {
    error.value = ''
    show(await api.post<Bench>(`/bench/${path}`, { ...body, bench: name }))
  } catch (problem) {
    error.value = errorText(problem)
  }
}

/** A drive was carried from one port of its bench to another. */
function carried(from: string, to: Port) {
  const source = ports.value.find((one) => place(one) === from)
  if (!source?.drive || source.bench !== to.bench || source.port === to.port || !handled(to.bench)) return
  at.value = place(to)
  if (to.drive) handle(to.bench, 'swap', { ports: [source.port, to.port] })
  else handle(to.bench, `ports/${to.port}/plug`, { name: source.drive.name })
}

function pull() {
  const one = chosen.value
  if (one?.drive && handled(one.bench)) handle(one.bench, `ports/${one.port}/pull`)
}

const router = useRouter()
function take() {
  const drive = chosen.value?.drive
  if (drive) router.push(`/drives/${drive.id}/take`)
}

async function move(by: number) {
  const now = ports.value.findIndex((one) => place(one) === at.value)
  const next = ports.value[Math.max(0, Math.min(ports.value.length - 1, now + by))]
  at.value = next ? place(next) : null
  await nextTick()
  document.querySelector('.port-card.on')?.scrollIntoView({ block: 'nearest' })
}

async function giveUp() {
  show(await api.delete<Bench>('/bench/unplug-check'))
}

// The time of a check is over without anything having moved.
watch(now, () => {
  const check = bench.value?.unplug
  if (check && ['waiting', 'away'].includes(check.state) && Date.parse(check.ends_at) < now.value) load()
})

useLive({ bench: load, back: load, event: load, task: load })
useKeys({
  r: load,
  arrowright: () => move(1),
  arrowleft: () => move(-1),
  arrowdown: () => move(3),
  arrowup: () => move(-3),
  p: pull,
  i: take,
})
load()
</script>

<template>
  <div class="bench">
    <div class="left">
      <div class="head">
        <h1>Bench</h1>
        <span v-if="bench" class="muted small">{{ taken }} drives on {{ ports.length }} ports · {{ age }}</span>
        <RouterLink class="btn slim push" to="/takings">Images that are taken</RouterLink>
        <button type="button" class="btn slim" @click="load">List again <span class="key">R</span></button>
      </div>
      <p v-if="error" class="message" role="alert">{{ error }}</p>
      <UnplugProof v-if="bench?.unplug" class="proof" :check="bench.unplug" :now="now" @give-up="giveUp" />
      <div class="ports scroll" role="listbox" aria-label="Ports" tabindex="0">
        <BenchPort
          v-for="one in ports"
          :key="place(one)"
          :bench="one.bench"
          :port="one.port"
          :drive="one.drive"
          :named="several"
          :movable="handled(one.bench)"
          :on="place(one) === at"
          :hidden="hidden && place(one) === at"
          @choose="at = place(one)"
          @dropped="carried($event, one)"
        />
      </div>
      <BenchComputers v-if="bench?.computers.length" :computers="bench.computers" @do="handle" />
    </div>
    <aside class="panel scroll" :aria-label="chosen ? `Port ${chosen.port}` : 'Port'">
      <template v-if="chosen?.drive">
        <DriveFacts :drive="chosen.drive" :port="chosen.port" :revision="bench!.listed_at" />
        <DriveCare
          :drive="chosen.drive"
          :port="chosen.port"
          :unplug="bench!.unplug"
          @changed="load"
          @hide="hidden = $event"
        />
        <DriveHands
          v-if="handled(chosen.bench)"
          :drive="chosen.drive"
          :at="chosen"
          :bench="bench!"
          @do="(path, body) => handle(chosen!.bench, path, body)"
        />
      </template>
      <template v-else-if="chosen">
        <h2>Port {{ chosen.port }} is empty</h2>
        <p v-if="!handled(chosen.bench)" class="small muted">Plug a drive in: it is listed at once.</p>
        <p v-else-if="!beside.length" class="small muted">
          No drive lies beside the bench. Pull one out of its port, or carry one here.
        </p>
        <template v-else
          ><p class="small muted">Beside the bench:</p>
          <button
            v-for="one in beside"
            :key="one.name"
            v-may="'technician'"
            type="button"
            class="btn spare"
            @click="handle(chosen.bench, `ports/${chosen.port}/plug`, { name: one.name })"
          >
            <span
              ><b>{{ bytes(one.capacity) }}</b> {{ one.maker }} {{ one.model }}</span
            ><span class="mono small">{{ one.serial }}</span>
          </button></template
        >
      </template>
    </aside>
  </div>
</template>

<style scoped>
.bench {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: minmax(0, 1fr) 340px;
}
.left {
  display: flex;
  flex-direction: column;
  gap: 12px;
  min-height: 0;
  padding: 16px 16px 0 20px;
}
.head {
  display: flex;
  align-items: baseline;
  gap: 14px;
}
h1 {
  font-size: 21px;
  font-weight: 750;
}
h2 {
  font-size: 16px;
}
.ports {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(270px, 1fr));
  grid-auto-rows: max-content;
  gap: 8px;
  align-content: start;
  padding: 3px;
}
.proof {
  flex: none;
  border: 1px solid var(--ember);
  border-radius: 9px;
  background: var(--sheet);
  padding: 4px 12px;
}
.panel {
  border-left: 1px solid var(--rule);
  padding: 18px 18px 16px;
  display: flex;
  flex-direction: column;
  gap: 12px;
  min-height: 0;
}
.btn.spare {
  display: grid;
  justify-content: start;
  justify-items: start;
  text-align: left;
  gap: 2px;
  font-weight: 400;
}
</style>
