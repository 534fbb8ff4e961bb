<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { api } from '../api/client'
import { useLive } from '../api/live'
import type { CandidateImage, Docket, ImageView, Trial } from '../api/types'
import Core from '../drawing/Core.vue'
import Ledger from '../parts/Ledger.vue'
import SealedFoot from '../parts/SealedFoot.vue'
import StationFrame from '../parts/StationFrame.vue'
import { bytes, exact, moment, otherZone } from '../words/format'
import { imageStates as states } from '../words/images'
import { useKeys } from '../words/keys'
import { useStation } from './useStation'

const props = defineProps<{ docket: Docket }>()
const emit = defineEmits<{ sealed: [docket: Docket]; changed: [] }>()
const { view, error, busy, load, attempt, seal, breakSeal, row, locked } = useStation<ImageView>('image', () => props.docket, emit)
const chosenId = ref<number | null>(null)
const reason = ref('')
const sealed = computed(() => row().state === 'sealed')
const images = computed(() => view.value?.images ?? [])
const chosen = computed(() => images.value.find((image) => image.id === chosenId.value) ?? null)
/** Why sealing this image needs a reason. */
const unusual = computed(() => {
  if (!chosen.value?.own) return 'An image of another computer needs a reason'
  return chosen.value.state === 'unchecked' ? 'Going on without the check needs a reason' : null
})
const own = computed(() => images.value.filter((image) => image.own).length)

watch(view, (next) => {
  if (!next) return
  if (next.sealed_id) chosenId.value = next.sealed_id
  chosenId.value ??= next.images.find((image) => image.own && image.state !== 'damaged')?.id ?? null
})

async function move(by: number) {
  if (sealed.value) return
  const at = images.value.findIndex((image) => image.id === chosenId.value)
  chosenId.value = images.value[Math.max(0, Math.min(images.value.length - 1, at + by))]?.id ?? null
  await nextTick()
  document.querySelector<HTMLInputElement>('tr.on input')?.focus()
}

async function check(image: CandidateImage) {
  await attempt(() => api.post(`/images/${image.id}/check`))
  await load()
}

async function tryStart(image: CandidateImage) {
  const trial = await attempt(() => api.post<Trial>(`/dockets/${props.docket.id}/trial`, { image_id: image.id }))
  if (trial) image.trial = trial
}

const running = (image: CandidateImage | null) => image?.trial && image.trial.state !== 'done'
useLive({ trial: (trial) => {
  const image = images.value.find((one) => one.trial?.id === trial.id)
  if (image) image.trial = trial
}, images: load })
useKeys({ arrowdown: () => move(1), arrowup: () => move(-1) })
</script>

<template>
  <StationFrame title="Choose what to restore" :sub="view ? `${own} image${own === 1 ? '' : 's'} of ${docket.computer} · ${view.of_others} of other computers` : undefined" :error="error" :loading="!view">
    <table v-if="images.length" class="list">
      <thead><tr><th><span class="hidden-words">Chosen</span></th><th>Taken</th><th>Computer</th><th>State</th><th class="right">Used</th><th>Shelf</th><th>Why</th></tr></thead>
      <tbody>
        <tr v-for="image in images" :key="image.id" :class="{ on: image.id === chosenId }" @click="sealed || (chosenId = image.id)">
          <td><input v-model="chosenId" type="radio" name="image" :value="image.id" :disabled="sealed" :aria-label="`Image of ${image.computer}, ${moment(image.taken_at)}`"></td>
          <td><b>{{ moment(image.taken_at) }}</b><small>{{ image.relation }}<template v-if="otherZone(image.taken_as_written)"> · {{ otherZone(image.taken_as_written) }}</template></small></td>
          <td>{{ image.computer ?? 'Unknown' }}</td>
          <td><span class="chip" :class="states[image.state][0]">{{ states[image.state][1] }}</span></td>
          <td class="right" :title="exact(image.used_bytes)">{{ bytes(image.used_bytes) }}</td>
          <td>{{ image.shelf }}<small v-if="!image.reachable">not attached</small></td>
          <td>{{ image.why }}</td>
        </tr>
      </tbody>
    </table>
    <div v-else-if="view" class="empty"><b>No image is known yet</b>Plug in the drive that holds the images, then look through its shelf.<RouterLink class="btn" to="/images">To the shelves</RouterLink></div>
    <div v-if="chosen" class="inside">
      <Core :parts="chosen.parts" :size="chosen.size_bytes" :width="34" :height="150" :label="`Image of ${chosen.computer}`" />
      <table class="list parts">
        <thead><tr><th>Part</th><th>Holds</th><th class="right">Size</th><th class="right">Used</th></tr></thead>
        <tbody>
          <tr v-for="part in chosen.parts" :key="part.number ?? 0">
            <td>{{ part.number }} · {{ part.name }}</td><td>{{ part.volume.kind }}<template v-if="part.volume.label"> “{{ part.volume.label }}”</template></td>
            <td class="right" :title="exact(part.size_bytes)">{{ bytes(part.size_bytes) }}</td><td class="right" :title="exact(part.volume.used_bytes)">{{ bytes(part.volume.used_bytes) }}</td>
          </tr>
        </tbody>
      </table>
      <div class="about">
        <p v-if="chosen.note">“{{ chosen.note }}”</p>
        <p v-if="running(chosen)" role="status" class="small">Starting in the emulator… {{ Math.round(chosen.trial?.seconds ?? 0) }} s</p>
        <a v-else-if="chosen.trial?.picture" :href="chosen.trial.picture" target="_blank" rel="noopener"><img :src="chosen.trial.picture" :alt="`Screen of the trial start: ${chosen.trial.message}`"></a>
        <p v-else class="small muted">Starting it in the emulator writes to no disk and takes about 20 s.</p>
        <p v-if="chosen.trial?.state === 'done'" class="small">{{ chosen.trial.message }}</p>
      </div>
    </div>
    <label v-if="chosen && !sealed && unusual" class="reason small">{{ unusual }} <input v-model="reason" maxlength="200" :placeholder="chosen.own ? 'Better: check it' : 'Why it is the right one'"></label>
    <template #foot>
      <SealedFoot v-if="sealed" :row="row()" :locked="locked" @break="breakSeal" />
      <template v-else>
        <button type="button" class="btn" :disabled="!chosen || chosen.state === 'checking'" @click="chosen && check(chosen)">{{ chosen?.state === 'whole' ? 'Check it again' : chosen?.state === 'checking' ? 'Being checked…' : 'Check it' }}</button>
        <button type="button" class="btn" :disabled="!chosen || !!running(chosen)" @click="chosen && tryStart(chosen)">Try starting it</button>
        <button type="button" class="btn go push" data-main :disabled="busy || !chosen || chosen.state === 'damaged' || chosen.state === 'checking' || (unusual !== null && !reason.trim())" @click="seal({ image_id: chosenId, reason })">Seal this image</button><span class="key">Enter</span>
      </template>
    </template>
  </StationFrame>
  <Ledger :title="chosen ? moment(chosen.taken_at) : 'Image'" :facts="chosen?.facts ?? []" empty="Choose an image to see what speaks for and against it." />
</template>

<style scoped>
tr.on td { background: var(--ember-l); }
tbody tr { cursor: pointer; }
td small { display: block; color: var(--ink2); font-size: 13px; }
.inside { display: grid; grid-template-columns: 34px 1fr 220px; gap: 18px; margin-top: 18px; align-items: start; }
.parts { font-size: 13px; }
.parts tr { cursor: default; }
.about { display: grid; gap: 8px; font-size: 14px; }
.about img { width: 100%; border-radius: 6px; display: block; border: 1px solid var(--rule); }
.reason { display: flex; gap: 10px; align-items: center; margin-top: 14px; color: var(--ochre-ink); }
.reason input { flex: 1; border: 1px solid var(--edge); border-radius: 6px; padding: 5px 8px; background: var(--field); color: var(--ink); }
</style>
