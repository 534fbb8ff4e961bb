<script setup lang="ts">
import Dialog from 'primevue/dialog'
import { computed, ref } from 'vue'
import { api, errorText } from '../../api/client'
import type { DriveCard, DriveTask, TargetView } from '../../api/types'
import { files, lossWords, taskWords } from '../../words/drives'
import { bytes, count, moment } from '../../words/format'
import StandsStill from '../common/StandsStill.vue'
import TaskTold from './TaskTold.vue'
import { vMay } from '../../words/may'

/** What would be lost with a drive, as a list that can be opened, and saving it first. */
const props = defineProps<{
  drive: DriveCard
  docket: number
  shelves: NonNullable<TargetView['shelves']>
  sealed: boolean
}>()
const emit = defineEmits<{ changed: [] }>()
const open = defineModel<boolean>({ required: true })
const error = ref('')
const picked = ref<Record<string, boolean>>({})
const places = computed(() => props.shelves.filter((shelf) => shelf.drive_id !== props.drive.id))
const place = ref<number | ''>('')
const shelf = computed(() =>
  places.value.some((one) => one.id === place.value) ? place.value : (places.value[0]?.id ?? ''),
)
const found = computed(() => props.drive.loss.count?.result ?? null)
/** What a save could not take is shown for good. */
const unsaved = computed(() => props.drive.loss.saved.filter((task) => task.result?.missed?.length))
const busy = computed(() => props.drive.loss.saved.some((task) => ['queued', 'running'].includes(task.state)))
const key = (part: number, path: string) => `${part} ${path}`
const chosen = computed(() =>
  Object.entries(picked.value)
    .filter(([, on]) => on)
    .map(([name]) => name),
)
/** Part → paths, as the server wants them. */
const wanted = computed(() => {
  const parts: Record<string, string[]> = {}
  for (const name of chosen.value) {
    const [part, ...path] = name.split(' ')
    ;(parts[part!] ??= []).push(path.join(' '))
  }
  return parts
})

async function ask(path: string, body: object) {
  error.value = ''
  try {
    await api.post<DriveTask>(`/dockets/${props.docket}/${path}`, {
      drive_id: props.drive.id,
      shelf_id: shelf.value,
      ...body,
    })
    picked.value = {}
    emit('changed')
  } catch (problem) {
    error.value = errorText(problem)
  }
}

async function stop(task: DriveTask) {
  await api.post(`/tasks/${task.id}/stop`).catch((problem) => (error.value = errorText(problem)))
}
</script>

<template>
  <Dialog v-model:visible="open" modal :header="`What would be lost on port ${drive.port}`" :style="{ width: '760px' }">
    <p class="small">
      {{ lossWords(drive.loss) }}.
      <template v-if="drive.loss.image">
        The newest image of this very drive is from {{ moment(drive.loss.image.taken_at) }}, on
        {{ drive.loss.image.shelf }}.
      </template>
      <template v-else>No image of this very drive is known.</template>
    </p>
    <p v-if="found?.hosts.length" class="small">Systems on it: {{ found.hosts.join(', ') }}</p>
    <div class="volumes scroll">
      <details v-for="volume in found?.volumes" :key="volume.part" :open="!!volume.newer?.files">
        <summary>
          <b>{{ volume.name }}</b>
          <span class="muted small"
            >{{ volume.kind }}, {{ bytes(volume.used_bytes) }} used<template v-if="volume.problem">
              · {{ volume.problem }}</template
            ><template v-else>
              · {{ files(volume.files!) }},
              {{ volume.newer!.files ? `${count(volume.newer!.files)} newer` : 'none newer'
              }}<template v-if="volume.newest"> · the newest {{ moment(volume.newest.at) }}</template></template
            ></span
          >
        </summary>
        <template v-if="volume.newer?.files">
          <table class="list">
            <thead>
              <tr>
                <th><span class="hidden-words">Save</span></th>
                <th>Folder with newer files</th>
                <th class="right">Files</th>
                <th class="right">Size</th>
                <th>Newest</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="folder in volume.newer.folders.slice(0, 60)" :key="folder.path">
                <td>
                  <input
                    v-model="picked[key(volume.part, folder.path)]"
                    type="checkbox"
                    :aria-label="`Save ${folder.path}`"
                  />
                </td>
                <td class="mono">{{ folder.path }}</td>
                <td class="right">{{ count(folder.files) }}</td>
                <td class="right">{{ bytes(folder.bytes) }}</td>
                <td>{{ folder.newest ? moment(folder.newest) : '' }}</td>
              </tr>
            </tbody>
          </table>
          <details class="names">
            <summary class="small">The newest files by name</summary>
            <ul class="small">
              <li v-for="file in volume.newer.named.slice(0, 100)" :key="file.path">
                <label
                  ><input v-model="picked[key(volume.part, file.path)]" type="checkbox" />
                  <span class="mono">{{ file.path }}</span>
                  <span class="muted">{{ bytes(file.bytes) }}{{ file.at ? `, ${moment(file.at)}` : '' }}</span></label
                >
              </li>
            </ul>
          </details>
        </template>
        <details v-if="volume.unsaved?.files" class="names cannot">
          <summary class="small">
            {{ files(volume.unsaved.files) }}, {{ bytes(volume.unsaved.bytes) }}, cannot be saved from here
          </summary>
          <ul class="small">
            <li v-for="file in volume.unsaved.named" :key="file.path">
              <span class="mono">{{ file.path }}</span>
              <span class="muted">{{ bytes(file.bytes) }}, {{ file.note }}</span>
            </li>
          </ul>
        </details>
      </details>
    </div>
    <p v-for="task in drive.loss.saved" :key="task.id" class="small saved">
      {{ taskWords(task) }} <TaskTold :task="task" />
      <button v-if="task.state === 'running'" type="button" class="btn slim" @click="stop(task)">Stop</button>
      <StandsStill :work="`task-${task.id}`" :running="task.state === 'running'" />
    </p>
    <details v-for="task in unsaved" :key="`missed-${task.id}`" class="names cannot small">
      <summary>Not saved, or not whole: {{ task.result!.missed!.length }}</summary>
      <ul class="scroll">
        <li v-for="text in task.result!.missed" :key="text">{{ text }}</li>
      </ul>
    </details>
    <p v-if="error" class="message" role="alert">{{ error }}</p>
    <div v-if="!sealed" class="foot">
      <label class="field"
        >To shelf<select :value="shelf" @change="place = Number(($event.target as HTMLSelectElement).value)">
          <option v-if="!places.length" value="">no shelf is attached</option>
          <option v-for="one in places" :key="one.id" :value="one.id">
            {{ one.name }}{{ one.free_bytes !== null ? `, ${bytes(one.free_bytes)} free` : '' }}
          </option>
        </select></label
      >
      <button
        type="button"
        v-may="'technician'"
        class="btn"
        :disabled="busy || !shelf || !(found?.newer_files || chosen.length)"
        @click="ask('save', chosen.length ? { wanted } : {})"
      >
        {{ chosen.length ? `Save the ${chosen.length} chosen` : 'Save what is newer' }}
      </button>
      <RouterLink
        v-if="drive.parts.length"
        class="btn"
        :to="`/drives/${drive.id}/take?docket=${docket}&note=${encodeURIComponent('Before it was overwritten')}`"
        >Take an image of the drive…</RouterLink
      >
    </div>
  </Dialog>
</template>

<style scoped>
p {
  margin-bottom: 6px;
}
.volumes {
  max-height: 330px;
  border-top: 1px solid var(--rule);
  border-bottom: 1px solid var(--rule);
  padding: 4px 0;
}
summary {
  cursor: pointer;
  padding: 5px 0;
}
.names {
  padding-left: 8px;
}
.cannot summary {
  color: var(--ochre-ink);
}
.cannot ul {
  max-height: 110px;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li,
td.mono {
  overflow-wrap: anywhere;
}
.saved {
  margin: 8px 0 0;
  overflow-wrap: anywhere;
}
.foot {
  display: flex;
  gap: 10px;
  align-items: end;
  margin-top: 12px;
}
.foot .field {
  flex: 1;
}
</style>
