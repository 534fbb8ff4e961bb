<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import { api, errorText } from '../../api/client'
import { useLive } from '../../api/live'
import type { Whose } from '../../api/types'
import { moment } from '../../words/format'
import { vMay } from '../../words/may'

/** Images whose computer is not known, one disk at a time: which one it may be, and why. */
const emit = defineEmits<{ show: [image: number]; changed: [] }>()
const told = shallowRef<Whose | null>(null)
const at = ref(0)
const busy = ref(false)
const error = ref('')
const disk = computed(() => told.value?.disks[Math.min(at.value, told.value.disks.length - 1)])
const guess = computed(() => disk.value?.computers[0])

const load = () =>
  api
    .get<Whose>('/images-whose')
    .then((next) => (told.value = next))
    .catch(() => undefined)

async function say(computer_id: number | null) {
  busy.value = true
  error.value = ''
  await api
    .post(`/images/${disk.value!.image.id}/computer`, { computer_id })
    .then(() => emit('changed'))
    .catch((problem) => (error.value = errorText(problem)))
  await load()
  busy.value = false
}

useLive({ event: (event) => /^(computer|shelf_looked|image_owner)/.test(event.kind) && load(), back: load })
load()
</script>

<template>
  <div v-if="disk" class="whose message ask" role="group" aria-label="Images whose computer is not known">
    <div>
      <b>{{ told!.count === 1 ? 'One image is' : `${told!.count} images are` }} of a computer that is not known.</b>
      <button type="button" class="link" @click="emit('show', disk.image.id)">
        {{ moment(disk.image.taken_at) }}, {{ disk.image.shelf }}</button
      ><span v-if="disk.others" class="small"> and {{ disk.others }} more of the same disk</span
      ><template v-if="guess"
        >: perhaps <b>{{ guess.name }}</b> <span class="small">({{ guess.why.join('; ') }})</span></template
      >
      <span v-if="error" role="alert">{{ error }}</span>
    </div>
    <span class="hands">
      <button
        v-for="one in disk.computers"
        :key="one.id"
        v-may="'technician'"
        type="button"
        class="btn slim"
        :class="{ go: one === guess }"
        :title="one.why.join('; ')"
        :disabled="busy"
        @click="say(one.id)"
      >
        {{ one.name }}
      </button>
      <button v-may="'technician'" type="button" class="btn slim" :disabled="busy" @click="say(null)">
        None of ours
      </button>
      <button v-if="told!.disks.length > 1" type="button" class="btn slim" @click="at = (at + 1) % told!.disks.length">
        Another
      </button>
    </span>
  </div>
</template>

<style scoped>
.whose {
  display: flex;
  gap: 12px;
  align-items: center;
  justify-content: space-between;
  margin-bottom: 8px;
}
.hands {
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
  justify-content: end;
}
.link {
  border: 0;
  background: none;
  padding: 0;
  color: inherit;
  text-decoration: underline;
  cursor: pointer;
}
</style>
