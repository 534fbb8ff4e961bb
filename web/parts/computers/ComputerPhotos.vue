<script setup lang="ts">
import { ref } from 'vue'
import { api, errorText } from '../../api/client'
import type { ComputerAbout } from '../../api/types'
import { moment } from '../../words/format'
import { vMay } from '../../words/may'

/** Photos of a computer's label and its inside, for the next colleague. */
const props = defineProps<{ computer: ComputerAbout }>()
const emit = defineEmits<{ changed: [] }>()
const OF = { label: 'Its label', inside: 'Its inside', other: 'It' } as const
const of = ref<keyof typeof OF>('label')
const busy = ref(false)
const error = ref('')

async function attempt(request: () => Promise<unknown>) {
  busy.value = true
  error.value = ''
  await request().catch((problem) => (error.value = errorText(problem)))
  busy.value = false
  emit('changed')
}

function add(event: Event) {
  const field = event.target as HTMLInputElement
  const file = field.files?.[0]
  if (file) attempt(() => api.upload(`/computers/${props.computer.id}/photos?of=${of.value}`, file, 'POST'))
  field.value = ''
}
</script>

<template>
  <section aria-label="Photos">
    <h2>Photos</h2>
    <ul v-if="computer.photos.length">
      <li v-for="one in computer.photos" :key="one.id">
        <a v-if="one.here" :href="one.path" target="_blank" rel="noopener"
          ><img :src="one.path" :alt="`${OF[one.of]}, ${moment(one.at)}`" loading="lazy"
        /></a>
        <span class="small muted">{{ OF[one.of] }} · {{ one.by }}, {{ moment(one.at) }}</span>
        <button
          v-may="'technician'"
          type="button"
          class="btn slim"
          :disabled="busy"
          :aria-label="`Take the photo of ${moment(one.at)} away`"
          @click="attempt(() => api.delete(`/computers/${computer.id}/photos/${one.id}`))"
        >
          ×
        </button>
      </li>
    </ul>
    <p v-if="error" class="message" role="alert">{{ error }}</p>
    <div class="add">
      <select v-model="of" aria-label="What the photo shows">
        <option v-for="(word, key) in OF" :key="key" :value="key">{{ word }}</option>
      </select>
      <label class="btn slim"
        >{{ busy ? 'One moment…' : 'Add a photo…'
        }}<input
          v-may="'technician'"
          class="hidden-words"
          type="file"
          accept="image/jpeg,image/png"
          capture="environment"
          :disabled="busy"
          @change="add"
      /></label>
    </div>
  </section>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0 0 10px;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
}
li {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 4px;
  align-items: center;
  width: 180px;
}
li a {
  grid-column: 1 / -1;
}
img {
  width: 180px;
  height: 120px;
  object-fit: cover;
  border-radius: 7px;
  border: 1px solid var(--rule);
  display: block;
}
.add {
  display: flex;
  gap: 8px;
}
</style>
