<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, errorText } from '../../api/client'
import { useLive } from '../../api/live'
import type { Image, ImageTask } from '../../api/types'
import { bytes } from '../../words/format'
import { vMay } from '../../words/may'
import { percentOf } from '../../words/progress'
import Milestones from '../common/Milestones.vue'
import StandsStill from '../common/StandsStill.vue'
import BringImage from './BringImage.vue'
import ChangeImage from './ChangeImage.vue'
import GiveUp from './GiveUp.vue'

/** What keeps an image: bringing it to other shelves, making it whole, what is written on it, giving it up. */
const props = defineProps<{ image: Image }>()
const emit = defineEmits<{ changed: [image: Image] }>()
const bringing = ref(false)
const changing = ref(false)
const error = ref('')
const task = computed(() => props.image.task)
const running = computed(() => !!task.value && ['queued', 'running'].includes(task.value.state))
const STEPS = { copy: 'copied', check: 'read back there', remove: 'removed here', write: 'written' } as const
const WORDS = { copy: 'Copying it', move: 'Moving it', merge: 'Making it whole', index: 'Taking its names' } as const
const title = computed(
  () => task.value && `${WORDS[task.value.kind]}${task.value.shelf ? ` to ${task.value.shelf}` : ''}`,
)
const words = computed(() => {
  const one = task.value!
  if (one.state === 'failed') return one.error
  if (one.state === 'queued' || !one.step) return 'Waiting for its turn…'
  return one.total ? `${percentOf(one)} % of ${bytes(one.total)} ${STEPS[one.step]}` : STEPS[one.step]
})

const show = (next: ImageTask | null) => emit('changed', { ...props.image, task: next })

async function ask(request: () => Promise<ImageTask>) {
  error.value = ''
  try {
    show(await request())
  } catch (problem) {
    error.value = errorText(problem)
  }
}

useLive({
  image_task: (next) => {
    if (next.image_id === props.image.id) show(next)
  },
})
</script>

<template>
  <section aria-label="Keeping it" class="keep">
    <div v-if="task" class="small task" :class="{ message: task.state === 'failed' }">
      <b>{{ title }}</b>
      <span>{{ words }}</span>
      <span v-if="running" class="bar"><i :style="{ width: `${percentOf(task)}%` }" /></span>
      <Milestones :percent="percentOf(task)" :step="title ?? ''" :running="running" />
      <StandsStill :work="`image-task-${task.id}`" :running="task.state === 'running'" />
      <span class="acts">
        <button
          v-if="task.state === 'failed'"
          v-may="'technician'"
          type="button"
          class="btn slim"
          @click="ask(() => api.post(`/image-tasks/${task!.id}/go-on`))"
        >
          Go on
        </button>
        <button
          v-may="'technician'"
          type="button"
          class="btn slim"
          :disabled="task.stop_asked"
          @click="ask(() => api.post(`/image-tasks/${task!.id}/stop`))"
        >
          {{ task.stop_asked ? 'Stopping…' : 'Stop' }}
        </button>
      </span>
    </div>
    <p v-if="image.spare && !image.given_up" class="small muted">Could be given up: {{ image.spare }}.</p>
    <div v-if="!image.given_up" class="acts">
      <button
        v-if="!image.onto"
        v-may="'technician'"
        type="button"
        class="btn slim"
        :disabled="!image.reachable || running"
        @click="bringing = true"
      >
        Copy or move…
      </button>
      <button
        v-else
        v-may="'technician'"
        type="button"
        class="btn slim"
        :disabled="!image.reachable || running"
        title="It holds only what differs from the ones below it"
        @click="ask(() => api.post(`/images/${image.id}/merge`))"
      >
        Make it whole
      </button>
      <button v-may="'technician'" type="button" class="btn slim" @click="changing = true">Note, computer…</button>
      <GiveUp :image="image" @changed="emit('changed', $event)" />
    </div>
    <GiveUp v-else :image="image" @changed="emit('changed', $event)" />
    <p v-if="error" class="message" role="alert">{{ error }}</p>
    <BringImage v-model:open="bringing" :image="image" @begun="show" />
    <ChangeImage v-model:open="changing" :image="image" @changed="emit('changed', $event)" />
  </section>
</template>

<style scoped>
.keep,
.task {
  display: grid;
  gap: 8px;
}
.task {
  gap: 4px;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.bar {
  height: 8px;
  border-radius: 4px;
  background: var(--fold);
  overflow: hidden;
}
.bar i {
  display: block;
  height: 100%;
  background: var(--spruce);
}
</style>
