<script setup lang="ts">
import { onScopeDispose, ref, shallowRef, watch } from 'vue'
import { api } from '../../api/client'
import type { ComputerPage } from '../../api/types'
import type { Picked } from './picked'

/** One of however many computers, found by typing. */
const props = defineProps<{ label: string; but?: number; knownOnly?: boolean }>()
const chosen = defineModel<Picked | null>({ required: true })
const emit = defineEmits<{ unknown: [name: string] }>()
const SHOWN = 8
const words = ref('')
const page = shallowRef<ComputerPage | null>(null)
const at = ref(0)
/** The words that the list is of: whoever types faster than it comes chooses from the next one. */
let listed: string | null = null
let timer = 0

async function find() {
  const asked = words.value
  const query = new URLSearchParams({ q: words.value, count: String(SHOWN + 1) })
  const found = await api.get<ComputerPage>(`/computers?${query}`).catch(() => null)
  if (!found || asked !== words.value) return
  listed = asked
  page.value = { ...found, computers: found.computers.filter((one) => one.id !== props.but).slice(0, SHOWN) }
  at.value = 0
}

function choose(row: Picked | undefined) {
  if (row) chosen.value = row
}

async function chooseTyped() {
  if (listed !== words.value) await find()
  if (listed === words.value) choose(page.value?.computers[at.value])
}

function move(by: number) {
  const last = (page.value?.computers.length ?? 1) - 1
  at.value = Math.min(Math.max(at.value + by, 0), last)
}

watch(words, () => {
  clearTimeout(timer)
  timer = window.setTimeout(find, 150)
})
onScopeDispose(() => clearTimeout(timer))
find()
</script>

<template>
  <div class="picker">
    <div v-if="chosen" class="chosen">
      <span class="small muted">{{ label }}</span>
      <b>{{ chosen.name }}</b> <span class="muted">{{ chosen.place }}</span>
      <button type="button" class="btn slim push" @click="chosen = null">Another…</button>
    </div>
    <template v-else>
      <label class="field"
        >{{ label
        }}<input
          v-model="words"
          type="search"
          role="combobox"
          aria-expanded="true"
          aria-controls="found-computers"
          :aria-activedescendant="page?.computers[at] ? `computer-${page.computers[at]!.id}` : undefined"
          autofocus
          placeholder="Name, place, model, serial number"
          @keydown.down.prevent="move(1)"
          @keydown.up.prevent="move(-1)"
          @keydown.enter.prevent="chooseTyped"
      /></label>
      <ul id="found-computers" role="listbox" :aria-label="label">
        <li
          v-for="(one, index) in page?.computers"
          :id="`computer-${one.id}`"
          :key="one.id"
          role="option"
          :aria-selected="index === at"
          :class="{ at: index === at }"
          @click="choose(one)"
        >
          <b>{{ one.name }}</b>
          <span class="muted small">{{ [one.place, one.model].filter(Boolean).join(' · ') }}</span>
        </li>
      </ul>
      <p v-if="page && !page.computers.length" class="small muted">
        {{ words ? `No computer with “${words}”.` : 'No computer is known yet.' }}
      </p>
      <button v-if="!knownOnly" type="button" class="btn slim" @click="emit('unknown', words)">
        It is not known here: register it…
      </button>
    </template>
  </div>
</template>

<style scoped>
.picker {
  display: grid;
  gap: 8px;
  justify-items: start;
}
.picker .field,
.chosen,
ul {
  width: 100%;
}
.chosen {
  display: flex;
  align-items: baseline;
  gap: 8px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  border: 1px solid var(--rule);
  border-radius: 7px;
}
ul:empty {
  display: none;
}
li {
  padding: 5px 10px;
  cursor: pointer;
}
li.at,
li:hover {
  background: var(--fold);
}
</style>
