<script setup lang="ts">
import { ref } from 'vue'
import { api, errorText } from '../../api/client'
import type { ChecklistItem } from '../../api/types'
import { moment } from '../../words/format'
import { vMay } from '../../words/may'

/** What is to be done at the real computer: ticked off, with notes and photos. */
const props = defineProps<{ items: ChecklistItem[]; docket: number; closed: boolean }>()
const emit = defineEmits<{ changed: [items: ChecklistItem[]] }>()
const open = ref<string | null>(null)
const note = ref('')
const error = ref('')
const path = (item: ChecklistItem) => `/dockets/${props.docket}/checklist/${item.id}`

async function change(request: () => Promise<ChecklistItem[]>) {
  error.value = ''
  try {
    emit('changed', await request())
  } catch (problem) {
    error.value = errorText(problem)
  }
}

const tick = (item: ChecklistItem) => change(() => api.put(path(item), { done: !item.done, note: item.note }))

function toggle(item: ChecklistItem) {
  open.value = open.value === item.id ? null : item.id
  note.value = item.note ?? ''
}

async function keep(item: ChecklistItem) {
  await change(() => api.put(path(item), { done: item.done, note: note.value }))
  open.value = null
}

function photo(item: ChecklistItem, event: Event) {
  const file = (event.target as HTMLInputElement).files?.[0]
  if (file) change(() => api.upload(`${path(item)}/photo`, file))
}
</script>

<template>
  <section class="checklist" aria-label="At the computer">
    <h3>
      At the computer <span class="muted">{{ items.filter((item) => item.done).length }} of {{ items.length }}</span>
    </h3>
    <p v-if="error" class="message" role="alert">{{ error }}</p>
    <ul>
      <li v-for="item in items" :key="item.id" :class="{ done: item.done }">
        <input
          :id="`tick-${item.id}`"
          v-may="'technician'"
          type="checkbox"
          :checked="item.done"
          :disabled="closed"
          @change="tick(item)"
        />
        <div>
          <label :for="`tick-${item.id}`">{{ item.title }}</label><small>{{ item.detail }}</small>
          <RouterLink
            v-if="item.drive_id && !item.done"
            class="small"
            :to="`/drives/${item.drive_id}/take?docket=${docket}&note=${encodeURIComponent('After the restore')}`"
            >Take it…</RouterLink
          >
          <small v-if="item.by" class="by"
            >{{ item.done ? 'Done' : 'Noted' }} by {{ item.by }}, {{ moment(item.at!)
            }}<template v-if="item.note">: {{ item.note }}</template>
            <a v-if="item.photo" :href="item.photo" target="_blank" rel="noopener">photo</a></small
          >
          <form v-if="open === item.id" @submit.prevent="keep(item)">
            <textarea v-model="note" rows="2" maxlength="1000" :aria-label="`Note on: ${item.title}`" />
            <div>
              <button type="submit" class="btn slim">Keep the note</button
              ><label class="btn slim"
                >Photo…<input
                  type="file"
                  accept="image/jpeg,image/png"
                  class="hidden-words"
                  @change="photo(item, $event)"
              /></label>
            </div>
          </form>
        </div>
        <button
          v-if="!closed"
          v-may="'technician'"
          type="button"
          class="more"
          :aria-label="`Note or photo: ${item.title}`"
          :aria-expanded="open === item.id"
          @click="toggle(item)"
        >
          +
        </button>
      </li>
    </ul>
  </section>
</template>

<style scoped>
h3 {
  font-size: 13px;
  font-weight: 700;
  color: var(--ink2);
  margin: 14px 0 4px;
}
h3 span {
  font-weight: 400;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 20px 1fr 22px;
  gap: 6px;
  padding: 6px 0;
  border-bottom: 1px solid var(--fold);
  font-size: 14px;
  line-height: 1.3;
  overflow-wrap: anywhere;
}
small {
  display: block;
  color: var(--ink2);
  font-size: 13px;
}
.done > div > label {
  text-decoration: line-through;
  color: var(--ink2);
}
.done > div > small:not(.by) {
  display: none;
}
.more {
  border: 0;
  background: none;
  color: var(--ink2);
  font-size: 17px;
  line-height: 1;
  cursor: pointer;
  height: 22px;
  padding: 0;
}
textarea {
  width: 100%;
  padding: 5px 8px;
  font-size: 13px;
}
form > div {
  display: flex;
  gap: 8px;
  margin-top: 4px;
}
</style>
