<script setup lang="ts">
import Dialog from 'primevue/dialog'
import { ref, watch } from 'vue'
import { api, errorText } from '../../api/client'
import type { DriverPack, Mend, MendDraft, StartStep } from '../../api/types'
import { exact } from '../../words/format'

/** What a mend would change, before it is done. */
const props = defineProps<{ step: StartStep | null; docket: number }>()
const emit = defineEmits<{ done: [mend: Mend]; closed: [] }>()
const draft = ref<MendDraft | null>(null)
const error = ref('')
const busy = ref(false)
const packs = ref<DriverPack[] | null>(null)
const chosen = ref<string[]>([])
const wish = () => ({ step: props.step!.id, ...(packs.value ? { packs: chosen.value } : {}) })

watch(
  () => props.step,
  async (step) => {
    draft.value = null
    packs.value = null
    error.value = ''
    if (!step) return
    try {
      if (step.mend === 'drivers') {
        packs.value = await api.get<DriverPack[]>(`/dockets/${props.docket}/driver-packs`)
        chosen.value = packs.value.slice(0, 1).map((pack) => pack.name)
      }
      if (!packs.value || chosen.value.length) await workOut()
    } catch (problem) {
      error.value = errorText(problem)
    }
  },
  { immediate: true },
)

async function workOut() {
  draft.value = await api.post<MendDraft>(`/dockets/${props.docket}/mends/draft`, wish())
}

async function choose() {
  draft.value = null
  error.value = ''
  try {
    if (chosen.value.length) await workOut()
  } catch (problem) {
    error.value = errorText(problem)
  }
}

async function mend() {
  busy.value = true
  try {
    emit('done', await api.post<Mend>(`/dockets/${props.docket}/mends`, wish()))
  } catch (problem) {
    error.value = errorText(problem)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <Dialog
    :visible="step !== null"
    modal
    :header="draft?.title ?? step?.title"
    :style="{ width: '620px' }"
    @update:visible="emit('closed')"
  >
    <p v-if="error" class="message" role="alert">{{ error }}</p>
    <ul v-if="packs" class="packs" aria-label="Driver packs">
      <li v-for="pack in packs" :key="pack.name">
        <label
          ><input v-model="chosen" type="checkbox" :value="pack.name" @change="choose" /> <b>{{ pack.name }}</b></label
        ><span class="small muted">{{
          [pack.provider, pack.version, pack.dated, `for ${pack.device}`].filter(Boolean).join(' · ')
        }}</span>
      </li>
    </ul>
    <p v-if="packs && !packs.length" class="message ask">
      No driver pack on this bench matches the hardware of the computer. Put packs, a folder each, into var/drivers.
    </p>
    <p v-else-if="!draft && !error && (!packs || chosen.length)" role="status">Working it out…</p>
    <dl v-if="draft">
      <dt>Now</dt>
      <dd>{{ draft.before }}</dd>
      <dt>Afterwards</dt>
      <dd>{{ draft.after }}</dd>
      <template v-if="draft.places?.length"
        ><dt>On the disk</dt>
        <dd
          :title="
            draft.places
              .slice(0, 20)
              .map(([at, size]) => `${size} bytes from byte ${at}`)
              .join('\n')
          "
        >
          {{ exact(draft.bytes!) }} in {{ draft.places.length }} place{{ draft.places.length === 1 ? '' : 's' }}
        </dd></template
      >
      <template v-else
        ><dt>Where</dt>
        <dd>In the firmware of the computer</dd></template
      >
    </dl>
    <p v-if="draft" class="small muted">
      What stands there now is kept: it can be taken back until the docket is signed off. Everything else on the disk
      stays as it was read back.
    </p>
    <div class="row">
      <button type="button" class="btn" @click="emit('closed')">Leave it</button
      ><button type="button" class="btn go push" :disabled="!draft || busy" @click="mend">Mend it</button>
    </div>
  </Dialog>
</template>

<style scoped>
.packs {
  list-style: none;
  margin: 0 0 10px;
  padding: 0;
  max-height: 220px;
  overflow-y: auto;
}
.packs li {
  display: grid;
  padding: 5px 0;
  border-bottom: 1px solid var(--fold);
}
dl {
  display: grid;
  grid-template-columns: 90px 1fr;
  gap: 6px 14px;
  margin: 4px 0 12px;
  overflow-wrap: anywhere;
}
dt {
  color: var(--ink2);
  font-size: 13px;
}
dd {
  margin: 0;
}
.row {
  display: flex;
  margin-top: 14px;
}
</style>
