<script setup lang="ts">
import { onScopeDispose, reactive, ref, shallowRef, watch } from 'vue'
import { api, errorText } from '../../api/client'
import type { AlikeComputer, ComputerAbout, ReadComputer } from '../../api/types'
import OwnFields from './OwnFields.vue'
import ReadFacts from './ReadFacts.vue'

/** What is written down of a computer; its name is enough. What a drive, an image or a text says comes in by itself. */
const props = defineProps<{ computer?: ComputerAbout | null; from?: { kind: 'drive' | 'image'; id: number } | null }>()
const emit = defineEmits<{ kept: [computer: ComputerAbout]; same: [id: number] }>()

const FIELDS = [
  'name',
  'place',
  'owner',
  'maker',
  'model',
  'serial',
  'system_identity',
  'boot_menu',
  'precious',
] as const
const WISHES = [
  [1, 'a day'],
  [7, '7 days'],
  [30, '30 days'],
  [365, 'a year'],
] as const
type Field = (typeof FIELDS)[number]
type Kept = Pick<ComputerAbout, 'keep_newest' | 'keep_monthly' | 'keep_started'>
const given = reactive<Record<Field, string> & { firmware: string; secure_boot: boolean; wish_days: number } & Kept>({
  ...(Object.fromEntries(FIELDS.map((field) => [field, props.computer?.[field] ?? ''])) as Record<Field, string>),
  firmware: props.computer?.firmware ?? '',
  secure_boot: props.computer?.secure_boot ?? false,
  wish_days: props.computer?.wish_days ?? 30,
  keep_newest: props.computer?.keep_newest ?? 7,
  keep_monthly: props.computer?.keep_monthly ?? 12,
  keep_started: props.computer?.keep_started ?? true,
})
const own = ref(Object.entries(props.computer?.free ?? {}).map(([name, text]) => ({ name, text })))
/** What has no field of its own, as it was read. */
const read = shallowRef<Pick<ReadComputer['given'], 'hardware' | 'boot_entries' | 'boot_order'>>({})
const facts = shallowRef<ReadComputer | null>(null)
const alike = shallowRef<AlikeComputer[]>([])
const text = ref('')
const error = ref('')
const busy = ref(false)

/** Fields that are empty are filled; what somebody typed stays. */
function take(found: ReadComputer) {
  facts.value = found
  for (const field of [...FIELDS, 'firmware'] as const) if (!given[field]) given[field] = found.given[field] ?? ''
  const { hardware, boot_entries, boot_order } = found.given
  read.value = { hardware, boot_entries, boot_order }
}

async function attempt(request: () => Promise<void>) {
  busy.value = true
  error.value = ''
  await request().catch((problem) => (error.value = errorText(problem)))
  busy.value = false
}

const understand = () =>
  attempt(async () => {
    take(await api.post<ReadComputer>('/computers-read', { text: text.value }))
    text.value = ''
  })

const keep = () =>
  attempt(async () => {
    const free = Object.fromEntries(
      own.value.filter((one) => one.name.trim()).map((one) => [one.name.trim(), one.text]),
    )
    const body = { ...given, ...read.value, firmware: given.firmware || null, free }
    if (props.computer) return emit('kept', await api.patch<ComputerAbout>(`/computers/${props.computer.id}`, body))
    const source = props.from ? { [`${props.from.kind}_id`]: props.from.id } : {}
    emit('kept', await api.post<ComputerAbout>('/computers', { ...body, ...source }))
  })

let timer = 0
watch(
  () => [given.name, given.system_identity, given.serial],
  ([name, identity, serial]) => {
    clearTimeout(timer)
    const query = new URLSearchParams({ name: name!, identity: identity!, serial: serial! })
    if (props.computer) query.set('but', String(props.computer.id))
    timer = window.setTimeout(async () => {
      alike.value = await api.get<AlikeComputer[]>(`/computers-alike?${query}`).catch(() => [])
    }, 250)
  },
)
onScopeDispose(() => clearTimeout(timer))
if (props.from)
  attempt(async () => take(await api.get<ReadComputer>(`/${props.from!.kind}s/${props.from!.id}/computer`)))

async function dropped(event: DragEvent) {
  const file = event.dataTransfer?.files[0]
  if (file) text.value = await file.text()
}
</script>

<template>
  <form @submit.prevent="keep">
    <div class="columns">
      <div class="fields">
        <label class="field">Name<input v-model="given.name" autofocus maxlength="60" required /></label>
        <div v-if="alike.length" class="message ask alike" role="status">
          <div v-for="one in alike" :key="one.id">
            <b>{{ one.name }}</b> {{ one.place }}: {{ one.why }}.
            <button v-if="!computer" type="button" class="btn slim" @click="emit('same', one.id)">
              It is this one
            </button>
          </div>
        </div>
        <div class="pair">
          <label class="field">Place<input v-model="given.place" maxlength="120" /></label
          ><label class="field">Owner<input v-model="given.owner" maxlength="120" /></label>
        </div>
        <div class="pair">
          <label class="field">Maker<input v-model="given.maker" maxlength="120" /></label
          ><label class="field">Model<input v-model="given.model" maxlength="120" /></label>
        </div>
        <div class="pair">
          <label class="field">Serial number<input v-model="given.serial" class="mono" maxlength="120" /></label
          ><label class="field"
            >System identity<input v-model="given.system_identity" class="mono" maxlength="120"
          /></label>
        </div>
        <div class="pair">
          <label class="field"
            >Starts by<select v-model="given.firmware">
              <option value="">Not known yet</option>
              <option value="uefi">UEFI</option>
              <option value="bios">BIOS</option>
            </select></label
          ><label class="check"><input v-model="given.secure_boot" type="checkbox" /> secure boot is on</label>
        </div>
        <OwnFields v-model="own" />
      </div>
      <div class="fields">
        <label class="field"
          >How one gets into its boot menu<input
            v-model="given.boot_menu"
            maxlength="400"
            placeholder="The key, and what the next colleague should know"
        /></label>
        <label class="field"
          >Its newest image should be<select v-model.number="given.wish_days">
            <option v-for="[days, words] in WISHES" :key="days" :value="days">at most {{ words }} old</option>
          </select></label
        >
        <fieldset class="kept small">
          <legend>Its images that are kept; others are proposed to be given up</legend>
          <label
            >the newest <input v-model.number="given.keep_newest" type="number" min="1" max="365" required
          /></label>
          <label
            >the last of each of
            <input v-model.number="given.keep_monthly" type="number" min="0" max="120" required /> months</label
          >
          <label><input v-model="given.keep_started" type="checkbox" /> all that were seen to start</label>
        </fieldset>
        <label class="field"
          >What must not be lost<textarea v-model="given.precious" rows="3" maxlength="2000" />
        </label>
        <label class="field"
          >What it says of itself<textarea
            v-model="text"
            class="mono said"
            rows="4"
            placeholder="Paste or drop what dmidecode, lspci -nn -k, lshw -json or efibootmgr -v print"
            @drop.prevent="dropped"
            @dragover.prevent
          />
        </label>
        <button type="button" class="btn slim" :disabled="!text.trim() || busy" @click="understand">Read it</button>
        <ReadFacts v-if="facts" :read="facts" />
      </div>
    </div>
    <p v-if="error" class="message" role="alert">{{ error }}</p>
    <button type="submit" class="btn go" :disabled="busy">{{ computer ? 'Keep it' : 'Register it' }}</button>
  </form>
</template>

<style scoped>
form,
.fields {
  display: grid;
  gap: 12px;
  align-content: start;
}
.columns {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 24px;
}
.pair {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 12px;
  align-items: end;
}
.kept {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: center;
  border: 1px solid var(--rule);
  border-radius: 7px;
  padding: 4px 10px 8px;
}
.kept input[type='number'] {
  width: 62px;
  padding: 2px 6px;
}
.check {
  padding-bottom: 8px;
  font-size: 14px;
}
.said {
  font-size: 12px;
}
.alike {
  display: grid;
  gap: 4px;
}
@media (max-width: 900px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
