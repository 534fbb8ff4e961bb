<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api } from '../../api/client'
import { online, useLive } from '../../api/live'
import type { OpenWrite, Preferences, Write } from '../../api/types'
import { useSession } from '../../session'
import { useKeys } from '../../words/keys'
import { done } from '../../words/progress'
import { useTelling } from '../../words/tell'
import FindBox from './FindBox.vue'
import KeysHelp from './KeysHelp.vue'

const session = useSession()
const route = useRoute()
const router = useRouter()
const help = ref(false)
const menu = ref(false)
const writing = ref<Record<number, number>>({})
const theme = computed(() => session.technician?.preferences.theme)
const tabs = computed(
  () =>
    [
      ['/dockets', 'Dockets'],
      ['/images', 'Images'],
      ['/computers', 'Computers'],
      ['/readiness', 'Readiness'],
      ['/bench', 'Bench'],
      ['/records', 'Records'],
      ...(session.may('lead') ? [['/people', 'People'] as const] : []),
    ] as const,
)

useTelling()

function note(write: Pick<Write, 'id' | 'state' | 'progress'>) {
  if (write.state === 'running' || write.state === 'queued') writing.value[write.id] = done(write.progress)
  else delete writing.value[write.id]
}

async function load() {
  const writes = await api.get<OpenWrite[]>('/writes')
  writing.value = {}
  for (const write of writes) note(write)
}

function choose(next: Preferences['theme']) {
  session.wish({ theme: next }).catch(() => undefined)
}

async function leave() {
  await session.signOut()
  await router.push('/sign-in')
}

useLive({ write: note, event: (event) => event.kind.startsWith('write_') && load(), back: () => load() })
useKeys({ '?': () => (help.value = true) })
load().catch(() => undefined)

function showKeys() {
  help.value = true
  menu.value = false
}
</script>

<template>
  <header class="top">
    <RouterLink class="mark" to="/dockets" aria-label="Evrel, dockets"><i />evrel</RouterLink>
    <nav class="tabs" aria-label="Pages">
      <RouterLink v-for="[path, name] in tabs" :key="path" :to="path" :class="{ on: route.path.startsWith(path) }">{{
        name
      }}</RouterLink>
    </nav>
    <FindBox />
    <RouterLink
      v-if="Object.keys(writing).length"
      class="chip hot writing"
      to="/writes"
      title="All writes, in large type"
    >
      {{ Object.keys(writing).length }} writing · {{ Math.min(...Object.values(writing)) }} %
    </RouterLink>
    <span v-if="!online" class="chip no" role="status">No line to the server</span>
    <span v-if="!session.may('technician')" class="chip" title="You may look; a technician does the rest">Reader</span>
    <div class="who">
      <button class="name" type="button" :aria-expanded="menu" @click="menu = !menu" @keydown.esc="menu = false">
        {{ session.technician?.short_name }}
      </button>
      <div v-if="menu" class="menu" @keydown.esc="menu = false">
        <div class="small muted">Look</div>
        <div class="themes">
          <button
            v-for="name in ['system', 'light', 'dark'] as const"
            :key="name"
            type="button"
            class="btn slim"
            :aria-pressed="theme === name"
            :class="{ on: theme === name }"
            @click="choose(name)"
          >
            {{ name }}
          </button>
        </div>
        <RouterLink class="btn slim" to="/me" @click="menu = false">Password and wishes</RouterLink>
        <button type="button" class="btn slim" @click="showKeys">All keys <span class="key">?</span></button>
        <button type="button" class="btn slim" @click="leave">Sign out</button>
      </div>
    </div>
    <KeysHelp v-model:visible="help" />
  </header>
</template>

<style scoped>
.top {
  height: 50px;
  flex: none;
  display: flex;
  align-items: center;
  gap: 26px;
  padding: 0 20px;
  border-bottom: 1px solid var(--rule);
}
.mark {
  font-weight: 800;
  font-size: 21px;
  letter-spacing: -0.03em;
  display: flex;
  gap: 8px;
  align-items: center;
  text-decoration: none;
}
.mark i {
  width: 11px;
  height: 24px;
  border-radius: 5px;
  background: linear-gradient(
    var(--r-startup) 0 22%,
    var(--sheet) 22% 27%,
    var(--r-system) 27% 74%,
    var(--sheet) 74% 79%,
    var(--r-recovery) 79%
  );
}
.tabs {
  display: flex;
  gap: 4px;
}
.tabs a {
  padding: 6px 12px;
  border-radius: 6px;
  color: var(--ink2);
  font-weight: 600;
  text-decoration: none;
}
.tabs a.on {
  background: var(--tab);
  color: var(--on-tab);
}
.writing {
  text-decoration: none;
}
.who {
  position: relative;
}
.name {
  border: 0;
  background: none;
  font-weight: 600;
  color: var(--ink2);
  padding: 6px;
  white-space: nowrap;
  cursor: pointer;
}
.menu {
  position: absolute;
  right: 0;
  top: 36px;
  z-index: 30;
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-radius: 8px;
  padding: 12px;
  display: grid;
  gap: 8px;
  width: 220px;
  box-shadow: 0 8px 24px rgb(0 0 0 / 14%);
}
.themes {
  display: flex;
  gap: 4px;
}
.themes .btn {
  flex: 1;
  text-transform: capitalize;
  padding: 4px;
}
.themes .on {
  background: var(--tab);
  color: var(--on-tab);
}
@media (max-width: 1150px) {
  .top {
    gap: 12px;
  }
  .tabs a {
    padding: 6px 8px;
  }
}
/* On a telephone the pages are a row of their own, and what is searched for is searched for at a desk. */
@media (max-width: 700px) {
  .top {
    height: auto;
    flex-wrap: wrap;
    gap: 4px 12px;
    padding: 6px 12px;
  }
  .tabs {
    order: 1;
    width: 100%;
    overflow-x: auto;
    scrollbar-width: none;
  }
  .top :deep(.find) {
    display: none;
  }
  .who {
    margin-left: auto;
  }
}
</style>
