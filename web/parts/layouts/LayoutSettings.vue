<script setup lang="ts">
import Dialog from 'primevue/dialog'
import { computed, ref, useTemplateRef } from 'vue'
import { api, errorText } from '../../api/client'
import type { LayoutPreset, LayoutView, Wish } from '../../api/types'
import { bytes } from '../../words/format'
import { understand } from '../../words/sizes'

/** What is set seldom: room left free, table, identity, alignment; files and layouts that are kept. */
const props = defineProps<{ view: LayoutView; docket: number; fixed: boolean }>()
const emit = defineEmits<{ wish: [wish: Wish]; read: [text: string]; changed: [] }>()
const open = defineModel<boolean>({ required: true })
const wish = computed<Wish>(() => props.view.wish ?? {})
const disk = computed(() => props.view.after?.size_bytes ?? 0)
const free = ref('')
const freeError = ref('')
const name = ref('')
const error = ref('')
const file = useTemplateRef<HTMLInputElement>('file')
const set = (change: Wish) => emit('wish', { ...wish.value, ...change })
const freeNow = computed(() =>
  wish.value.free === undefined || wish.value.free === 0
    ? 'nothing'
    : typeof wish.value.free === 'string'
      ? wish.value.free
      : bytes(wish.value.free),
)

function setFree() {
  const typed = free.value.trim()
  freeError.value = ''
  if (/^\d{1,2}([.,]\d+)? ?%$/.test(typed)) set({ free: typed.replace(',', '.').replace(' ', '') })
  else if (!typed || typed === '0') set({ free: 0 })
  else {
    const read = understand(typed, { now: 0, least: 0, most: disk.value, of: disk.value })
    if ('error' in read) return void (freeError.value = read.error)
    set({ free: read.bytes })
  }
  free.value = ''
}

async function attempt(request: () => Promise<unknown>) {
  error.value = ''
  try {
    await request()
    emit('changed')
  } catch (problem) {
    error.value = errorText(problem)
  }
}
const keep = () =>
  attempt(async () => {
    await api.post<LayoutPreset>('/layout-presets', { name: name.value, wish: wish.value })
    name.value = ''
  })
const drop = (preset: LayoutPreset) => attempt(() => api.delete(`/layout-presets/${preset.id}`))
async function take(event: Event) {
  const chosen = (event.target as HTMLInputElement).files?.[0]
  if (chosen) emit('read', await chosen.text())
  open.value = false
}

function usePreset(preset: LayoutPreset) {
  emit('wish', preset.wish)
  open.value = false
}
</script>

<template>
  <Dialog v-model:visible="open" modal header="More about this layout" :style="{ width: '640px' }" dismissable-mask>
    <fieldset :disabled="fixed" class="grid">
      <label for="free">Leave room free at the end</label>
      <div class="line">
        <input
          id="free"
          v-model="free"
          class="text mono"
          :placeholder="freeNow"
          autocomplete="off"
          @keydown.enter.prevent="setFree"
        /><button type="button" class="btn slim" @click="setFree">Set</button
        ><span class="small muted">{{ freeError || '10% or 24 GB: a drive that spares itself lives longer' }}</span>
      </div>
      <span>Partition table</span>
      <div class="line" role="radiogroup" aria-label="Partition table">
        <label v-for="kind in ['gpt', 'mbr'] as const" :key="kind"
          ><input type="radio" name="table" :checked="view.after?.table === kind" @change="set({ table: kind })" />
          {{ kind.toUpperCase() }}</label
        >
      </div>
      <span>Identity of the disk and its parts</span>
      <div class="line" role="radiogroup" aria-label="Identity">
        <label
          ><input
            type="radio"
            name="identity"
            :checked="wish.identity !== 'renew'"
            @change="set({ identity: 'keep' })"
          />
          As in the image</label
        ><label
          ><input
            type="radio"
            name="identity"
            :checked="wish.identity === 'renew'"
            @change="set({ identity: 'renew' })"
          />
          New</label
        >
        <label v-if="wish.identity === 'renew'"
          ><input
            type="checkbox"
            :checked="wish.rewrite !== false"
            @change="set({ rewrite: wish.rewrite === false })"
          />
          and rewrite what names the old one</label
        >
      </div>
      <template v-if="view.rewrites?.length"
        ><span />
        <ul class="small names">
          <li v-for="one in view.rewrites" :key="one.path + one.old">
            <span class="mono">{{ one.path }}</span> names <span class="mono">{{ one.old }}</span>
          </li>
        </ul></template
      >
      <span>Alignment</span>
      <div class="line" role="radiogroup" aria-label="Alignment">
        <label
          ><input type="radio" name="align" :checked="wish.align !== 'image'" @change="set({ align: 'mib' })" /> To 1
          MiB</label
        ><label
          ><input type="radio" name="align" :checked="wish.align === 'image'" @change="set({ align: 'image' })" /> As in
          the image</label
        >
      </div>
      <span>Spread evenly</span>
      <div class="line" role="radiogroup" aria-label="Spread">
        <label
          ><input type="radio" name="by" :checked="wish.by !== 'used'" @change="set({ by: 'size' })" /> By size</label
        ><label
          ><input type="radio" name="by" :checked="wish.by === 'used'" @change="set({ by: 'used' })" /> By what is
          used</label
        >
      </div>
      <label for="air">Air when shrinking</label>
      <div class="line">
        <select
          id="air"
          class="text"
          :value="wish.air ?? 10"
          @change="set({ air: Number(($event.target as HTMLSelectElement).value) })"
        >
          <option v-for="percent in [0, 5, 10, 20, 30, 50]" :key="percent" :value="percent">
            {{ percent }} %
          </option></select
        ><span class="small muted">above what a volume needs, 256 MiB at the least</span>
      </div>
    </fieldset>
    <h3>Kept layouts</h3>
    <ul class="kept">
      <li v-for="preset in view.presets" :key="preset.id">
        <b>{{ preset.name }}</b><span class="small muted">{{ preset.by }}</span
        ><button type="button" class="btn slim push" :disabled="fixed" @click="usePreset(preset)">Use it</button
        ><button type="button" class="btn slim" :aria-label="`Forget ${preset.name}`" @click="drop(preset)">
          Forget
        </button>
      </li>
      <li v-if="!view.presets?.length" class="small muted">None yet. Keep this one for a row of equal computers.</li>
    </ul>
    <div class="line">
      <input
        v-model="name"
        class="text wide"
        maxlength="60"
        aria-label="Name of the layout"
        placeholder="Name, such as Ticket desks, 480 GB"
        @keydown.enter.prevent="keep"
      /><button type="button" class="btn slim" :disabled="!name.trim()" @click="keep">Keep this layout</button>
    </div>
    <h3>As a file</h3>
    <div class="line">
      <a class="btn slim" :href="`/api/dockets/${docket}/layout/plan.json`" download>Plan as JSON</a
      ><a class="btn slim" :href="`/api/dockets/${docket}/layout/plan.sfdisk`" download :aria-disabled="!view.valid"
        >Script for sfdisk</a
      >
      <button type="button" class="btn slim push" :disabled="fixed" @click="file?.click()">Read one in…</button
      ><input
        ref="file"
        type="file"
        hidden
        accept=".json,.sfdisk,.txt,application/json,text/plain"
        aria-label="A plan or a script"
        @change="take"
      />
    </div>
    <p v-if="error" class="message" role="alert">{{ error }}</p>
  </Dialog>
</template>

<style scoped>
.grid {
  border: 0;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: 190px 1fr;
  gap: 9px 14px;
  align-items: center;
  font-size: 14px;
}
.line {
  display: flex;
  gap: 12px;
  align-items: center;
  flex-wrap: wrap;
  font-size: 14px;
}
.text {
  padding: 4px 8px;
  width: 110px;
}
.wide {
  width: auto;
  flex: 1;
}
.names {
  margin: 0;
  padding-left: 16px;
  overflow-wrap: anywhere;
}
h3 {
  font-size: 14px;
  font-weight: 700;
  margin: 16px 0 6px;
}
.kept {
  list-style: none;
  margin: 0 0 8px;
  padding: 0;
  display: grid;
  gap: 4px;
  max-height: 150px;
  overflow-y: auto;
}
.kept li {
  display: flex;
  gap: 10px;
  align-items: center;
}
</style>
