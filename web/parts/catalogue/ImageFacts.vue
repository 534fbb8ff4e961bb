<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, errorText } from '../../api/client'
import type { Image, Trial } from '../../api/types'
import Core from '../../drawing/Core.vue'
import { bytes, count, exact, moment, otherZone } from '../../words/format'
import { partName, progressWords, stateChip } from '../../words/images'
import { percentOf } from '../../words/progress'
import Milestones from '../common/Milestones.vue'
import ComputerDialog from '../computers/ComputerDialog.vue'
import DamageReport from './DamageReport.vue'
import KeepImage from './KeepImage.vue'
import LockedImage from './LockedImage.vue'
import StandsStill from '../common/StandsStill.vue'
import { vMay } from '../../words/may'

/** All there is to know of one image, and what can be done with it. */
const props = defineProps<{ image: Image }>()
const emit = defineEmits<{ changed: [image: Image] }>()
const router = useRouter()
const error = ref('')
const other = ref<number | ''>('')
/** Somebody says whose it is. */
const owning = ref(false)
const readable = computed(
  () =>
    props.image.reachable &&
    !props.image.provisional &&
    props.image.state !== 'incomplete' &&
    !(props.image.lock && !props.image.lock.open),
)
const running = computed(() => !!props.image.trial && props.image.trial.state !== 'done')
/** What a map calls free, largest first. */
const absent = computed(() =>
  props.image.left_out
    .filter((one) => one.map !== 'left out by choice')
    .map((one) => ({ ...one, where: one.part === null ? 'outside of the parts' : `of ${nameOf(one.part)}` }))
    .sort((one, two) => two.bytes - one.bytes),
)
const nameOf = (number: number) => {
  const found = props.image.parts.find((one) => one.number === number)
  return found ? partName(found) : `part ${number}`
}
const host = computed(() =>
  props.image.systems
    .map((system) => [system.host, system.name].filter(Boolean).join(', '))
    .filter(Boolean)
    .join('; '),
)

async function ask(path: string, body = {}) {
  error.value = ''
  try {
    const answer = await api.post<Image | Trial>(`/images/${props.image.id}/${path}`, body)
    emit('changed', path === 'trial' ? { ...props.image, trial: answer as Trial } : (answer as Image))
  } catch (problem) {
    error.value = errorText(problem)
  }
}
</script>

<template>
  <h2>{{ image.computer ?? 'Unknown computer' }}, {{ moment(image.taken_at) }}</h2>
  <p class="state">
    <span class="chip" :class="stateChip(image)[0]">{{ stateChip(image)[1] }}</span><span
      v-if="image.state === 'checking' || image.state === 'paused'"
      class="small"
      >{{ progressWords(image.progress) }}</span
    ><span v-else-if="otherZone(image.taken_as_written)" class="small muted"
      >taken at {{ otherZone(image.taken_as_written) }}</span
    >
  </p>
  <Milestones
    :percent="percentOf(image.progress)"
    :step="image.state === 'checking' ? 'The image is being checked' : `The image: ${stateChip(image)[1]}`"
    :running="image.state === 'checking'"
  />
  <StandsStill :work="`image-${image.id}`" :running="image.state === 'checking' && image.progress !== null" />
  <LockedImage v-if="image.lock" :image="image" @changed="emit('changed', $event)" />
  <p v-if="image.note" class="small">“{{ image.note }}”</p>
  <div v-if="image.parts.length" class="drawn">
    <Core
      :parts="image.parts"
      :size="image.size_bytes"
      :width="46"
      :height="Math.max(150, Math.min(230, image.parts.length * 44))"
    />
    <ul>
      <li v-for="part in image.parts" :key="part.number ?? 0">
        <b>{{ partName(part) }}</b><span class="small muted"
          >{{ bytes(part.size_bytes) }} · {{ part.volume.kind
          }}<template v-if="!image.provisional"
            >, {{ bytes(part.volume.used_bytes) }} {{ part.volume.doubts ? 'kept' : 'used' }}</template
          ></span
        >
      </li>
    </ul>
  </div>
  <DamageReport :image="image" open />
  <ul v-if="image.check.notes.length" class="notes small">
    <li v-for="note in image.check.notes" :key="note">{{ note }}</li>
  </ul>
  <dl>
    <dt>Disk</dt>
    <dd :title="exact(image.size_bytes)">
      {{ bytes(image.size_bytes) }}<template v-if="image.table">, {{ image.table.toUpperCase() }}</template
      ><template v-if="image.drive.maker">, {{ image.drive.maker }} {{ image.drive.model }}</template>
    </dd>
    <template v-if="absent.length"
      ><dt>Left out</dt>
      <dd>
        <details>
          <summary>{{ bytes(absent.reduce((sum, one) => sum + one.bytes, 0)) }} of free room</summary>
          <span v-for="(one, index) in absent" :key="index" class="absent"
            >{{ bytes(one.bytes) }} {{ one.where }}, <span class="muted">by {{ one.map }}</span></span
          >
        </details>
      </dd></template
    >
    <template v-if="host"
      ><dt>System</dt>
      <dd>{{ host }}</dd></template
    >
    <dt>Format</dt>
    <dd>
      {{ image.format }}<template v-if="image.clusters">, {{ count(image.clusters) }} clusters in use</template>
    </dd>
    <dt>Where</dt>
    <dd>
      {{ image.whereabouts }}<br /><span class="mono">{{ image.path }}</span
      ><template v-if="image.members.length > 1"
        ><br /><span class="muted"
          >with {{ image.members.length - 1 }} more file{{ image.members.length > 2 ? 's' : '' }}</span
        ></template
      >
    </dd>
    <template v-if="image.by_file_date"
      ><dt>Taken</dt>
      <dd>By the date of its file: nothing inside says when</dd></template
    >
  </dl>
  <p v-if="error" class="message" role="alert">{{ error }}</p>
  <p v-if="!image.computer_id && readable" class="message ask whose">
    It is not known whose it is.<button v-may="'technician'" type="button" class="btn slim" @click="owning = true">
      Say whose…
    </button>
  </p>
  <ComputerDialog
    v-if="owning"
    v-model:visible="owning"
    :from="{ kind: 'image', id: image.id }"
    @kept="(made) => ask('computer', { computer_id: made.id })"
    @same="(id) => ask('computer', { computer_id: id })"
  />
  <div class="acts">
    <RouterLink v-if="readable" class="btn slim" :to="`/images/${image.id}/inside`">Look inside</RouterLink>
    <button
      v-may="'technician'"
      v-if="image.state === 'checking'"
      type="button"
      class="btn slim"
      @click="ask('check/pause')"
    >
      Pause the check
    </button>
    <button
      v-else
      type="button"
      v-may="'technician'"
      class="btn slim"
      :disabled="!image.reachable || image.state === 'incomplete'"
      @click="ask('check')"
    >
      {{ image.state === 'paused' ? 'Go on checking' : image.checked_at ? 'Check it again' : 'Check it' }}
    </button>
    <button v-may="'technician'" type="button" class="btn slim" :disabled="running || !readable" @click="ask('trial')">
      {{ running ? `Starting… ${Math.round(image.trial?.seconds ?? 0)} s` : 'Try starting it' }}
    </button>
    <RouterLink v-if="readable" class="btn slim" :to="`/images/${image.id}/run`">Onto many drives…</RouterLink>
  </div>
  <KeepImage :image="image" @changed="emit('changed', $event)" />
  <label v-if="readable && image.twins.length" class="field"
    >Lay it beside
    <select v-model="other" @change="other && router.push(`/images/${image.id}/compare/${other}`)">
      <option value="" disabled>another image of {{ image.computer }}…</option>
      <option v-for="one in image.twins" :key="one.id" :value="one.id">{{ moment(one.taken_at) }}</option>
    </select>
  </label>
  <a
    v-if="image.trial?.picture && !running"
    class="shot small"
    :href="image.trial.picture"
    target="_blank"
    rel="noopener"
    ><img :src="image.trial.picture" :alt="`Screen of the trial start: ${image.trial.message}`" />{{
      image.trial.message
    }}</a
  >
</template>

<style scoped>
.whose {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 10px;
}
h2 {
  font-size: 15px;
}
.state {
  display: flex;
  gap: 8px;
  align-items: center;
}
.drawn {
  display: grid;
  grid-template-columns: 46px 1fr;
  gap: 16px;
}
.drawn ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  align-content: space-around;
}
li b {
  display: block;
}
.notes {
  margin: 0;
  padding-left: 18px;
  color: var(--ochre-ink);
}
.notes li::first-letter {
  text-transform: uppercase;
}
dl {
  display: grid;
  grid-template-columns: 62px 1fr;
  gap: 5px 10px;
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
.absent {
  display: block;
  font-size: 13px;
}
summary {
  cursor: pointer;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.shot {
  display: grid;
  gap: 6px;
}
.shot img {
  width: 100%;
  border-radius: 6px;
  border: 1px solid var(--rule);
}
</style>
