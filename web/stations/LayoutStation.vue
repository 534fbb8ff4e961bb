<script setup lang="ts">
import { computed, onMounted, onUnmounted, ref, useTemplateRef, watch } from 'vue'
import { api } from '../api/client'
import { useElementSize } from './useElementSize'
import type { StationAnswer } from '../api/answers'
import type { Docket, Fact, LayoutView, Part, Way } from '../api/types'
import Bands from '../drawing/Bands.vue'
import Core from '../drawing/Core.vue'
import FitCore from '../drawing/FitCore.vue'
import type { Place } from '../drawing/fit'
import Names from '../drawing/Names.vue'
import LayoutFields from '../parts/layouts/LayoutFields.vue'
import LayoutSettings from '../parts/layouts/LayoutSettings.vue'
import LayoutTrying from '../parts/layouts/LayoutTrying.vue'
import Ledger from '../parts/dockets/Ledger.vue'
import PartOnly from '../parts/layouts/PartOnly.vue'
import SealedFoot from '../parts/dockets/SealedFoot.vue'
import StationFrame from '../parts/dockets/StationFrame.vue'
import Waits from '../parts/dockets/Waits.vue'
import { bytes } from '../words/format'
import { useKeys } from '../words/keys'
import { useStation } from './useStation'
import { useWishes } from './useWishes'

const props = defineProps<{ docket: Docket }>()
const emit = defineEmits<{ sealed: [docket: Docket]; changed: [] }>()
const { view, facts, error, busy, load, attempt, seal, breakSeal, row, locked } = useStation<LayoutView>(
  'layout',
  () => props.docket,
  emit,
)
const {
  wish,
  way,
  byHand,
  refusal,
  undo,
  redo,
  canUndo,
  canRedo,
  busy: trying,
} = useWishes(() => props.docket.id, view, facts)
const sealed = computed(() => row().state === 'sealed')
const room = useTemplateRef<HTMLElement>('room')
const { height: free } = useElementSize(room)
const height = computed(() => Math.max(230, Math.min(640, free.value - 30)))
const chosen = ref<number | null>(null)
const lit = ref<number | null>(null)
const more = ref(false)
const rehearsing = ref(false)
const parts = computed(() => view.value?.after?.parts ?? [])
const part = computed(() => parts.value.find((one) => one.number === chosen.value) ?? null)
/** The part of the image that was chosen, but is left out. */
const without = computed(() =>
  part.value || view.value?.way === 'part'
    ? null
    : (view.value?.image?.parts.find((one) => one.number === chosen.value) ?? null),
)
const next = computed(() => {
  const behind = parts.value
    .filter((one) => one.start_bytes > (part.value?.start_bytes ?? 0))
    .map((one) => one.start_bytes)
  return Math.min(...behind, view.value?.after?.limit_bytes ?? 0)
})
const proposed = computed(() => JSON.stringify(view.value?.wish) === JSON.stringify(view.value?.proposal?.wish))
const WAYS: [Way, string][] = [
  ['as_in_image', 'As in the image'],
  ['grow', 'Grow one part'],
  ['spread', 'Spread evenly'],
  ['shrink', 'Shrink to fit'],
  ['by_hand', 'By hand'],
  ['part', 'One part only'],
]

/** What grows: the chosen part where it can, or the largest system or data part that can. */
const growing = computed(() => {
  const able = (view.value?.image?.parts ?? []).filter((one) => ['system', 'data'].includes(one.role))
  return (
    able.find((one) => one.number === chosen.value)?.number ??
    [...able].sort(
      (one, two) =>
        (two.role === 'system' ? 1 : 0) - (one.role === 'system' ? 1 : 0) || two.size_bytes - one.size_bytes,
    )[0]?.number ??
    undefined
  )
})

watch(
  () => view.value?.wish,
  () => {
    if (view.value?.way === 'part') chosen.value = view.value.wish?.part ?? null
    if (parts.value.some((one) => one.number === chosen.value) || without.value) return
    const grown = view.value?.wish?.part
    chosen.value =
      grown ??
      [...parts.value].filter((one) => !one.kept).sort((one, two) => two.size_bytes - one.size_bytes)[0]?.number ??
      null
  },
)

function choose(name: Way) {
  if (name === view.value?.way && name !== 'grow') return
  if (name === 'grow') way('grow', growing.value ? { part: growing.value } : {})
  else if (name === 'by_hand')
    way('by_hand', {
      parts: Object.fromEntries(
        parts.value
          .filter((one) => !one.kept)
          .map((one) => [String(one.number), { start: one.start_bytes, size: one.size_bytes }]),
      ),
    })
  else if (name === 'part') {
    const only = growing.value ?? view.value?.image?.parts[0]?.number
    const over = view.value?.now?.parts[0]?.number
    if (only) way('part', { part: only, leave_out: [], ...(over ? { over } : { at: 1024 ** 2 }) })
  } else way(name)
}
/** A part at another place: of a part restore, within the room or the partition that it goes to. */
function put(number: number, to: Place) {
  const now = view.value?.wish
  if (view.value?.way !== 'part' || !now) return byHand(number, to)
  const same = to.start === parts.value.find((one) => one.number === number)?.start_bytes
  return wish(
    { ...now, ...(now.over && same ? {} : { over: undefined, at: to.start }), size: to.size },
    { spring: true },
  )
}
function leave(number: number) {
  const now = view.value?.wish ?? {}
  wish({ ...now, leave_out: [...(now.leave_out ?? []), number] })
}
function bringBack(number: number) {
  const now = view.value?.wish ?? {}
  wish({
    ...now,
    way: now.way === 'by_hand' ? 'shrink' : now.way,
    leave_out: (now.leave_out ?? []).filter((one) => one !== number),
  })
}
async function back() {
  const proposal = view.value?.proposal?.wish
  if (proposal) await wish(proposal)
}
async function read(text: string) {
  const before = view.value?.wish
  const answer = await attempt(() =>
    api.post<StationAnswer<LayoutView>>(`/dockets/${props.docket.id}/layout/read`, { text }),
  )
  if (!answer?.view.wish || !before) return
  // Through the list of what can be taken back.
  await api.post(`/dockets/${props.docket.id}/layout/plan`, { wish: before })
  await wish(answer.view.wish)
}
const stamp = () => seal({ digest: view.value?.digest })

const used = (one: Part | null) =>
  one
    ? [
        `${bytes(one.volume.used_bytes)} used`,
        ...(parts.value.some((other) => other.number === one.number) || view.value?.way === 'part' ? [] : ['left out']),
      ]
    : []
const after = (one: Part | null, size: number) => {
  if (!one) return ['left free']
  const unused = size - one.volume.used_bytes
  return one.volume.kind && one.volume.kind !== 'swap' && unused > 0
    ? [one.change ?? 'as is', `${bytes(unused)} free`]
    : [one.change ?? 'as is']
}
const gone = (one: Part | null) =>
  one ? [`${bytes(one.volume.used_bytes)} used`, stays(one) ? 'stays' : 'is lost'] : []
const stays = (one: Part) => parts.value.some((other) => other.kept && other.number === -one.number!)
const lost = computed(() => (view.value?.now?.parts ?? []).filter((one) => !stays(one)).length > 0)
const look = (fact: Fact | null) => (lit.value = fact?.part ?? null)

function stepKey(event: KeyboardEvent) {
  if (
    !(event.ctrlKey || event.metaKey) ||
    event.altKey ||
    /^(INPUT|TEXTAREA)$/.test((event.target as HTMLElement).tagName)
  )
    return
  const key = event.key.toLowerCase()
  if (key !== 'z' && key !== 'y') return
  event.preventDefault()
  if (key === 'y' || event.shiftKey) redo()
  else undo()
}
onMounted(() => window.addEventListener('keydown', stepKey))
onUnmounted(() => window.removeEventListener('keydown', stepKey))
useKeys({
  t: () => view.value?.after && !sealed.value && (rehearsing.value = true),
  m: () => view.value?.after && (more.value = true),
})
</script>

<template>
  <StationFrame
    title="Fit the image to the disk"
    sub="Heights are not to scale, so that small parts stay readable"
    :error="error ?? (refusal || null)"
    :loading="!view"
    fixed
  >
    <template #corner
      ><template v-if="view?.after && !sealed"
        ><button type="button" class="btn slim" :disabled="!canUndo" title="Ctrl Z" @click="undo">Undo</button>
        <button type="button" class="btn slim" :disabled="!canRedo" title="Ctrl Shift Z" @click="redo">
          Redo
        </button></template
      ></template
    >
    <Waits v-if="view?.waits_for" :for="view.waits_for" :docket="docket.id" />
    <div v-else-if="view && !view.after" class="empty">
      <b>It cannot be planned</b>{{ view.problem?.message }}. {{ view.problem?.hint ?? ''
      }}<button type="button" class="btn" @click="load">Look again</button>
    </div>
    <template v-else-if="view?.image && view.after && view.now">
      <div class="ways">
        <div class="segments" role="radiogroup" aria-label="Way of fitting">
          <button
            v-for="[name, words] in WAYS"
            :key="name"
            type="button"
            role="radio"
            :aria-checked="view.way === name"
            :class="{ on: view.way === name }"
            :disabled="sealed || trying"
            @click="choose(name)"
          >
            {{ words }}
          </button>
        </div>
        <button
          type="button"
          class="btn slim push"
          title="Room left free, table, identity, files, kept layouts"
          @click="more = true"
        >
          More… <span class="key">M</span>
        </button>
      </div>
      <p v-if="view.way !== 'part'" class="small muted why">
        {{
          sealed
            ? 'As it was sealed'
            : proposed
              ? `Proposed: ${view.proposal?.why}`
              : 'Drag an edge or a whole part, type a size, or use the arrow keys'
        }}
      </p>
      <PartOnly v-if="view.way === 'part'" :view="view" :fixed="sealed" @wish="wish($event)" />
      <div ref="room" class="cores">
        <div class="heads">
          <span />
          <h3>In the image</h3>
          <span />
          <h3>After the restore</h3>
          <span />
          <h3 :class="{ lost }">On the disk now</h3>
          <span />
        </div>
        <div class="row">
          <Names
            :parts="view.image.parts"
            :size="view.image.size_bytes"
            :height="height"
            side="left"
            :say="used"
            :chosen="chosen"
            @choose="chosen = $event"
          />
          <Core
            :parts="view.image.parts"
            :size="view.image.size_bytes"
            :width="92"
            :height="height"
            label="In the image"
          />
          <Bands
            :from="view.image.parts"
            :from-size="view.image.size_bytes"
            :to="parts"
            :to-size="view.after.size_bytes"
            :width="130"
            :height="height"
            :lit="lit"
          />
          <FitCore
            :parts="parts"
            :size="view.after.size_bytes"
            :limit="view.after.limit_bytes"
            :unit="view.after.unit"
            :width="104"
            :height="height"
            :chosen="chosen"
            :lit="lit"
            :fixed="sealed || trying"
            @choose="chosen = $event"
            @place="put"
            @hover="lit = $event"
          />
          <Names
            :parts="parts"
            :size="view.after.size_bytes"
            :height="height"
            side="right"
            :say="after"
            :chosen="chosen"
            @choose="chosen = $event"
          />
          <Core
            :parts="view.now.parts"
            :size="view.now.size_bytes"
            :width="70"
            :height="height"
            :lost="lost"
            :stays="view.now.parts.filter(stays).map((one) => one.number)"
            label="On the disk now"
          />
          <Names :parts="view.now.parts" :size="view.now.size_bytes" :height="height" side="right" :say="gone" />
        </div>
      </div>
      <LayoutFields
        v-if="part"
        :key="part.number"
        :part="part"
        :next="next"
        :disk="view.after.size_bytes"
        :fixed="sealed || trying"
        :last="parts.length < 2 || view.way === 'part'"
        @place="put(part.number, $event)"
        @leave="leave(part.number)"
      />
      <p v-else-if="without" class="small without">
        <span
          ><b>{{ without.name || without.volume.label }}</b> is left out of this layout.</span
        >
        <button v-if="!sealed" type="button" class="btn slim" @click="bringBack(without.number!)">Bring it back</button>
      </p>
      <div
        v-if="!view.valid && view.remedies?.length && !sealed"
        class="remedies small"
        role="group"
        aria-label="What would make it fit"
      >
        <b>It would fit:</b
        ><button
          v-for="remedy in view.remedies"
          :key="remedy.words"
          type="button"
          class="btn slim"
          @click="wish(remedy.wish)"
        >
          {{ remedy.words }}
        </button>
      </div>
      <LayoutSettings
        v-model="more"
        :view="view"
        :docket="docket.id"
        :fixed="sealed"
        @wish="wish($event)"
        @read="read"
        @changed="load"
      />
      <LayoutTrying v-model="rehearsing" :view="view" :docket="docket.id" @changed="load" />
    </template>
    <template #foot>
      <SealedFoot v-if="sealed" :row="row()" :locked="locked" @break="breakSeal" />
      <template v-else-if="view?.after">
        <button type="button" class="btn slim" :title="view.proposal?.why" :disabled="trying" @click="back">
          Back to the proposal
        </button>
        <span class="small muted">Nothing is written yet</span>
        <button type="button" class="btn slim push" :disabled="!view.valid" @click="rehearsing = true">
          Try the plan… <span class="key">T</span>
        </button>
        <button
          type="button"
          class="btn go"
          data-main
          :disabled="busy || trying || !view.valid"
          :title="view.valid ? 'Nothing is written yet' : view.problem?.title"
          @click="stamp"
        >
          {{ view.valid ? 'Seal the layout' : 'It does not fit' }}</button><span class="key">Enter</span>
      </template>
    </template>
  </StationFrame>
  <Ledger title="What this layout means" :facts="facts" @hover="look" />
</template>

<style scoped>
.ways {
  display: flex;
  gap: 10px;
  align-items: center;
  padding-bottom: 6px;
}
.segments {
  display: flex;
  border: 1px solid var(--edge);
  border-radius: 7px;
  overflow: hidden;
}
.segments button {
  border: 0;
  border-right: 1px solid var(--rule);
  background: var(--sheet);
  color: var(--ink2);
  font-weight: 650;
  font-size: 13.5px;
  padding: 5px 10px;
  cursor: pointer;
  white-space: nowrap;
}
.segments button:last-child {
  border-right: 0;
}
.segments .on {
  background: var(--tab);
  color: var(--on-tab);
}
.segments button:focus-visible {
  outline-offset: -3px;
}
.cores {
  flex: 1;
  min-height: 0;
  overflow: hidden;
}
.heads,
.row {
  display: grid;
  grid-template-columns: minmax(0, 1.05fr) 92px 110px 104px minmax(0, 1fr) 70px minmax(0, 1fr);
  gap: 0 10px;
}
.row > :nth-child(3) {
  margin: 0 -10px;
  width: 130px;
}
.heads {
  height: 26px;
}
.heads h3 {
  font-size: 15px;
  font-weight: 750;
  text-align: center;
  white-space: nowrap;
  margin: 0 -40px;
}
.heads .lost {
  color: var(--crimson);
}
.without {
  padding: 12px 0;
  display: flex;
  gap: 10px;
  align-items: center;
}
.remedies {
  display: flex;
  gap: 8px;
  align-items: center;
  flex-wrap: wrap;
  padding: 8px 0 4px;
}
.why {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  min-width: 0;
}
</style>
