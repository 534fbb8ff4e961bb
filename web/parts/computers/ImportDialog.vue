<script setup lang="ts">
import Dialog from 'primevue/dialog'
import { computed, ref, shallowRef } from 'vue'
import { api, errorText } from '../../api/client'
import type { ComputerImport } from '../../api/types'
import { count } from '../../words/format'

/** Takes computers in from a table: first what would become of each row, then, by a word, that. */
const visible = defineModel<boolean>('visible', { required: true })
const LARGEST = 2 * 1024 * 1024
const NAMES = { new: 'new', changed: 'changed', same: 'as they are', refused: 'refused' } as const
const MARKS = { new: 'ok', changed: 'ask', refused: 'no', same: '' } as const
const text = ref('')
const name = ref('')
const told = shallowRef<ComputerImport | null>(null)
const done = ref(false)
const busy = ref(false)
const error = ref('')
const takes = computed(() => (told.value ? told.value.counts.new + told.value.counts.changed : 0))

/** Most tables are in UTF-8; others are in what office programs wrote before. */
function decoded(bytes: ArrayBuffer): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes)
  } catch {
    return new TextDecoder('windows-1252').decode(bytes)
  }
}

async function read(file: File | undefined) {
  if (!file) return
  error.value = ''
  told.value = null
  name.value = file.name
  if (file.size > LARGEST) {
    error.value = `${file.name} is too large: a table has at most 2 MiB and 5,000 rows. Give it in pieces.`
    return
  }
  text.value = decoded(await file.arrayBuffer())
  await ask(false)
}

async function ask(apply: boolean) {
  busy.value = true
  error.value = ''
  try {
    told.value = await api.post<ComputerImport>('/computers-import', { text: text.value, apply })
    done.value = apply
  } catch (problem) {
    error.value = errorText(problem)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <Dialog v-model:visible="visible" modal header="Take computers in from a table" :style="{ width: '860px' }">
    <div class="import">
      <label class="drop" @dragover.prevent @drop.prevent="read($event.dataTransfer?.files[0])">
        <b>{{ name || 'Drop a CSV file here, or choose one' }}</b>
        <span class="small muted"
          >Columns: name, place, owner, maker, model, serial, firmware and others, as in the table that leaves here. A
          field that is empty leaves what is written down.</span
        >
        <input
          type="file"
          accept=".csv,.txt,.tsv,text/csv"
          @change="read(($event.target as HTMLInputElement).files?.[0])"
        />
      </label>
      <p v-if="error" class="message" role="alert">{{ error }}</p>
      <template v-if="told">
        <p class="counts" role="status">
          <span v-for="(word, kind) in NAMES" :key="kind" class="chip" :class="told.counts[kind] ? MARKS[kind] : ''"
            >{{ count(told.counts[kind]) }} {{ word }}</span
          >
          <span v-if="told.unknown.length" class="small muted"
            >left out: {{ told.unknown.slice(0, 8).join(', ') }}{{ told.unknown.length > 8 ? '…' : '' }}</span
          >
        </p>
        <div v-if="told.rows.length" class="scroll rows" tabindex="0" aria-label="What becomes of each row">
          <table class="list">
            <thead>
              <tr>
                <th>Line</th>
                <th>Name</th>
                <th><span class="hidden-words">What becomes of it</span></th>
                <th>Why, or what changes</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="row in told.rows" :key="row.line">
                <td class="mono">{{ row.line }}</td>
                <td>{{ row.name }}</td>
                <td>
                  <span class="chip" :class="MARKS[row.what]">{{ row.what }}</span>
                </td>
                <td class="small">{{ row.why ?? row.changes }}</td>
              </tr>
            </tbody>
          </table>
        </div>
      </template>
      <div class="foot">
        <template v-if="done"
          ><b class="small">Taken over.</b
          ><button type="button" class="btn go push" @click="visible = false">Done</button></template
        >
        <button v-else type="button" class="btn go push" :disabled="busy || !takes" @click="ask(true)">
          {{ takes ? `Take over ${count(takes)}` : 'Take over' }}
        </button>
      </div>
    </div>
  </Dialog>
</template>

<style scoped>
.import {
  display: grid;
  gap: 12px;
}
.drop {
  display: grid;
  gap: 4px;
  justify-items: center;
  text-align: center;
  border: 2px dashed var(--edge);
  border-radius: 9px;
  padding: 18px;
  cursor: pointer;
}
.drop:focus-within {
  border-color: var(--focus);
}
.drop input {
  position: absolute;
  opacity: 0;
  width: 1px;
}
.counts {
  display: flex;
  gap: 8px;
  align-items: center;
}
.rows {
  max-height: 320px;
  border: 1px solid var(--rule);
  border-radius: 8px;
}
.foot {
  display: flex;
  align-items: center;
}
</style>
