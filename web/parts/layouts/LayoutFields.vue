<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { PlacedPart } from '../../api/types'
import type { Place } from '../../drawing/fit'
import { bytes, exact } from '../../words/format'
import { understand } from '../../words/sizes'

/** The chosen part in numbers: where it starts, its size, what stays free behind it. */
const props = defineProps<{ part: PlacedPart; next: number; disk: number; fixed: boolean; last: boolean }>()
const emit = defineEmits<{ place: [place: Place]; leave: [] }>()
type Field = 'start' | 'size' | 'free'
const free = computed(() => Math.max(0, props.next - props.part.start_bytes - props.part.size_bytes))
const value = computed<Record<Field, number>>(() => ({
  start: props.part.start_bytes,
  size: props.part.size_bytes,
  free: free.value,
}))
const typed = ref<Partial<Record<Field, string>>>({})
const focus = ref<Field | null>(null)
watch(
  () => [props.part.number, props.part.start_bytes, props.part.size_bytes, free.value],
  () => (typed.value = {}),
)

const fields = computed(() => [
  { name: 'start' as const, label: 'Starts at', off: false },
  { name: 'size' as const, label: 'Size', off: !props.part.resizable },
  { name: 'free' as const, label: 'Free after it', off: !props.part.resizable },
])
const precise = (size: number) =>
  size && size % 1e8 && size < 1e9
    ? `${(size / 1024 ** 2).toLocaleString('en', { maximumFractionDigits: 3 })} MiB`
    : bytes(size)
const shown = (name: Field) => typed.value[name] ?? precise(value.value[name])
const room = computed(() => props.next - props.part.start_bytes)
const read = computed(() => {
  const name = focus.value
  if (!name || typed.value[name] === undefined) return null
  return understand(typed.value[name]!, {
    now: value.value[name],
    least: name === 'size' ? props.part.least_bytes : 0,
    most:
      name === 'start'
        ? props.next - props.part.size_bytes
        : name === 'size'
          ? room.value
          : room.value - props.part.least_bytes,
    of: name === 'size' ? props.disk : room.value,
  })
})
const bad = computed(() => (read.value && 'error' in read.value ? read.value.error : ''))

function settle(name: Field) {
  if (typed.value[name] === undefined || !read.value) return
  if ('error' in read.value) return
  const size = read.value.bytes
  const { start_bytes: start, size_bytes: old } = props.part
  typed.value = {}
  if (name === 'start') emit('place', { start: size, size: old })
  else if (name === 'size') emit('place', { start, size })
  else emit('place', { start, size: Math.max(room.value - size, 1) })
}
function leave(name: Field) {
  if (!bad.value) settle(name)
  typed.value = {}
  focus.value = null
}
const limits = computed(() => {
  const { part } = props
  if (part.kept) return 'It stays on the target as it is, byte for byte'
  if (!part.resizable)
    return `It keeps its size: ${(part.reason ?? '').replace(/^.*keeps its size: ?/, '') || 'no tool here resizes it'}`
  if (part.reason) return part.reason.charAt(0).toUpperCase() + part.reason.slice(1)
  const needed = part.volume.kind.startsWith('fat') ? 'what its kind asks for' : 'what it needs to run'
  const rest = part.volume.kind === 'swap' ? 'it is made anew' : `${bytes(part.volume.used_bytes)} used, and ${needed}`
  return `Can be ${bytes(part.least_bytes)} at the least: ${rest}`
})
</script>

<template>
  <div class="fields" role="group" :aria-label="`${part.name} in numbers`">
    <div class="who">
      <b :class="`k-${part.role}`">{{ part.name }}</b><span class="small muted"
        >{{ part.volume.kind || 'unknown' }}, part {{ part.to_number }}</span
      >
    </div>
    <label v-for="field in fields" :key="field.name" class="field"
      >{{ field.label }}
      <input
        class="mono"
        :value="shown(field.name)"
        :disabled="fixed || part.kept || field.off"
        :title="exact(value[field.name])"
        autocomplete="off"
        spellcheck="false"
        :aria-invalid="focus === field.name && !!bad"
        @focus="focus = field.name"
        @input="typed[field.name] = ($event.target as HTMLInputElement).value"
        @blur="leave(field.name)"
        @keydown.enter.prevent.stop="settle(field.name)"
        @keydown.esc.stop="typed = {}"
    /></label>
    <div class="say small" :class="{ bad }" role="status">
      <template v-if="bad">{{ bad }}</template><template v-else-if="read && 'words' in read"
        >{{ read.words }} · Enter</template
      ><template v-else>{{ limits }}</template> {{ ' '
      }}<button v-if="!fixed && !part.kept && !last && !read" type="button" class="link" @click="emit('leave')">
        Leave it out
      </button>
    </div>
  </div>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 128px 128px 128px minmax(0, 1.55fr);
  gap: 14px;
  align-items: end;
  padding: 8px 0;
}
.who {
  display: grid;
  padding-bottom: 4px;
  min-width: 0;
}
.who b {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.field input {
  width: 100%;
  padding: 5px 8px;
  font-size: 14px;
}
.field input:disabled {
  background: var(--fold);
  color: var(--ink2);
}
.field input[aria-invalid='true'] {
  border-color: var(--crimson);
}
.say {
  color: var(--ink2);
  line-height: 1.3;
  min-height: 52px;
  align-content: end;
}
.say.bad {
  color: var(--crimson);
}
.link {
  border: 0;
  background: none;
  padding: 0;
  color: var(--ink);
  text-decoration: underline;
  cursor: pointer;
}
.k-startup {
  color: var(--ochre-ink);
}
.k-system {
  color: var(--spruce);
}
@media (max-width: 1150px) {
  .fields {
    grid-template-columns: minmax(0, 1fr) repeat(3, 104px) minmax(0, 1.8fr);
    gap: 10px;
  }
}
</style>
