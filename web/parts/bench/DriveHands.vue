<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Bench, BenchDrive, BenchPort } from '../../api/types'
import { vMay } from '../../words/may'

/** What hands would do with a stand-in: pull it, carry it, let it fail. */
const props = defineProps<{ drive: BenchDrive; at: BenchPort; bench: Bench }>()
const emit = defineEmits<{ do: [path: string, body?: object] }>()
const to = ref('')
const fault = ref('')
const others = computed(() =>
  props.bench.ports.filter((one) => one.bench === props.at.bench && one.port !== props.at.port),
)
const faults = computed(() => Object.entries(props.drive.faults))
const capacity = computed(() => props.drive.capacity)
/** Made-up failures, as one meets them. */
const FAULTS: Record<string, { words: string; of: (size: number) => object }> = {
  unreadable: {
    words: 'bad spots in its first 2 GB',
    of: () => ({ unreadable: Array.from({ length: 20 }, (_, at) => [(at + 1) * 100_000_256, 4096]) }),
  },
  flips: { words: 'flips bits at 1 GB', of: () => ({ flips: [[1_000_000_000, 1_000_000]] }) },
  hiccups: { words: 'one operation in 50 fails once', of: () => ({ hiccups: 50 }) },
  spot: { words: 'takes nothing at 1 GB', of: () => ({ unwritable: [[1_000_000_000, 1_000_000]] }) },
  worn: { words: 'takes nothing more after 100 MB', of: () => ({ wears_out_after: 100_000_000 }) },
  slow: { words: 'slow, 2 MB/s', of: () => ({ bytes_per_second: 2_000_000 }) },
  dies: { words: 'dies after 100 MB', of: () => ({ dies_after: 100_000_000 }) },
  disconnects: { words: 'loses its line after 100 MB', of: () => ({ disconnects_after: 100_000_000 }) },
  wraps: { words: 'half as large as it says', of: (size) => ({ true_capacity: Math.floor(size / 2 ** 31) * 2 ** 30 }) },
}
watch(
  () => props.at.port,
  () => (to.value = fault.value = ''),
)

function move() {
  const target = others.value.find((one) => one.port === to.value)
  if (target?.drive) emit('do', 'swap', { ports: [props.at.port, to.value] })
  else if (target) emit('do', `ports/${to.value}/plug`, { name: props.drive.name })
  to.value = ''
}

function change(body: object) {
  emit('do', `stand-ins/${encodeURIComponent(props.drive.name)}`, body)
}

function fail() {
  if (fault.value) change({ faults: FAULTS[fault.value]!.of(capacity.value) })
  fault.value = ''
}
</script>

<template>
  <section class="hands" aria-label="Handle this stand-in">
    <h3>Handle it</h3>
    <div class="row">
      <button v-may="'technician'" type="button" class="btn slim" @click="emit('do', `ports/${at.port}/pull`)">
        Pull it out <span class="key">P</span>
      </button>
      <select v-model="to" aria-label="Carry it to" @change="move">
        <option value="" disabled>Carry it to…</option>
        <option v-for="one in others" :key="one.port" :value="one.port">
          port {{ one.port }}{{ one.drive ? `, swapping with ${one.drive.maker} ${one.drive.model}` : '' }}
        </option>
      </select>
    </div>
    <div class="row">
      <select v-model="fault" aria-label="Let it fail" @change="fail">
        <option value="" disabled>Let it fail…</option>
        <option v-for="(one, key) in FAULTS" :key="key" :value="key">{{ one.words }}</option>
      </select>
      <button v-may="'technician'" v-if="faults.length" type="button" class="btn slim" @click="change({ faults: {} })">
        Mend it
      </button>
      <label class="small"
        ><input type="checkbox" :checked="drive.read_only" @change="change({ read_only: !drive.read_only })" />
        read-only switch</label
      >
    </div>
    <p v-if="faults.length" class="small fault">
      Fails: {{ faults.map(([name]) => name.replaceAll('_', ' ')).join(', ') }}
    </p>
  </section>
</template>

<style scoped>
.hands {
  border-top: 1px solid var(--rule);
  padding-top: 10px;
  display: grid;
  gap: 8px;
}
h3 {
  font-size: 13px;
  color: var(--ink2);
}
.row {
  display: flex;
  gap: 8px;
  align-items: center;
  flex-wrap: wrap;
}
select {
  padding: 4px 6px;
  max-width: 170px;
}
.fault {
  color: var(--crimson);
}
</style>
