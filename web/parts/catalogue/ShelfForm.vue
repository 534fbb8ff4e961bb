<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, errorText } from '../../api/client'
import type { Bench, BenchDrive, Part, Shelf } from '../../api/types'
import { bytes } from '../../words/format'

/** A new shelf, or the name and sign-in of one that is there. */
const props = defineProps<{ shelf?: Shelf }>()
const emit = defineEmits<{ done: []; takeAway: [] }>()
const kind = ref<Shelf['kind']>(props.shelf?.kind ?? 'folder')
const name = ref(props.shelf?.name ?? '')
const path = ref('')
const address = ref('')
const user = ref(props.shelf?.user ?? '')
const password = ref('')
const volume = ref('')
const drives = ref<{ key: string; drive: number; uuid: string; words: string }[]>([])
const error = ref('')
const busy = ref(false)
const KINDS = { folder: 'A folder or mounted share', drive: 'An attached drive', web: 'A place on the web' } as const
const chosen = computed(() => drives.value.find((one) => one.key === volume.value))

api
  .get<Bench>('/bench')
  .then((bench) => {
    drives.value = bench.ports.flatMap(({ port, drive }) =>
      drive
        ? drive.parts.flatMap((part) =>
            part.volume.uuid && !drive.shelves.length
              ? [
                  {
                    key: `${drive.id} ${part.volume.uuid}`,
                    drive: drive.id,
                    uuid: part.volume.uuid,
                    words: volumeWords(port, drive, part),
                  },
                ]
              : [],
          )
        : [],
    )
    volume.value = drives.value[0]?.key ?? ''
  })
  .catch(() => undefined)

async function save() {
  busy.value = true
  error.value = ''
  try {
    if (props.shelf)
      await api.patch(`/shelves/${props.shelf.id}`, {
        name: name.value,
        ...(kind.value === 'web' ? { user: user.value, password: password.value } : {}),
      })
    else
      await api.post('/shelves', {
        kind: kind.value,
        name: name.value,
        path: path.value,
        address: address.value,
        user: user.value,
        password: password.value,
        ...(chosen.value ? { drive_id: chosen.value.drive, volume_uuid: chosen.value.uuid } : {}),
      })
    emit('done')
  } catch (problem) {
    error.value = errorText(problem)
  } finally {
    busy.value = false
  }
}

function volumeWords(port: string, drive: BenchDrive, part: Part) {
  return `Port ${port}: ${bytes(drive.capacity)} ${drive.maker} ${drive.model}, “${part.volume.label ?? part.name}”`
}
</script>

<template>
  <form @submit.prevent="save">
    <div v-if="!shelf" class="kinds" role="radiogroup" aria-label="Kind of shelf">
      <label v-for="(words, key) in KINDS" :key="key" :class="{ on: kind === key }"
        ><input v-model="kind" type="radio" name="kind" :value="key" />{{ words }}</label
      >
    </div>
    <label class="field"
      >Name<input v-model="name" required maxlength="60" autofocus placeholder="As people here call it"
    /></label>
    <label v-if="!shelf && kind === 'folder'" class="field"
      >Full path on this machine<input v-model="path" required class="mono" placeholder="/mnt/office/images"
    /></label>
    <label v-if="!shelf && kind === 'drive'" class="field"
      >Volume
      <select v-model="volume" required>
        <option v-for="one in drives" :key="one.key" :value="one.key">{{ one.words }}</option></select
      ><small v-if="!drives.length">No attached drive holds a volume that is no shelf yet.</small>
    </label>
    <label v-if="!shelf && kind === 'web'" class="field"
      >Address of the folder<input
        v-model="address"
        required
        class="mono"
        type="url"
        placeholder="https://files.example/images/"
    /></label>
    <div v-if="kind === 'web'" class="two">
      <label class="field">User, if it asks for one<input v-model="user" autocomplete="off" /></label>
      <label class="field"
        >Password<input
          v-model="password"
          type="password"
          autocomplete="new-password"
          :placeholder="shelf ? 'as before' : ''"
      /></label>
    </div>
    <p v-if="error" class="message" role="alert">{{ error }}</p>
    <div class="foot">
      <button type="submit" class="btn go" :disabled="busy">
        {{ shelf ? 'Keep the changes' : 'Add it and look through it' }}
      </button>
      <a
        v-if="shelf?.kind === 'drive'"
        class="btn push"
        :href="`/api/shelves/${shelf.id}/label.pdf`"
        target="_blank"
        rel="noopener"
        >Label to print</a
      >
      <button
        v-if="shelf"
        type="button"
        class="btn"
        :class="{ push: shelf.kind !== 'drive' }"
        @click="emit('takeAway')"
      >
        Take it away…
      </button>
    </div>
  </form>
</template>

<style scoped>
form {
  display: grid;
  gap: 14px;
}
.kinds {
  display: grid;
  gap: 6px;
}
.kinds label {
  display: flex;
  gap: 8px;
  align-items: center;
  border: 1px solid var(--rule);
  border-radius: 7px;
  padding: 7px 10px;
  cursor: pointer;
}
.kinds label.on {
  border-color: var(--ember);
  box-shadow: inset 0 0 0 1px var(--ember);
  font-weight: 650;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
.foot {
  display: flex;
}
</style>
