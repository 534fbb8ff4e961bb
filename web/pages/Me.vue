<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import { api, errorText } from '../api/client'
import type { Preferences, SignIn } from '../api/types'
import NewPassword from '../parts/people/NewPassword.vue'
import { roles } from '../parts/people/roles'
import { useSession } from '../session'
import { ago, dated } from '../words/format'

/** One's own: password, wishes, and where one is signed in. */
const session = useSession()
const old = ref('')
const next = ref('')
const said = ref('')
const error = ref('')
const signIns = shallowRef<SignIn[]>([])
const mine = computed(() => session.technician!)
const example = '2031-03-02T18:30:00'
const wishes: { key: keyof Preferences; name: string; of: [string, string][] }[] = [
  {
    key: 'dates',
    name: 'Dates',
    of: [
      ['day-first', '2 Mar 2031'],
      ['month-first', 'Mar 2 2031'],
      ['year-first', '2031-03-02'],
    ],
  },
  {
    key: 'clock',
    name: 'Clock',
    of: [
      ['24', '18:30'],
      ['12', '6:30 pm'],
    ],
  },
  {
    key: 'numbers',
    name: 'Numbers',
    of: [
      ['point', '1,204.5'],
      ['comma', '1.204,5'],
      ['space', '1 204,5'],
    ],
  },
  {
    key: 'theme',
    name: 'Look',
    of: [
      ['system', 'as the computer'],
      ['light', 'light'],
      ['dark', 'dark'],
    ],
  },
  {
    key: 'sound',
    name: 'Sound where a write ends',
    of: [
      ['on', 'on'],
      ['off', 'off'],
    ],
  },
]

/** Runs a request; where it is refused, the reason is shown and nothing else changes. */
async function attempt(request: () => Promise<unknown>) {
  error.value = said.value = ''
  await request().catch((problem) => (error.value = errorText(problem)))
}

const load = () => attempt(async () => (signIns.value = await api.get<SignIn[]>('/me/sign-ins')))
const end = (one: SignIn) => attempt(async () => (signIns.value = await api.delete<SignIn[]>(`/me/sign-ins/${one.id}`)))
const wish = (key: keyof Preferences, value: string) =>
  attempt(() => session.wish({ [key]: value } as Partial<Preferences>))

function change() {
  return attempt(async () => {
    await session.changePassword(old.value, next.value)
    old.value = next.value = ''
    said.value = 'Changed. Wherever else you were signed in, you are not any more.'
    signIns.value = await api.get<SignIn[]>('/me/sign-ins')
  })
}

load()
</script>

<template>
  <div class="page scroll">
    <h1>
      {{ mine.name }} <span class="muted small">{{ mine.sign_in }}, {{ roles[mine.role].name.toLowerCase() }}</span>
    </h1>
    <p v-if="error" class="message" role="alert">{{ error }}</p>
    <div class="parts">
      <section aria-label="Wishes">
        <h2>How it looks and sounds</h2>
        <fieldset v-for="wishOf in wishes" :key="wishOf.key">
          <legend>{{ wishOf.name }}</legend>
          <label v-for="[value, words] in wishOf.of" :key="value"
            ><input
              type="radio"
              :name="wishOf.key"
              :value="value"
              :checked="mine.preferences[wishOf.key] === value"
              @change="wish(wishOf.key, value)"
            />
            {{ words }}</label
          >
        </fieldset>
        <p class="small muted">Times are written as {{ dated(example) }}. It goes with you to every browser.</p>
      </section>
      <section aria-label="Password">
        <h2>Password</h2>
        <form @submit.prevent="change">
          <label class="field"
            >Password until now<input v-model="old" type="password" autocomplete="current-password" required
          /></label>
          <NewPassword v-model="next" />
          <p v-if="said" class="small" role="status">{{ said }}</p>
          <button type="submit" class="btn go">Change it</button>
        </form>
      </section>
      <section class="wide" aria-label="Where you are signed in">
        <h2>Where you are signed in</h2>
        <table class="list">
          <tbody>
            <tr v-for="one in signIns" :key="one.id">
              <td class="agent small" :title="one.agent ?? undefined">{{ one.agent ?? 'a program' }}</td>
              <td class="mono">{{ one.peer }}</td>
              <td>since {{ dated(one.since) }}</td>
              <td>{{ one.this ? 'this one' : `last seen ${ago(one.active_at)}` }}</td>
              <td class="right">
                <button v-if="!one.this" type="button" class="btn slim" @click="end(one)">Sign out there</button>
              </td>
            </tr>
          </tbody>
        </table>
        <p class="small muted">A sign-in ends after half an hour in which you do nothing, and after twelve hours.</p>
      </section>
    </div>
  </div>
</template>

<style scoped>
.page {
  flex: 1;
  min-height: 0;
  padding: 20px 24px;
  display: grid;
  align-content: start;
  gap: 16px;
}
.parts {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 16px;
  max-width: 1000px;
}
section {
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-radius: 10px;
  padding: 18px 20px;
  display: grid;
  gap: 12px;
  align-content: start;
}
.agent {
  max-width: 380px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.wide {
  grid-column: 1 / -1;
}
form {
  display: grid;
  gap: 12px;
}
fieldset {
  border: 0;
  padding: 0;
  margin: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
}
legend {
  padding: 0;
  margin-bottom: 3px;
  font-size: 14px;
  color: var(--ink2);
}
</style>
