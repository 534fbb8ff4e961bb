<script setup lang="ts">
import { computed, onScopeDispose, ref, watch } from 'vue'
import { heard, online, useLive } from '../../api/live'

/** Says so where nothing was heard of running work for some seconds: its figures are old then. */
const props = defineProps<{ work: string; running: boolean }>()
const PATIENCE = 5000 // ms; work that lives is heard of every second
const since = ref(performance.now())
const now = ref(performance.now())
const quiet = computed(() => now.value - Math.max(since.value, heard.get(props.work) ?? 0))
const still = computed(() => props.running && online.value && quiet.value > PATIENCE)
const timer = setInterval(() => (now.value = performance.now()), 500)

watch(
  () => [props.work, props.running],
  () => (since.value = performance.now()),
)
useLive({ back: () => (since.value = performance.now()) })
onScopeDispose(() => clearInterval(timer))
</script>

<template>
  <span v-if="still" class="still small" role="status"
    ><span class="mark" aria-hidden="true" />It stands still: nothing was heard of it for
    {{ Math.round(quiet / 1000) }} s. If what does it has ended, it is taken up again within half a minute, or when
    Evrel is started again.</span
  >
</template>

<style scoped>
.still {
  display: inline-block;
  color: var(--ochre-ink);
}
.mark {
  display: inline-block;
  width: 9px;
  height: 9px;
  margin-right: 7px;
  background: var(--ochre);
  transform: rotate(45deg);
}
</style>
