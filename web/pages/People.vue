<script setup lang="ts">
import Dialog from 'primevue/dialog'
import { computed, ref, shallowRef } from 'vue'
import { api, errorText } from '../api/client'
import type { Person, PersonWithLink } from '../api/types'
import { useLive } from '../api/live'
import AddPerson from '../parts/people/AddPerson.vue'
import LinkFor from '../parts/people/LinkFor.vue'
import { roles, type Role } from '../parts/people/roles'
import { useSession } from '../session'
import { ago } from '../words/format'

/** Who works here, what they may do, and where they are signed in: for leads. */
const session = useSession()
const people = shallowRef<Person[] | null>(null)
const linked = shallowRef<PersonWithLink | null>(null)
const adding = ref(false)
/** Whose password is about to go. */
const resetting = shallowRef<Person | null>(null)
const words = ref('')
const error = ref('')
const shown = computed(() => {
  const word = words.value.trim().toLowerCase()
  return people.value?.filter((one) => `${one.name} ${one.sign_in} ${one.role}`.toLowerCase().includes(word)) ?? []
})

/** Runs a request, and shows the people as they are then; on a refusal, too. */
async function attempt(request: () => Promise<unknown>) {
  error.value = ''
  await request().catch((problem) => (error.value = errorText(problem)))
  people.value = await api.get<Person[]>('/people').catch(() => people.value)
}

const load = () => attempt(async () => undefined)
const change = (one: Person, what: { role?: Role; disabled?: boolean }) =>
  attempt(() => api.patch(`/people/${one.id}`, what))
function reset() {
  const one = resetting.value!
  resetting.value = null
  return attempt(async () => (linked.value = await api.post<PersonWithLink>(`/people/${one.id}/reset`)))
}

function added(made: PersonWithLink) {
  adding.value = false
  linked.value = made
  load()
}

/** Where somebody is, in words. */
function where(one: Person): string {
  if (one.disabled) return 'may not sign in'
  if (one.waits) return one.link_until ? 'has a link, and no password yet' : 'has no password'
  const [last] = one.sign_ins
  if (!last) return 'not signed in'
  const places = one.sign_ins.length === 1 ? '' : `, at ${one.sign_ins.length} places`
  return `signed in${places}, last seen ${ago(last.active_at)}`
}

useLive({ event: (event) => /^(sign|person|password)/.test(event.kind) && load(), back: load })
load()
</script>

<template>
  <div class="listed">
    <div class="head">
      <h1>People</h1>
      <span v-if="people" class="muted small">{{ people.length }}</span>
      <input v-model="words" class="push" type="search" aria-label="Find somebody" placeholder="Name or sign-in" />
      <button type="button" class="btn go" @click="adding = true">Add somebody…</button>
    </div>
    <p v-if="error" class="message" role="alert">{{ error }}</p>
    <LinkFor v-if="linked" :for="linked" @close="linked = null" />
    <div class="rows scroll">
      <table v-if="shown.length" class="list">
        <thead>
          <tr>
            <th>Name</th>
            <th>Sign-in</th>
            <th>May</th>
            <th>Now</th>
            <th><span class="hidden-words">What can be done</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in shown" :key="one.id" :class="{ out: one.disabled }">
            <td>
              <b>{{ one.name }}</b>
              <span v-if="one.id === session.technician?.id" class="chip">you</span>
            </td>
            <td class="mono">{{ one.sign_in }}</td>
            <td>
              <select
                :value="one.role"
                :aria-label="`What ${one.name} may do`"
                :disabled="one.disabled"
                @change="change(one, { role: ($event.target as HTMLSelectElement).value as Role })"
              >
                <option v-for="(role, key) in roles" :key="key" :value="key">{{ role.name }}: {{ role.does }}</option>
              </select>
            </td>
            <td class="small">{{ where(one) }}</td>
            <td class="right">
              <div v-if="one.id !== session.technician?.id" class="deeds">
                <button
                  v-if="one.sign_ins.length"
                  type="button"
                  class="btn slim"
                  @click="attempt(() => api.delete(`/people/${one.id}/sign-ins`))"
                >
                  Sign out
                </button>
                <button v-if="!one.disabled" type="button" class="btn slim" @click="resetting = one">New link…</button>
                <button type="button" class="btn slim" @click="change(one, { disabled: !one.disabled })">
                  {{ one.disabled ? 'Let in again' : 'Shut out' }}
                </button>
              </div>
            </td>
          </tr>
        </tbody>
      </table>
      <div v-else-if="people" class="empty"><b>Nobody of that name</b></div>
    </div>
    <Dialog
      :visible="!!resetting"
      modal
      :header="`A new link for ${resetting?.name}`"
      :style="{ width: '440px' }"
      @update:visible="resetting = null"
    >
      <p>
        The password until now is gone at once, and they are signed out everywhere. By the link they choose another.
      </p>
      <p><button type="button" class="btn hot" autofocus @click="reset">Make the link</button></p>
    </Dialog>
    <AddPerson v-model:visible="adding" @added="added" />
  </div>
</template>

<style scoped>
.out td {
  color: var(--ink2);
}
.deeds {
  display: flex;
  gap: 6px;
  justify-content: flex-end;
}
select {
  max-width: 290px;
}
</style>
