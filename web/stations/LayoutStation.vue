<script setup lang="ts">
import { computed, onMounted, onUnmounted, ref, watch } from 'vue'
import type { Docket, LayoutView, Way } from '../api/types'
import type { Place } from '../drawing/fit'
import Ledger from '../parts/dockets/Ledger.vue'
import SealedFoot from '../parts/dockets/SealedFoot.vue'
import StationFrame from '../parts/dockets/StationFrame.vue'
import Waits from '../parts/dockets/Waits.vue'
import LayoutDrawing from '../parts/layouts/LayoutDrawing.vue'
import LayoutFields from '../parts/layouts/LayoutFields.vue'
import LayoutSettings from '../parts/layouts/LayoutSettings.vue'
import LayoutTrying from '../parts/layouts/LayoutTrying.vue'
import LayoutWays from '../parts/layouts/LayoutWays.vue'
import PartOnly from '../parts/layouts/PartOnly.vue'
import { useSession } from '../session'
import { useKeys } from '../words/keys'
import { useStation } from './useStation'
import { useWishes } from './useWishes'
import { byWay, partAt, without, withAgain } from './wishes'
import { vMay } from '../words/may'

const props = defineProps<{ docket: Docket }>()
const emit = defineEmits<{ sealed: [docket: Docket]; changed: [] }>()
const session = useSession()
const { view, facts, error, busy, load, seal, breakSeal, row, locked } = useStation<LayoutView>(
  'layout',
  () => props.docket,
  emit,
)
const {
  wish,
  read,
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
/** Nothing of it is moved. */
const still = computed(() => sealed.value || !session.may('technician'))
const chosen = ref<number | null>(null)
const lit = ref<number | null>(null)
const more = ref(false)
const rehearsing = ref(false)
const parts = computed(() => view.value?.after?.parts ?? [])
const part = computed(() => parts.value.find((one) => one.number === chosen.value) ?? null)
/** The part of the image that was chosen, but is left out. */
const leftOut = computed(() =>
  part.value || view.value?.way === 'part'
    ? null
    : (view.value?.image?.parts.find((one) => one.number === chosen.value) ?? null),
)
/** Byte at which the next part begins, or the room ends. */
const next = computed(() => {
  const behind = parts.value
    .filter((one) => one.start_bytes > (part.value?.start_bytes ?? 0))
    .map((one) => one.start_bytes)
  return Math.min(...behind, view.value?.after?.limit_bytes ?? 0)
})
const why = computed(() => {
  if (sealed.value) return 'As it was sealed'
  const proposed = JSON.stringify(view.value?.wish) === JSON.stringify(view.value?.proposal?.wish)
  return proposed
    ? `Proposed: ${view.value?.proposal?.why}`
    : 'Drag an edge or a whole part, type a size, or use the arrow keys'
})

watch(
  () => view.value?.wish,
  () => {
    if (view.value?.way === 'part') chosen.value = view.value.wish?.part ?? null
    if (parts.value.some((one) => one.number === chosen.value) || leftOut.value) return
    const largest = [...parts.value].filter((one) => !one.kept).sort((one, two) => two.size_bytes - one.size_bytes)[0]
    chosen.value = view.value?.wish?.part ?? largest?.number ?? null
  },
)

function choose(name: Way) {
  const next = view.value && byWay(view.value, name, chosen.value)
  if (next && 'way' in next) way(next.way, next.with ?? {})
}
function put(number: number, to: Place) {
  if (view.value?.way !== 'part' || !view.value.wish) return byHand(number, to)
  return wish(partAt(view.value, number, to), { spring: true })
}
async function back() {
  const proposal = view.value?.proposal?.wish
  if (proposal) await wish(proposal)
}
const stamp = () => seal({ digest: view.value?.digest })

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
      <LayoutWays :way="view.way" :fixed="still || trying" @choose="choose" @more="more = true" />
      <p v-if="view.way !== 'part'" class="small muted why">{{ why }}</p>
      <PartOnly v-if="view.way === 'part'" :view="view" :fixed="still" @wish="wish($event)" />
      <LayoutDrawing v-model:chosen="chosen" v-model:lit="lit" :view="view" :fixed="still || trying" @place="put" />
      <LayoutFields
        v-if="part"
        :key="part.number"
        :part="part"
        :next="next"
        :disk="view.after.size_bytes"
        :fixed="still || trying"
        :last="parts.length < 2 || view.way === 'part'"
        @place="put(part.number, $event)"
        @leave="wish(without(view.wish, part.number))"
      />
      <p v-else-if="leftOut" class="small without">
        <span
          ><b>{{ leftOut.name || leftOut.volume.label }}</b> is left out of this layout.</span
        >
        <button v-if="!sealed" type="button" class="btn slim" @click="wish(withAgain(view.wish, leftOut.number!))">
          Bring it back
        </button>
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
        :fixed="still"
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
          v-may="'technician'"
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
  <Ledger title="What this layout means" :facts="facts" @hover="lit = $event?.part ?? null" />
</template>

<style scoped>
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
