<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import TopBar from './parts/common/TopBar.vue'
import { useSession } from './session'
import { applyTheme } from './look/theme'

applyTheme()
const route = useRoute()
const session = useSession()
for (const sign of ['pointermove', 'pointerdown', 'keydown'])
  window.addEventListener(sign, () => session.here(), { passive: true })
const framed = computed(() => session.technician && !route.meta.open)
</script>

<template>
  <div class="app">
    <TopBar v-if="framed" />
    <main><RouterView /></main>
  </div>
</template>

<style scoped>
.app {
  height: 100%;
  display: flex;
  flex-direction: column;
}
main {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
}
</style>
