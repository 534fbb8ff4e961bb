<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, errorText } from '../api/client'
import { useLive } from '../api/live'
import type { Taking, TakingSheet } from '../api/types'
import Ledger from '../parts/dockets/Ledger.vue'
import StationFrame from '../parts/dockets/StationFrame.vue'
import { choiceWords, forecast, roomOn, temporaryFiles, type Choice } from '../parts/takings/forecast'
import TakeHow from '../parts/takings/TakeHow.vue'
import TakeParts from '../parts/takings/TakeParts.vue'
import TakeWhere from '../parts/takings/TakeWhere.vue'
import { bytes, count, moment } from '../words/format'
import { pressMain, useKeys } from '../words/keys'
import { vMay } from '../words/may'

/** The sheet on which an image of a drive is asked for: what, where and how, each with its consequence. */
const props = defineProps<{ id: string }>()
const route = useRoute()
const router = useRouter()
const sheet = ref<TakingSheet | null>(null)
const error = ref('')
const busy = ref(false)
const choice = ref<Choice>({ parts: null, temporary: true, level: 'balanced', checked: true, shelf: null })
/** A failing drive is read in passes. */
const salvage = ref(false)
const retries = ref(1)
const hours = ref('')
/** What opens the image, typed twice: it is kept nowhere. */
const passphrase = ref('')
const again = ref('')
const differs = computed(() => passphrase.value !== '' && passphrase.value !== again.value)
/** Only what changed since an image of this drive, on the same shelf. */
const onto = ref<number | null>(null)
const bases = computed(() => sheet.value?.bases.filter((one) => one.shelf_id === choice.value.shelf) ?? [])
/** Of a salvage: the image that lacks places, of which all else is taken over. */
const fills = ref<number | null>(null)
const note = ref(String(route.query.note ?? ''))
const docket = computed(() => (route.query.docket ? Number(route.query.docket) : null))
const expected = computed(() => sheet.value && forecast(sheet.value, choice.value))
const temporary = computed(() => (sheet.value ? temporaryFiles(sheet.value, choice.value.parts) : []))
const shelf = computed(() => sheet.value?.shelves.find((one) => one.id === choice.value.shelf) ?? null)
const room = computed(() => shelf.value && roomOn(shelf.value, expected.value))
const open = computed(() => sheet.value?.takings.find((one) => ['queued', 'running'].includes(one.state)) ?? null)
const ready = computed(
  () =>
    !differs.value &&
    !busy.value &&
    !!sheet.value?.attached &&
    !open.value &&
    !!room.value &&
    room.value[0] !== 'no' &&
    choice.value.parts?.length !== 0,
)
const sub = computed(() => {
  const drive = sheet.value?.drive
  if (!drive) return undefined
  const name = `${drive.maker ?? ''} ${drive.model ?? ''}`.trim()
  const where = drive.port ? `in port ${drive.port}` : 'not attached'
  return [drive.computer ?? drive.hosts[0], name, bytes(drive.capacity), where].filter(Boolean).join(' · ')
})
/** A system without what starts it cannot be started. */
const startless = computed(() => {
  const { parts } = choice.value
  if (!parts || !sheet.value) return false
  return sheet.value.parts.some(
    (part) => parts.includes(part.number!) && part.with_it.some((number) => !parts.includes(number)),
  )
})
const facts = computed(() => [
  ...(startless.value
    ? [
        {
          id: 'startless',
          state: 'ask' as const,
          title: 'It cannot start by itself',
          detail: 'The part from which it starts is left out',
        },
      ]
    : []),
  ...(shelf.value && room.value && room.value[0] === 'ask'
    ? [{ id: 'room', state: 'ask' as const, title: `Shelf ${shelf.value.name}`, detail: room.value[1] }]
    : []),
  ...(choice.value.checked
    ? []
    : [
        {
          id: 'unchecked',
          state: 'ask' as const,
          title: 'It is not checked',
          detail: 'An image that was never checked is worth nothing on the bad day',
        },
      ]),
  ...(sheet.value?.facts ?? []),
])

async function load() {
  const first = !sheet.value
  try {
    sheet.value = await api.get<TakingSheet>(`/drives/${props.id}/taking`)
    if (first) salvage.value = sheet.value.fails
    choice.value.shelf ??= sheet.value.shelves.find((one) => one.state === 'ok')?.id ?? null
    if (sheet.value.attached && !sheet.value.measure) await measure()
  } catch (problem) {
    error.value = errorText(problem)
  }
}

async function measure() {
  await api.post(`/drives/${props.id}/measure`)
  sheet.value = await api.get<TakingSheet>(`/drives/${props.id}/taking`)
}

async function begin() {
  if (!ready.value) return
  busy.value = true
  error.value = ''
  try {
    const { parts, temporary, level, checked, shelf } = choice.value
    const taking = await api.post<Taking>(`/drives/${props.id}/takings`, {
      shelf_id: shelf,
      docket_id: docket.value,
      parts,
      temporary,
      level,
      checked,
      note: note.value || null,
      passphrase: passphrase.value || null,
      onto_id:
        !salvage.value && !passphrase.value && bases.value.some((one) => one.id === onto.value) ? onto.value : null,
      ...(salvage.value && {
        salvage: true,
        fills_id: fills.value,
        retries: retries.value,
        minutes: Number(hours.value) > 0 ? Math.round(Number(hours.value) * 60) : null,
      }),
    })
    await router.push(`/takings/${taking.id}`)
  } catch (problem) {
    error.value = errorText(problem)
    await load()
  } finally {
    busy.value = false
  }
}

watch(
  () => props.id,
  () => {
    sheet.value = null
    choice.value = { ...choice.value, parts: null, shelf: null }
    load()
  },
)
useLive({ bench: load, back: load, task: (task) => task.drive_id === Number(props.id) && load(), event: load })
useKeys({ enter: pressMain, r: load })
load()
</script>

<template>
  <div class="beside">
    <StationFrame title="Take an image" :sub="sub" :error="error || null" :loading="!sheet" page>
      <template v-if="open" #corner
        ><RouterLink class="btn slim" :to="`/takings/${open.id}`">See the one that is being taken</RouterLink></template
      >
      <div v-if="sheet && !sheet.attached" class="empty">
        <b>The drive is not attached</b>
        <span>Plug it in: it is listed at once.</span>
        <RouterLink class="btn" to="/bench">To the Bench</RouterLink>
      </div>
      <div v-else-if="sheet && !sheet.parts.length" class="empty">
        <b>Nothing is on this drive</b>
        <span>It has no table and no volume, or they cannot be read.</span>
        <RouterLink class="btn" to="/bench">To the Bench</RouterLink>
      </div>
      <div v-else-if="sheet" class="columns">
        <div>
          <h2>What</h2>
          <TakeParts :sheet="sheet" :parts="choice.parts" :height="400" @choose="choice.parts = $event" />
          <p v-if="sheet.whole" class="small muted">It is taken whole: {{ sheet.whole }}</p>
        </div>
        <div class="wishes">
          <h2>Where</h2>
          <TakeWhere v-model="choice.shelf" :sheet="sheet" :expected="expected" />
          <h2>How</h2>
          <TakeHow v-model="choice.level" :sheet="sheet" :choice="choice" />
          <label v-if="temporary.length" class="small tick"
            ><input
              type="checkbox"
              :checked="!choice.temporary"
              @change="choice.temporary = !($event.target as HTMLInputElement).checked"
            />
            <span
              >Leave out what the system makes anew:
              {{ temporary.map((file) => `${file.path} (${bytes(file.bytes)})`).join(', ') }}</span
            ></label
          >
          <label v-if="bases.length && !salvage" class="small since"
            >Store
            <select v-model="onto">
              <option :value="null">all of it</option>
              <option v-for="one in bases" :key="one.id" :value="one.id">
                only what changed since {{ moment(one.taken_at) }}
              </option></select
            ><span v-if="onto" class="muted"
              >All is read all the same; the other image is needed to restore it.</span
            ></label
          >
          <label class="small tick"
            ><input v-model="choice.checked" type="checkbox" />
            <span>Check it afterwards, read back from its shelf</span></label
          >
          <label class="small tick"
            ><input v-model="salvage" type="checkbox" />
            <span
              >The drive fails: read it in passes, what matters first, bad regions last. It can go on for days.</span
            ></label
          >
          <label v-if="salvage && sheet.lacking.length" class="small since"
            >Read
            <select v-model="fills">
              <option :value="null">all that is in use</option>
              <option v-for="one in sheet.lacking" :key="one.id" :value="one.id" :disabled="!one.there">
                only what {{ moment(one.taken_at) }} lacks: {{ count(one.unread) }} sectors{{
                  one.there ? '' : ' (its shelf is away)'
                }}
              </option>
            </select></label
          >
          <div v-if="salvage" class="salvage small">
            <label
              >Ask for a bad sector again
              <select v-model="retries">
                <option :value="0">never</option>
                <option :value="1">once</option>
                <option :value="3">three times</option>
                <option :value="10">ten times</option>
              </select></label
            ><label>Rest after <input v-model="hours" size="4" inputmode="decimal" placeholder="–" /> hours</label>
          </div>
          <div class="secret small">
            <label
              >Passphrase, if it leaves the house<input
                v-model="passphrase"
                type="password"
                autocomplete="new-password"
                maxlength="512" /></label
            ><label v-if="passphrase"
              >The same again<input
                v-model="again"
                type="password"
                autocomplete="new-password"
                maxlength="512" /></label
            ><span v-if="passphrase" class="muted">{{
              differs
                ? 'Both must be alike.'
                : 'Without it nobody opens the image. Evrel keeps it nowhere: write it down.'
            }}</span>
          </div>
          <label class="field"
            >Note<input v-model="note" maxlength="200" placeholder="What it is for, such as Before the season"
          /></label>
        </div>
      </div>
      <template v-if="sheet?.attached && sheet.parts.length" #foot>
        <span class="said">{{ choiceWords(sheet, choice) }}</span>
        <button v-may="'technician'" type="button" class="btn go push" data-main :disabled="!ready" @click="begin">
          Take the image</button
        ><span class="key">Enter</span>
      </template>
    </StationFrame>
    <Ledger title="Before it is taken" :facts="facts" />
  </div>
</template>

<style scoped>
h2 {
  font-size: 13px;
  font-weight: 700;
  color: var(--ink2);
  margin: 0 0 6px;
}
.columns {
  display: grid;
  grid-template-columns: 290px minmax(0, 1fr);
  gap: 32px;
  padding-top: 6px;
}
.wishes {
  display: grid;
  gap: 8px;
  align-content: start;
  padding-bottom: 16px;
}
.wishes h2:not(:first-child) {
  margin-top: 10px;
}
.tick {
  display: grid;
  grid-template-columns: 18px minmax(0, 1fr);
  gap: 6px;
}
.field {
  margin-top: 4px;
}
.secret {
  display: flex;
  gap: 12px;
  align-items: end;
}
.secret label {
  display: grid;
  gap: 3px;
  color: var(--ink2);
}
.since {
  display: flex;
  gap: 8px;
  align-items: center;
}
.salvage {
  display: flex;
  gap: 18px;
  align-items: center;
  padding-left: 24px;
}
.said {
  font-size: 14px;
  line-height: 1.3;
}
@media (max-width: 900px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
