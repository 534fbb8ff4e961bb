<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { ComputerView, Docket } from '../api/types'
import DateField from '../parts/common/DateField.vue'
import Ledger from '../parts/dockets/Ledger.vue'
import SealedFoot from '../parts/dockets/SealedFoot.vue'
import StationFrame from '../parts/dockets/StationFrame.vue'
import { bytes, moment } from '../words/format'
import { useStation } from './useStation'
import { vMay } from '../words/may'

const props = defineProps<{ docket: Docket }>()
const emit = defineEmits<{ sealed: [docket: Docket]; changed: [] }>()
const { view, facts, error, busy, seal, breakSeal, row, locked } = useStation<ComputerView>(
  'computer',
  () => props.docket,
  emit,
)
const cause = ref('')
const since = ref<Date | null>(null)
const noticed = ref<Date | null>(null)
/** What is known of when it began. */
const known = ref<'moment' | 'between' | 'unknown'>('moment')
const note = ref('')
const sealed = computed(() => row().state === 'sealed')

watch(view, (next) => {
  if (!next || cause.value) return
  cause.value = next.cause
  since.value = next.trouble_since ? new Date(next.trouble_since) : null
  noticed.value = next.trouble_noticed ? new Date(next.trouble_noticed) : null
  known.value = next.trouble_noticed ? 'between' : next.trouble_since ? 'moment' : 'unknown'
  note.value = next.note ?? ''
})

const iso = (time: Date | null) => time?.toISOString() ?? ''
const stamp = () =>
  seal({
    cause: cause.value,
    note: note.value,
    trouble_since: known.value === 'unknown' ? '' : iso(since.value),
    trouble_noticed: known.value === 'between' ? iso(noticed.value) : '',
  })
</script>

<template>
  <StationFrame title="Take the computer in" sub="Which one it is, and what happened" :error="error" :loading="!view">
    <div v-if="view" class="grid">
      <section>
        <h3>What happened</h3>
        <fieldset :disabled="sealed">
          <div class="causes" role="radiogroup" aria-label="What happened">
            <label v-for="(name, key) in view.causes" :key="key" :class="{ on: cause === key }"
              ><input v-model="cause" type="radio" name="cause" :value="key" />{{ name }}</label
            >
          </div>
          <div class="since">
            <label class="field"
              >When it began
              <select v-model="known">
                <option value="moment">At a moment that is known</option>
                <option value="between">Between two moments</option>
                <option value="unknown">Nobody knows</option>
              </select>
            </label>
            <label v-if="known !== 'unknown'" class="field"
              >{{ known === 'between' ? 'Surely well until' : 'In trouble since'
              }}<DateField v-model="since" time :disabled="sealed"
            /></label>
            <label v-if="known === 'between'" class="field"
              >Surely in trouble from<DateField v-model="noticed" time :disabled="sealed"
            /></label>
          </div>
          <label class="field">Note for whoever takes over<textarea v-model="note" rows="4" maxlength="2000" /></label>
        </fieldset>
      </section>
      <section>
        <h3>The computer</h3>
        <dl>
          <dt>Name</dt>
          <dd>
            <b>{{ view.computer.name }}</b>
          </dd>
          <dt>Place</dt>
          <dd>{{ view.computer.place }}</dd>
          <dt>Model</dt>
          <dd>{{ view.computer.model }}</dd>
          <dt>Starts by</dt>
          <dd>
            <template v-if="view.computer.firmware"
              >{{ view.computer.firmware.toUpperCase() }}, secure boot
              {{ view.computer.secure_boot ? 'on' : 'off' }}</template
            ><RouterLink v-else :to="`/computers/${view.computer.id}`">not known: choose it…</RouterLink>
          </dd>
          <dt>System identity</dt>
          <dd class="mono">{{ view.computer.system_identity }}</dd>
        </dl>
        <h3>Drives known to have been in it</h3>
        <p v-if="!view.drives.length" class="muted small">None so far.</p>
        <div v-for="drive in view.drives" :key="drive.serial" class="drive">
          <b>{{ bytes(drive.capacity) }}</b> {{ drive.maker }} {{ drive.model }}
          <span class="mono small">{{ drive.serial }}</span>
          <span class="small muted">{{
            drive.port
              ? `on port ${drive.port} now`
              : drive.last_seen_at
                ? `last seen ${moment(drive.last_seen_at)}`
                : ''
          }}</span>
        </div>
      </section>
    </div>
    <template #foot>
      <SealedFoot v-if="sealed" :row="row()" :locked="locked" @break="breakSeal" />
      <template v-else>
        <span class="small muted">Nothing is written by sealing: it says what the next stations build on.</span>
        <button
          v-may="'technician'"
          type="button"
          class="btn go push"
          data-main
          :disabled="busy || !view"
          @click="stamp"
        >
          Seal the computer</button
        ><span class="key">Enter</span>
      </template>
    </template>
  </StationFrame>
  <Ledger title="What is known" :facts="facts" />
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 34px;
}
h3 {
  font-size: 15px;
  margin: 8px 0 10px;
}
section + section h3:not(:first-child) {
  margin-top: 24px;
}
fieldset {
  border: 0;
  padding: 0;
  margin: 0;
  display: grid;
  gap: 16px;
}
.causes {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px;
}
.causes label {
  display: flex;
  gap: 6px;
  align-items: center;
  white-space: nowrap;
  border: 1px solid var(--rule);
  border-radius: 7px;
  padding: 8px 10px;
  cursor: pointer;
}
.since {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
.since label:first-child {
  grid-column: 1 / -1;
}
.causes label.on {
  border-color: var(--ember);
  box-shadow: inset 0 0 0 1px var(--ember);
  font-weight: 650;
}
dl {
  display: grid;
  grid-template-columns: 116px 1fr;
  gap: 7px 10px;
  margin: 0;
  font-size: 14px;
}
dt {
  color: var(--ink2);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
.drive {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 8px;
  align-items: baseline;
  border-bottom: 1px solid var(--fold);
  padding: 8px 0;
}
.drive span:last-child {
  flex-basis: 100%;
}
</style>
