<script setup lang="ts">
import Dialog from 'primevue/dialog'
import { ref, watch } from 'vue'
import { api, errorText } from '../api/client'
import type { Mend, MendDraft, StartStep } from '../api/types'
import { exact } from '../words/format'

/** What a mend would change, before it is done. */
const props = defineProps<{ step: StartStep | null; docket: number }>()
const emit = defineEmits<{ done: [mend: Mend]; closed: [] }>()
const draft = ref<MendDraft | null>(null)
const error = ref('')
const busy = ref(false)

watch(() => props.step, async (step) => {
  draft.value = null
  error.value = ''
  if (!step) return
  try {
    draft.value = await api.post<MendDraft>(`/dockets/${props.docket}/mends/draft`, { step: step.id })
  } catch (problem) {
    error.value = errorText(problem)
  }
}, { immediate: true })

async function mend() {
  busy.value = true
  try {
    emit('done', await api.post<Mend>(`/dockets/${props.docket}/mends`, { step: props.step!.id }))
  } catch (problem) {
    error.value = errorText(problem)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <Dialog :visible="step !== null" modal :header="draft?.title ?? step?.title" :style="{ width: '620px' }" @update:visible="emit('closed')">
    <p v-if="error" class="message" role="alert">{{ error }}</p>
    <p v-else-if="!draft" role="status">Working it out…</p>
    <dl v-if="draft">
      <dt>Now</dt><dd>{{ draft.before }}</dd>
      <dt>Afterwards</dt><dd>{{ draft.after }}</dd>
      <template v-if="draft.places?.length"><dt>On the disk</dt><dd :title="draft.places.slice(0, 20).map(([at, size]) => `${size} bytes from byte ${at}`).join('\n')">{{ exact(draft.bytes!) }} in {{ draft.places.length }} place{{ draft.places.length === 1 ? '' : 's' }}</dd></template>
      <template v-else><dt>Where</dt><dd>In the firmware of the computer</dd></template>
    </dl>
    <p v-if="draft" class="small muted">What stands there now is kept: it can be taken back until the docket is signed off. Everything else on the disk stays as it was read back.</p>
    <div class="row"><button type="button" class="btn" @click="emit('closed')">Leave it</button><button type="button" class="btn go push" :disabled="!draft || busy" @click="mend">Mend it</button></div>
  </Dialog>
</template>

<style scoped>
dl { display: grid; grid-template-columns: 90px 1fr; gap: 6px 14px; margin: 4px 0 12px; overflow-wrap: anywhere; }
dt { color: var(--ink2); font-size: 13px; }
dd { margin: 0; }
.row { display: flex; margin-top: 14px; }
</style>
