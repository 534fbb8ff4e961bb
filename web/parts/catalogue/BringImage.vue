<script setup lang="ts">
import Dialog from 'primevue/dialog'
import { computed, ref, watch } from 'vue'
import { api, errorText } from '../../api/client'
import type { Image, ImageTask, Shelf } from '../../api/types'
import { bytes } from '../../words/format'

/** Onto which other shelf an image is copied or moved, with the room there. */
const props = defineProps<{ image: Image }>()
const open = defineModel<boolean>('open', { required: true })
const emit = defineEmits<{ begun: [task: ImageTask] }>()
const shelves = ref<Shelf[]>([])
const shelf = ref<number | null>(null)
const kind = ref<'copy' | 'move'>('copy')
const error = ref('')
const needed = computed(() => props.image.file_bytes ?? 0)

const why = (one: Shelf) => {
  if (one.name === props.image.shelf) return 'it lies here'
  if (one.kind === 'web') return 'a web place takes no files'
  if (!one.reachable) return one.whereabouts
  if (one.free_bytes === null) return null
  return one.free_bytes < needed.value ? `lacks ${bytes(needed.value - one.free_bytes)}` : null
}

watch(open, async (now) => {
  if (!now) return
  error.value = ''
  shelves.value = await api.get<Shelf[]>('/shelves').catch((problem) => ((error.value = errorText(problem)), []))
  shelf.value = shelves.value.find((one) => !why(one))?.id ?? null
})

async function bring() {
  try {
    const body = { kind: kind.value, shelf_id: shelf.value }
    emit('begun', await api.post<ImageTask>(`/images/${props.image.id}/bring`, body))
    open.value = false
  } catch (problem) {
    error.value = errorText(problem)
  }
}
</script>

<template>
  <Dialog v-model:visible="open" modal header="To another shelf" :style="{ width: '500px' }">
    <form @submit.prevent="bring">
      <div class="list" role="radiogroup" aria-label="Onto which shelf">
        <label v-for="one in shelves" :key="one.id" :class="{ on: shelf === one.id, no: why(one) }">
          <input v-model="shelf" type="radio" name="onto" :value="one.id" :disabled="!!why(one)" />
          <b>{{ one.name }}</b>
          <span class="small muted">{{
            why(one) ??
            (one.free_bytes === null ? 'room is not known' : `${bytes(one.free_bytes - needed)} are left then`)
          }}</span>
        </label>
      </div>
      <div class="kind" role="radiogroup" aria-label="What becomes of the one here">
        <label><input v-model="kind" type="radio" value="copy" /> Copy it: it stays here too</label>
        <label
          ><input v-model="kind" type="radio" value="move" /> Move it: its files here are removed when they have
          arrived</label
        >
      </div>
      <p class="small muted">
        {{ needed ? `${bytes(needed)}. ` : '' }}Every byte is read back there, and held against what was read here.
      </p>
      <p v-if="error" class="message" role="alert">{{ error }}</p>
      <button type="submit" class="btn go" :disabled="shelf === null">
        {{ kind === 'copy' ? 'Copy it' : 'Move it' }}
      </button>
    </form>
  </Dialog>
</template>

<style scoped>
form,
.kind,
.list {
  display: grid;
  gap: 6px;
}
form {
  gap: 14px;
}
.list label {
  display: grid;
  grid-template-columns: 18px 120px minmax(0, 1fr);
  gap: 8px;
  align-items: center;
  border: 1px solid var(--rule);
  border-radius: 7px;
  padding: 6px 10px;
}
.list label.on {
  border-color: var(--ember);
  box-shadow: inset 0 0 0 1px var(--ember);
}
.list label.no {
  color: var(--ink2);
}
</style>
