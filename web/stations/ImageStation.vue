<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api } from '../api/client'
import { useLive } from '../api/live'
import type { CandidateImage, Docket, Image, ImageView, SourceDrive, Trial } from '../api/types'
import TimeLine from '../drawing/TimeLine.vue'
import DamageReport from '../parts/catalogue/DamageReport.vue'
import LockedImage from '../parts/catalogue/LockedImage.vue'
import SourceDrives from '../parts/catalogue/SourceDrives.vue'
import TryStart from '../parts/catalogue/TryStart.vue'
import Ledger from '../parts/dockets/Ledger.vue'
import OthersHere from '../parts/dockets/OthersHere.vue'
import SealedFoot from '../parts/dockets/SealedFoot.vue'
import StandsStill from '../parts/common/StandsStill.vue'
import StationFrame from '../parts/dockets/StationFrame.vue'
import { bytes, exact, moment, otherZone } from '../words/format'
import { insideOf, type HeldKind } from '../words/held'
import { progressWords, stateChip } from '../words/images'
import { useKeys } from '../words/keys'
import { choice, choosing } from './useOthers'
import { useStation } from './useStation'
import { vMay } from '../words/may'

const props = defineProps<{ docket: Docket }>()
const emit = defineEmits<{ sealed: [docket: Docket]; changed: [] }>()
const { view, error, busy, load, attempt, seal, breakSeal, row, locked } = useStation<ImageView>(
  'image',
  () => props.docket,
  emit,
)
const router = useRouter()
const line = useTemplateRef<InstanceType<typeof TimeLine>>('line')
const chosenId = ref<number | null>(null)
/** A drive that is restored from as it is, instead of an image. */
const driveId = ref<number | null>(null)
const reason = ref('')
const sealed = computed(() => row().state === 'sealed')
const images = computed(() => view.value?.images ?? [])
const chosen = computed(() => images.value.find((image) => image.id === chosenId.value) ?? null)
const drives = computed(() => view.value?.drives ?? [])
const drive = computed(() => drives.value.find((one) => one.id === driveId.value) ?? null)
const own = computed(() => images.value.filter((image) => image.own))
const shelves = computed(() => new Set(own.value.map((image) => image.shelf)).size)
const unusable = computed(() => chosen.value?.state === 'damaged' || chosen.value?.state === 'incomplete')
const sub = computed(() => {
  if (!view.value) return undefined
  const rest = view.value.of_others + images.value.length - own.value.length
  const found = `${own.value.length} image${own.value.length === 1 ? '' : 's'} of ${props.docket.computer}`
  return `${found} on ${shelves.value} ${shelves.value === 1 ? 'shelf' : 'shelves'} · ${rest} of other computers`
})

watch(view, (next) => {
  if (!next) return
  if (next.sealed_drive_id) return (driveId.value = next.sealed_drive_id)
  if (next.sealed_id) chosenId.value = next.sealed_id
  if (driveId.value) return
  // The best of its own; a twin or a stranger is chosen by nobody but a person.
  chosenId.value ??=
    next.images.find((image) => image.own && image.state !== 'damaged' && image.state !== 'incomplete')?.id ?? null
})

watch(driveId, async (id) => {
  if (!id) return
  chosenId.value = null
  // What there is to do with it takes room from the list.
  await nextTick()
  document.querySelector('tr.on')?.scrollIntoView({ block: 'nearest' })
})
watch(chosenId, (id) => id && (driveId.value = null))
watch([chosenId, sealed], ([id, done]) => (choice.value = id && !done ? `image-${id}` : null))

async function move(by: number) {
  if (sealed.value) return
  const at = images.value.findIndex((image) => image.id === chosenId.value)
  chosenId.value = images.value[Math.max(0, Math.min(images.value.length - 1, at + by))]?.id ?? null
  await nextTick()
  document.querySelector<HTMLInputElement>('tr.on input')?.focus()
}

async function check(image: CandidateImage) {
  await attempt(() => api.post<Image>(`/images/${image.id}/check${image.state === 'checking' ? '/pause' : ''}`))
  await load()
}

async function tryStart(one: CandidateImage | SourceDrive, kind: HeldKind) {
  const trial = await attempt(() => api.post<Trial>(`/${kind}/${one.id}/trial`))
  if (trial) one.trial = trial
}

/** Nothing can make up for what is wrong with it. */
const hopeless = (image: CandidateImage) => ['damaged', 'incomplete', 'checking'].includes(image.state)
const inside = (kind: HeldKind, id: number) => `${insideOf({ kind, id })}?docket=${props.docket.id}`
const checkWords = (image: CandidateImage) =>
  ({
    checking: 'Pause the check',
    paused: 'Go on checking',
    whole: 'Check it again',
    damaged: 'Check it again',
    incomplete: 'Check it',
    unchecked: 'Check it',
  })[image.state]

useLive({
  trial: (trial) => {
    const tried = [...images.value, ...drives.value].find((one) => one.trial?.id === trial.id)
    if (tried) tried.trial = trial
  },
  images: ({ checking }) => {
    for (const { id, progress } of checking) {
      const image = images.value.find((one) => one.id === id)
      if (image) Object.assign(image, { state: 'checking', progress })
    }
    if (images.value.some((image) => image.state === 'checking' && !checking.some((one) => one.id === image.id))) load()
  },
})
useKeys({
  arrowdown: () => move(1),
  arrowup: () => move(-1),
  '+': () => line.value?.by(2),
  '-': () => line.value?.by(0.5),
  l: () =>
    chosen.value
      ? router.push(inside('images', chosen.value.id))
      : drive.value && router.push(inside('drives', drive.value.id)),
})
</script>

<template>
  <StationFrame title="Choose what to restore" :sub="sub" :error="error" :loading="!view" fixed>
    <template v-if="images.length || drives.length">
      <TimeLine
        ref="line"
        :images="images"
        :since="view!.since"
        :noticed="view!.noticed"
        :chosen="chosenId"
        :locked="sealed"
        @choose="chosenId = $event"
      />
      <div class="rows scroll" tabindex="-1">
        <table class="list">
          <thead>
            <tr>
              <th><span class="hidden-words">Chosen</span></th>
              <th>Taken</th>
              <th>Computer</th>
              <th>State</th>
              <th class="right">Used</th>
              <th>Shelf</th>
              <th>Why</th>
            </tr>
          </thead>
          <tbody>
            <tr
              v-for="image in images"
              :key="image.id"
              :class="{ on: image.id === chosenId, stranger: !image.own }"
              @click="sealed || (chosenId = image.id)"
            >
              <td>
                <input
                  v-model="chosenId"
                  type="radio"
                  name="image"
                  :value="image.id"
                  :disabled="sealed"
                  :aria-label="`Image of ${image.computer}, ${moment(image.taken_at)}`"
                />
              </td>
              <td class="nowrap">
                <b>{{ moment(image.taken_at) }}</b> <OthersHere :people="choosing(`image-${image.id}`)" /><small
                  >{{ image.relation
                  }}<template v-if="otherZone(image.taken_as_written)">
                    · {{ otherZone(image.taken_as_written) }}</template
                  ></small
                >
              </td>
              <td>{{ image.computer ?? 'Unknown' }}<small v-if="image.kin === 'twin'">twin</small></td>
              <td>
                <span class="chip" :class="stateChip(image)[0]">{{ stateChip(image)[1] }}</span><small
                  v-if="image.state === 'checking'"
                  >{{ progressWords(image.progress) }}</small
                ><StandsStill
                  :work="`image-${image.id}`"
                  :running="image.state === 'checking' && image.progress !== null"
                />
              </td>
              <td class="right nowrap" :title="exact(image.used_bytes)">
                {{ image.used_bytes ? bytes(image.used_bytes) : '–' }}
              </td>
              <td>{{ image.shelf }}<small v-if="!image.reachable">away</small></td>
              <td>{{ image.why }}</td>
            </tr>
          </tbody>
          <SourceDrives v-if="drives.length" v-model="driveId" :drives="drives" :sealed="sealed" />
        </table>
      </div>
    </template>
    <div v-else-if="view" class="empty">
      <b>No image of {{ docket.computer }} is known yet</b>Plug in the drive that holds the images, or look through
      another place.<RouterLink class="btn" to="/images?shelves=1">To the shelves</RouterLink>
    </div>
    <DamageReport v-if="chosen" :image="chosen" />
    <LockedImage v-if="chosen?.lock && !chosen.lock.open" :key="chosen.id" :image="chosen" @changed="load" />
    <div v-if="chosen" class="acts">
      <RouterLink
        v-if="chosen.reachable && !chosen.provisional && chosen.state !== 'incomplete' && chosen.lock?.open !== false"
        class="btn"
        :to="inside('images', chosen.id)"
        >Look inside</RouterLink
      >
      <button
        v-may="'technician'"
        type="button"
        class="btn"
        :disabled="busy || !chosen.reachable || chosen.state === 'incomplete'"
        @click="check(chosen)"
      >
        {{ checkWords(chosen) }}
      </button>
      <TryStart
        :trial="chosen.trial"
        :disabled="busy || !chosen.reachable || unusable || chosen.provisional"
        @try="tryStart(chosen, 'images')"
        ><template v-if="chosen.provisional">It is packed: checking it unpacks it first</template
        ><template v-else-if="chosen.note">“{{ chosen.note }}”</template></TryStart
      >
    </div>
    <div v-if="drive" class="acts">
      <RouterLink class="btn" :to="inside('drives', drive.id)">Look inside</RouterLink>
      <RouterLink v-if="own[0]" class="btn" :to="`/drives/${drive.id}/compare/${own[0].id}`"
        >Lay beside the newest image</RouterLink
      >
      <RouterLink v-may="'technician'" class="btn" :to="`/drives/${drive.id}/take`">Take an image of it</RouterLink>
      <TryStart :trial="drive.trial" :disabled="busy" @try="tryStart(drive, 'drives')">&nbsp;</TryStart>
    </div>
    <label v-if="chosen && !sealed && chosen.needs_reason && !hopeless(chosen)" class="reason small"
      >Going on needs a reason: {{ chosen.needs_reason }}
      <input
        v-model="reason"
        maxlength="200"
        :placeholder="chosen.own && chosen.state !== 'whole' ? 'Better: check it' : 'Why it is the right one'"
    /></label>
    <label v-if="drive && !sealed && drive.needs_reason" class="reason small"
      >Going on needs a reason: {{ drive.needs_reason }}
      <input v-model="reason" maxlength="200" placeholder="Why it is the right one"
    /></label>
    <template #foot>
      <SealedFoot v-if="sealed" :row="row()" :locked="locked" @break="breakSeal" />
      <template v-else>
        <RouterLink class="btn" to="/images?shelves=1">Look for images elsewhere…</RouterLink>
        <button
          v-if="drive"
          type="button"
          v-may="'technician'"
          class="btn go push"
          data-main
          :disabled="busy || (!!drive.needs_reason && !reason.trim())"
          @click="seal({ drive_id: driveId, reason })"
        >
          Seal the drive in port {{ drive.port }} as the source
        </button>
        <button
          v-else
          type="button"
          v-may="'technician'"
          class="btn go push"
          data-main
          :disabled="
            busy ||
            !chosen ||
            !chosen.reachable ||
            unusable ||
            chosen.provisional ||
            chosen.lock?.open === false ||
            chosen.state === 'checking' ||
            (!!chosen.needs_reason && !reason.trim())
          "
          @click="seal({ image_id: chosenId, reason })"
        >
          Seal this image</button
        ><span class="key">Enter</span>
      </template>
    </template>
  </StationFrame>
  <Ledger
    :title="drive ? `Drive in port ${drive.port}` : chosen ? moment(chosen.taken_at) : 'Image'"
    :facts="drive?.facts ?? chosen?.facts ?? []"
    empty="Choose an image to see what speaks for and against it."
  />
</template>

<style scoped>
tr.on td {
  background: var(--ember-l);
}
tr.stranger td {
  color: var(--ink2);
}
tbody tr {
  cursor: pointer;
}
td small {
  display: block;
  color: var(--ink2);
  font-size: 13px;
}
.nowrap {
  white-space: nowrap;
}
.rows {
  flex: 1;
  min-height: 110px;
}
.acts {
  display: flex;
  gap: 10px;
  align-items: center;
  padding: 10px 0 8px;
}
.reason {
  display: flex;
  gap: 10px;
  align-items: center;
  color: var(--ochre-ink);
  padding-bottom: 8px;
}
.reason input {
  flex: 1;
  border: 1px solid var(--edge);
  border-radius: 6px;
  padding: 5px 8px;
  background: var(--field);
  color: var(--ink);
}
</style>
