<script setup lang="ts">
import { computed } from 'vue'
import type { ReadinessRow } from '../../api/types'
import AgeLine from '../../drawing/AgeLine.vue'
import { ago, range } from '../../words/format'
import { vMay } from '../../words/may'
import StateMark from '../common/StateMark.vue'

/** Whether one computer could be restored today, and what would make it better. */
const props = defineProps<{ row: ReadinessRow; alone?: boolean }>()
const emit = defineEmits<{ prove: []; stop: [] }>()
const VERDICTS = {
  ready: ['ok', 'Ready'],
  not_proved: ['ask', 'Not proved'],
  not_possible: ['no', 'Not possible'],
} as const
const verdict = computed(() => VERDICTS[props.row.state])
const running = computed(() => props.row.proof && props.row.proof.state !== 'done')
const doing = computed(() => {
  const proof = props.row.proof!
  if (proof.held) return 'waits, while something is written'
  if (proof.state === 'waiting') return 'waits for its turn'
  if (proof.state === 'starting') return 'is being started'
  return proof.percent === null ? 'is being checked' : `is being checked, ${proof.percent} %`
})
/** What the last proof came to, where it found nothing out. */
const tried = computed(() => {
  const proof = props.row.proof
  return proof?.state === 'done' && proof.outcome === 'unknown' ? `tried ${ago(proof.at)}: ${proof.message}` : ''
})
/** The two seals of the image that is spoken of. */
const seals = computed(() => {
  const mark = props.row.marks.find((one) => one.id === props.row.image)
  if (!mark) return []
  return [
    [mark.checked, 'checked'],
    [mark.started, 'seen to start'],
  ] as const
})
</script>

<template>
  <li>
    <div v-if="!alone">
      <RouterLink :to="`/computers/${row.id}`"
        ><b>{{ row.name }}</b></RouterLink
      >
      <span class="small muted place">{{ row.place }}</span>
    </div>
    <div class="verdict">
      <StateMark :state="verdict[0]" />
      <div>
        <b>{{ verdict[1] }}</b>
        <span v-for="[good, word] in seals" :key="word" class="seal small" :class="{ good }"
          ><i aria-hidden="true">{{ good ? '✓' : '' }}</i
          >{{ good ? word : `not ${word}` }}</span
        >
        <p class="small" :title="row.because">{{ row.because }}</p>
        <p v-if="tried" class="small" :title="tried">{{ tried }}</p>
      </div>
    </div>
    <AgeLine :row="row" />
    <span class="small">{{ row.takes ? range(row.takes.low, row.takes.high) : '' }}</span>
    <div v-if="running" class="running small" role="status">
      <span>{{ doing }}</span>
      <button v-may="'technician'" type="button" class="btn slim" @click="emit('stop')">Stop</button>
    </div>
    <button
      v-else-if="row.todo === 'prove'"
      v-may="'technician'"
      type="button"
      class="btn slim go"
      :aria-label="`Prove it: ${row.name}`"
      @click="emit('prove')"
    >
      Prove it
    </button>
    <RouterLink v-else-if="row.todo === 'image'" class="btn slim" :to="`/images?words=${encodeURIComponent(row.name)}`">
      Its images
    </RouterLink>
    <button
      v-else
      v-may="'technician'"
      type="button"
      class="btn slim"
      :aria-label="`Prove again: ${row.name}`"
      @click="emit('prove')"
    >
      Prove again
    </button>
  </li>
</template>

<style scoped>
li {
  display: grid;
  grid-template-columns: var(--grid);
  gap: 16px;
  align-items: center;
  padding: 5px 12px;
  border-bottom: 1px solid var(--fold);
  content-visibility: auto;
  contain-intrinsic-size: auto 56px;
}
.place {
  display: block;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.verdict {
  display: flex;
  gap: 10px;
}
.verdict > :first-child {
  margin-top: 4px;
}
.verdict > div {
  min-width: 0;
}
p::first-letter {
  text-transform: uppercase;
}
p {
  color: var(--ink2);
  display: -webkit-box;
  -webkit-line-clamp: 2;
  -webkit-box-orient: vertical;
  overflow: hidden;
}
.seal {
  margin-left: 12px;
  color: var(--ink2);
  white-space: nowrap;
}
.seal i {
  display: inline-grid;
  place-content: center;
  width: 14px;
  height: 14px;
  margin-right: 4px;
  border-radius: 50%;
  border: 1.5px dashed var(--edge);
  font: 700 10px/1 var(--mono);
  vertical-align: -2px;
}
.seal.good i {
  border: 0;
  background: var(--spruce);
  color: var(--on-spruce);
}
.running {
  display: grid;
  gap: 4px;
  justify-items: end;
  text-align: right;
}
</style>
