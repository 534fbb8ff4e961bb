<script setup lang="ts">
import { computed, nextTick, onScopeDispose, ref, useTemplateRef, watch } from 'vue'
import { api, errorText } from '../api/client'
import { useLive } from '../api/live'
import type { CountTask, Docket, DriveCard, DriveTask, TargetView } from '../api/types'
import DriveRow from '../parts/bench/DriveRow.vue'
import Ledger from '../parts/dockets/Ledger.vue'
import LookAlikes from '../parts/bench/LookAlikes.vue'
import LossDialog from '../parts/bench/LossDialog.vue'
import Milestones from '../parts/common/Milestones.vue'
import SealedFoot from '../parts/dockets/SealedFoot.vue'
import StationFrame from '../parts/dockets/StationFrame.vue'
import UnplugProof from '../parts/bench/UnplugProof.vue'
import Waits from '../parts/dockets/Waits.vue'
import { lossWords } from '../words/drives'
import { useKeys } from '../words/keys'
import { useListAge } from '../words/listed'
import { choice } from './useOthers'
import { useStation } from './useStation'
import { vMay } from '../words/may'

const props = defineProps<{ docket: Docket }>()
const emit = defineEmits<{ sealed: [docket: Docket]; changed: [] }>()
const { view, error, busy, load, attempt, seal, breakSeal, row, locked } = useStation<TargetView>(
  'target',
  () => props.docket,
  emit,
)
const chosenId = ref<number | null>(null)
const label = ref('')
/** Of the drive that is restored from, where the target looks like it. */
const sourceLabel = ref('')
const reason = ref('')
const listing = ref(false)
const field = useTemplateRef<HTMLInputElement>('field')
const why = useTemplateRef<HTMLInputElement>('why')
const { now, age, listed } = useListAge()
const sealed = computed(() => row().state === 'sealed')
const drives = computed(() => view.value?.drives ?? [])
const chosen = computed(() => drives.value.find((drive) => drive.id === chosenId.value) ?? null)
const counting = computed(() => ['queued', 'running'].includes(chosen.value?.loss.count?.state ?? ''))
const refused = computed(() => chosen.value?.verdict.state === 'refused')
const lookAlike = computed(() => chosen.value?.verdict.facts.find((fact) => fact.id === 'look-alike'))
const pause = computed(() =>
  Math.max(0, Math.ceil((new Date(view.value?.locked_until ?? 0).getTime() - now.value) / 1000)),
)
const decisions = computed(() =>
  chosen.value?.verdict.state === 'ask'
    ? chosen.value.verdict.facts
        .filter((fact) => chosen.value!.verdict.decisions?.includes(fact.id))
        .map((fact) => fact.title)
    : [],
)
/** While it is away, the drive is in no list: the check stays. */
const unplugging = computed(() => !!view.value?.unplug && ['waiting', 'away'].includes(view.value.unplug.state))
const unplug = computed(() =>
  view.value?.unplug && (view.value.unplug.drive_id === chosenId.value || unplugging.value) ? view.value.unplug : null,
)
const unplugged = computed(() => !!unplug.value?.good)
const ready = computed(
  () =>
    !!chosen.value &&
    !refused.value &&
    !busy.value &&
    (!decisions.value.length || !!reason.value.trim()) &&
    (!chosen.value.like_source || sourceLabel.value.length === 4) &&
    (unplugged.value || (label.value.length === 4 && pause.value === 0)),
)
const REASONS = [
  'Old stock, no longer needed',
  'Its files were saved first',
  'It is this computer’s own drive',
  'Agreed with its owner',
]

watch(view, (next) => {
  listed()
  if (next?.sealed_id) chosenId.value = next.sealed_id
  else if (next?.unplug && ['waiting', 'away'].includes(next.unplug.state)) chosenId.value = next.unplug.drive_id
  else if (!next?.drives.some((drive) => drive.id === chosenId.value)) chosenId.value = null
})
watch([chosenId, sealed], ([id, done]) => (choice.value = id && !done ? `drive-${id}` : null))

/** The chosen drive, while it could be counted and is not: also where it only now has become so. */
const uncounted = computed(() => {
  const drive = chosen.value
  if (!drive || sealed.value || unplugging.value || refused.value || drive.problem) return null
  return !drive.loss.count || drive.loss.count.state === 'failed' ? drive.id : null
})
const TRIES = 3
let left = TRIES
let again: ReturnType<typeof setTimeout> | undefined
watch(chosenId, () => (left = TRIES), { flush: 'sync' })
watch(uncounted, (id) => {
  clearTimeout(again)
  if (id !== null) count(id)
})
onScopeDispose(() => clearTimeout(again))

/** Counting begins when somebody looks: it only reads. A drive may be in the middle of a change: it is tried again. */
async function count(id: number) {
  if (left === 0) return
  left -= 1
  let refusal = ''
  await api
    .post<DriveTask>(`/dockets/${props.docket.id}/count`, { drive_id: id })
    .catch((problem) => (refusal = errorText(problem)))
  await load()
  if (uncounted.value !== id) return
  if (refusal) error.value = refusal
  again = setTimeout(() => uncounted.value === id && count(id), 2000)
}

async function choose(drive: DriveCard) {
  if (sealed.value) return
  if (drive.id !== chosenId.value) label.value = reason.value = ''
  chosenId.value = drive.id
  await nextTick()
  ;(decisions.value.length ? why.value : field.value)?.focus()
}

function move(by: number) {
  if (sealed.value || !drives.value.length) return
  const at = drives.value.findIndex((drive) => drive.id === chosenId.value)
  chosenId.value = drives.value[(at + by + drives.value.length) % drives.value.length]!.id
  label.value = reason.value = ''
  const among = document.activeElement?.getAttribute('role') === 'radio'
  nextTick(() => {
    const card = document.querySelector<HTMLElement>('.card.on')
    card?.scrollIntoView({ block: 'nearest' })
    if (among) card?.focus()
  })
}

async function stamp() {
  if (!ready.value) return
  const sent = label.value
  const done = await seal({
    drive_id: chosenId.value,
    reason: reason.value,
    ...(chosen.value!.like_source ? { source_label: sourceLabel.value } : {}),
    ...(unplugged.value ? { unplugged: true } : { label: sent }),
  })
  // What was typed since the answer stays.
  if (!done && label.value === sent) label.value = ''
}

async function startUnplug() {
  const next = await attempt(() =>
    api.post<TargetView>(`/dockets/${props.docket.id}/unplug-check`, { drive_id: chosenId.value }),
  )
  if (next) view.value = next
}

async function giveUp() {
  const next = await attempt(() => api.delete<TargetView>(`/dockets/${props.docket.id}/unplug-check`))
  if (next) view.value = next
}

/** The time of a check is over without anything having moved. */
watch(now, () => {
  if (unplug.value && ['waiting', 'away'].includes(unplug.value.state) && Date.parse(unplug.value.ends_at) < now.value)
    load()
})

useLive({
  // Another docket may have taken a drive, or let it go: that is told once it is so, the bench may have told of it
  // before.
  event: (event) => {
    if (['sealed', 'seal_broken'].includes(event.kind)) load()
  },
  task: (task) => {
    const drive = drives.value.find((one) => one.id === task.drive_id)
    if (!drive || task.docket_id !== props.docket.id) return
    if (task.kind === 'count') drive.loss.count = task as unknown as CountTask
    else drive.loss.saved = [task as never, ...drive.loss.saved.filter((one) => one.id !== task.id)]
  },
})
/** What is still missing comes first. */
function goOn() {
  if (!ready.value && !sealed.value) (decisions.value.length && !reason.value.trim() ? why.value : field.value)?.focus()
}

useKeys({
  r: load,
  enter: goOn,
  arrowdown: () => move(1),
  arrowup: () => move(-1),
  l: () => chosen.value && (listing.value = true),
  u: () => chosen.value && !refused.value && !sealed.value && startUnplug(),
})
</script>

<template>
  <StationFrame
    title="Choose the disk to overwrite"
    :sub="view?.drives.length ? `${drives.length} disk${drives.length > 1 ? 's' : ''} attached · ${age}` : undefined"
    :error="error"
    :loading="!view"
    fixed
    :lead="
      view && !view.waits_for && drives.length < 5
        ? 'Go by the label on the drive itself. Names and ports can change when drives are swapped.'
        : undefined
    "
  >
    <template #corner
      ><button v-if="!view?.waits_for" type="button" class="btn slim" @click="load">
        List again <span class="key">R</span>
      </button></template
    >
    <Waits v-if="view?.waits_for" :for="view.waits_for" :docket="docket.id" />
    <div v-else-if="view && !drives.length" class="empty">
      <b>No drive is attached</b>Plug the target in; it shows here by itself.
    </div>
    <template v-else>
      <div class="cards scroll" role="radiogroup" aria-label="Attached drives">
        <DriveRow
          v-for="(drive, index) in drives"
          :key="`${drive.id} ${drive.port}`"
          :drive="drive"
          :on="drive.id === chosenId"
          :stop="chosen ? drive.id === chosenId : index === 0"
          @choose="choose(drive)"
        />
      </div>
      <LookAlikes v-if="sealed && chosen && view?.alike?.length" :drive="chosen" :alike="view.alike" />
      <div v-if="chosen && !sealed && !refused" class="lost">
        <b class="small">Would be lost</b
        ><span class="small">{{
          chosen.problem ? 'It cannot be known: its table cannot be read' : lossWords(chosen.loss)
        }}</span>
        <Milestones
          :percent="0"
          :step="counting ? 'Counting what would be lost' : lossWords(chosen.loss)"
          :running="counting"
        />
        <button type="button" class="btn slim push" @click="listing = true">
          {{ chosen.loss.count?.result?.newer_files ? 'Save them first…' : 'Look…' }} <span class="key">L</span>
        </button>
      </div>
      <div v-if="!chosen && unplugging" class="proof">
        <div class="show"><UnplugProof :check="unplug!" :now="now" @give-up="giveUp" /></div>
      </div>
      <div v-if="chosen && !sealed && !refused" class="proof">
        <label v-if="decisions.length" class="decide small"
          ><span
            >Say why, since it is: <b>{{ decisions.join('; ').toLowerCase() }}</b></span
          >
          <input
            ref="why"
            v-model="reason"
            maxlength="200"
            list="reasons"
            aria-label="Why it may be overwritten"
            placeholder="Why it may be overwritten"
            @keydown.enter.prevent="ready ? stamp() : field?.focus()" /><datalist id="reasons">
            <option v-for="one in REASONS" :key="one" :value="one" /></datalist
        ></label>
        <div v-if="chosen.like_source" class="show">
          <label class="words" for="source-label"
            ><b>And which one you restore from</b>
            <span class="small muted"
              >It looks like the drive in port {{ view!.source!.port }}: the last four characters of that label</span
            ></label
          >
          <input
            id="source-label"
            v-model="sourceLabel"
            class="label mono"
            maxlength="4"
            autocomplete="off"
            spellcheck="false"
            aria-label="Last four characters of the source’s label"
            :disabled="pause > 0"
          />
        </div>
        <div class="show">
          <UnplugProof
            v-if="unplug && (unplug.state !== 'void' || !chosen.provable)"
            :check="unplug"
            :now="now"
            @give-up="giveUp"
          />
          <template v-else>
            <label class="words" for="label"
              ><b>Show that you hold the right drive</b>
              <span class="small muted">{{
                unplug
                  ? `The unplug check does not count: ${unplug.reason}`
                  : !chosen.provable
                    ? 'It has no readable serial: unplug it to prove it'
                    : pause
                      ? `Three wrong labels: locked for ${pause} s`
                      : lookAlike
                        ? `${lookAlike.detail}: read letter by letter`
                        : 'The last four characters of its label, hidden here on purpose'
              }}</span></label
            >
            <input
              v-if="chosen.provable"
              id="label"
              ref="field"
              v-model="label"
              class="label mono"
              maxlength="4"
              autocomplete="off"
              spellcheck="false"
              aria-label="Last four characters of the drive’s label"
              :disabled="pause > 0"
              @keydown.enter.prevent="stamp"
            />
            <span v-if="chosen.provable" class="muted small">or</span>
          </template>
          <button
            v-if="!unplug || unplug.state === 'void'"
            v-may="'technician'"
            type="button"
            class="btn slim"
            :disabled="busy"
            @click="startUnplug"
          >
            Start the unplug check <span class="key">U</span>
          </button>
        </div>
      </div>
      <LossDialog
        v-if="chosen"
        v-model="listing"
        :drive="chosen"
        :docket="docket.id"
        :shelves="view?.shelves ?? []"
        :sealed="sealed"
        @changed="load"
      />
    </template>
    <template #foot>
      <SealedFoot v-if="sealed" :row="row()" :locked="locked" @break="breakSeal" />
      <template v-else-if="!view?.waits_for">
        <span class="small muted">{{
          pause
            ? `Three wrong labels were typed: locked for ${pause} s`
            : refused
              ? `Refused: ${chosen!.verdict.reason?.title}`
              : lookAlike
                ? 'A look-alike is attached'
                : view?.source
                  ? `Restored from the drive in port ${view.source.port}`
                  : ''
        }}</span>
        <button v-may="'technician'" type="button" class="btn go push" data-main :disabled="!ready" @click="stamp">
          {{ chosen ? `Seal port ${chosen.port} as the target` : 'Choose a drive' }}</button><span class="key"
          >Enter</span
        >
      </template>
    </template>
  </StationFrame>
  <Ledger
    :title="chosen ? `Why port ${chosen.port}` : 'Target'"
    :facts="chosen?.verdict.facts ?? []"
    empty="Choose a drive to see what speaks for and against it."
  />
</template>

<style scoped>
.cards {
  display: flex;
  flex-direction: column;
  gap: 7px;
  padding: 3px;
  flex: 1;
  min-height: 120px;
}
.lost {
  display: flex;
  gap: 10px;
  align-items: center;
  padding: 8px 2px 6px;
}
.lost span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.lost b,
.lost button {
  flex: none;
}
.proof {
  border: 1px solid var(--ember);
  border-radius: 9px;
  background: var(--field);
  padding: 9px 14px;
  display: grid;
  gap: 8px;
  margin-bottom: 8px;
}
.decide {
  display: grid;
  grid-template-columns: minmax(0, auto) minmax(220px, 1fr);
  gap: 12px;
  align-items: center;
  color: var(--ochre-ink);
}
.decide input {
  border: 1px solid var(--edge);
  border-radius: 6px;
  padding: 5px 8px;
  background: var(--field);
  color: var(--ink);
}
.show {
  display: flex;
  gap: 12px;
  align-items: center;
}
.words {
  display: grid;
  flex: 1;
  min-width: 0;
  line-height: 1.3;
}
.label {
  width: 130px;
  flex: none;
  border: 1.5px solid var(--ember);
  border-radius: 7px;
  background: var(--field);
  color: var(--ink);
  font-size: 22px;
  font-weight: 700;
  letter-spacing: 0.3em;
  text-align: center;
  padding: 4px 0 4px 0.3em;
  text-transform: uppercase;
}
.label:disabled {
  border-color: var(--rule);
  background: var(--fold);
}
</style>
