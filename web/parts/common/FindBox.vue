<script setup lang="ts">
import { ref, useTemplateRef } from 'vue'
import { useRouter } from 'vue-router'
import { api } from '../../api/client'
import type { Found } from '../../api/types'
import { useKeys } from '../../words/keys'

const router = useRouter()
const text = ref('')
const found = ref<Found[] | null>(null)
const chosen = ref(0)
const box = useTemplateRef<HTMLInputElement>('box')
let waiting: ReturnType<typeof setTimeout> | undefined

function search() {
  clearTimeout(waiting)
  waiting = setTimeout(look, 120)
}

async function look() {
  clearTimeout(waiting)
  waiting = undefined
  found.value = text.value.trim()
    ? await api.get<Found[]>(`/find?q=${encodeURIComponent(text.value)}`).catch(() => [])
    : null
  chosen.value = 0
}

/** Whoever types fast need not wait for the list. */
async function enter() {
  if (waiting !== undefined) await look()
  open(found.value?.[chosen.value])
}

function move(by: number) {
  const rows = found.value?.length ?? 0
  if (rows) chosen.value = (chosen.value + by + rows) % rows
}

function open(row: Found | undefined) {
  if (!row) return
  close()
  router.push(row.path)
}

function close() {
  text.value = ''
  found.value = null
  box.value?.blur()
}

useKeys({ '/': () => box.value?.focus() })
</script>

<template>
  <div class="find">
    <input
      ref="box"
      v-model="text"
      type="search"
      role="combobox"
      aria-label="Find a computer, image, disk"
      placeholder="Find a computer, image, disk"
      aria-controls="found"
      :aria-expanded="found !== null"
      autocomplete="off"
      @input="search"
      @keydown.down.prevent="move(1)"
      @keydown.up.prevent="move(-1)"
      @keydown.enter.prevent="enter"
      @keydown.esc="close"
    />
    <span class="key">/</span>
    <ul v-if="found" id="found" role="listbox" aria-label="Found">
      <li
        v-for="(row, index) in found"
        :key="row.kind + row.title"
        role="option"
        :aria-selected="index === chosen"
        @mousedown.prevent="open(row)"
      >
        <span class="small muted">{{ row.kind }}</span><b>{{ row.title }}</b
        ><span class="small muted">{{ row.detail }}</span>
      </li>
      <li v-if="!found.length" class="none" role="option" aria-selected="false">
        Nothing has “{{ text }}” in it. Try a computer’s name, a place or a shelf.
      </li>
    </ul>
  </div>
</template>

<style scoped>
.find {
  margin-left: auto;
  position: relative;
  width: 260px;
}
.find input {
  width: 100%;
  border: 1px solid var(--edge);
  background: var(--sheet);
  border-radius: 6px;
  padding: 5px 34px 5px 10px;
  color: var(--ink);
}
.find input::placeholder {
  color: var(--ink2);
}
.find .key {
  position: absolute;
  right: 9px;
  top: 8px;
  pointer-events: none;
}
ul {
  position: absolute;
  right: 0;
  top: 38px;
  width: 420px;
  z-index: 30;
  margin: 0;
  padding: 6px;
  list-style: none;
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-radius: 8px;
  box-shadow: 0 8px 24px rgb(0 0 0 / 14%);
}
li {
  display: grid;
  grid-template-columns: 56px 1fr;
  gap: 0 8px;
  padding: 7px 8px;
  border-radius: 6px;
  cursor: pointer;
  font-size: 14px;
}
li span:last-child {
  grid-column: 2;
}
li[aria-selected='true'] {
  background: var(--ember-l);
}
li.none {
  display: block;
  cursor: default;
}
</style>
