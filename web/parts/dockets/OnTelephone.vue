<script setup lang="ts">
import Dialog from 'primevue/dialog'
import code from 'qrcode-generator'
import { computed } from 'vue'

/** A code that opens this docket on a telephone: what is to be done at the computer is in the hand there. */
const props = defineProps<{ docket: number }>()
const visible = defineModel<boolean>('visible', { required: true })
const EDGE = 4 // modules left white around it
const address = computed(() => `${window.location.origin}/dockets/${props.docket}/start`)
/** Whether that leads to this machine only. */
const own = ['127.0.0.1', 'localhost', '[::1]'].includes(window.location.hostname)
const drawn = computed(() => {
  const made = code(0, 'M')
  made.addData(address.value)
  made.make()
  const size = made.getModuleCount()
  const dots = Array.from({ length: size * size }, (_, index) => [index % size, Math.floor(index / size)] as const)
  const path = dots
    .filter(([x, y]) => made.isDark(y, x))
    .map(([x, y]) => `M${x + EDGE} ${y + EDGE}h1v1h-1z`)
    .join('')
  return { size: size + 2 * EDGE, path }
})
</script>

<template>
  <Dialog v-model:visible="visible" modal header="On the telephone" :style="{ width: '360px' }">
    <div class="code">
      <svg :viewBox="`0 0 ${drawn.size} ${drawn.size}`" role="img" :aria-label="`Code of ${address}`">
        <rect :width="drawn.size" :height="drawn.size" fill="#fff" />
        <path :d="drawn.path" fill="#000" />
      </svg>
      <span class="mono small">{{ address }}</span>
      <p v-if="own" class="message ask">
        This address leads to this machine only. Open Evrel by one that a telephone reaches, and that EVREL_HOSTS names.
      </p>
      <p v-else class="small muted">Sign in there, too: the code says where, not who.</p>
    </div>
  </Dialog>
</template>

<style scoped>
.code {
  display: grid;
  gap: 10px;
  justify-items: center;
}
svg {
  width: 260px;
  height: 260px;
}
.mono {
  overflow-wrap: anywhere;
}
</style>
