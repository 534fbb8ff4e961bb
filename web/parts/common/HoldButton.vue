<script setup lang="ts">
import { onUnmounted, ref } from 'vue'

/**
 * A button that takes being held for a moment, as does Enter anywhere on the page: it cannot be pressed by a slip.
 * aside: another one on the page has Enter.
 */
const props = defineProps<{ disabled: boolean; aside?: boolean }>()
const emit = defineEmits<{ held: [] }>()
const HOLD = 900 // ms
const held = ref(0)
let since = 0
let frame = 0

function press() {
  if (since || props.disabled) return
  since = performance.now()
  const step = () => {
    held.value = Math.min(1, (performance.now() - since) / HOLD)
    if (held.value < 1) frame = requestAnimationFrame(step)
    else {
      release()
      emit('held')
    }
  }
  step()
}

function release() {
  cancelAnimationFrame(frame)
  since = 0
  held.value = 0
}

function keydown(event: KeyboardEvent) {
  const field = event.target as HTMLElement
  const taken =
    field.closest('a, button:not([data-hold]), input, select, textarea') || document.querySelector('[role="dialog"]')
  if (event.key !== 'Enter' || props.disabled || props.aside || taken) return
  event.preventDefault()
  press()
}
const keyup = (event: KeyboardEvent) => event.key === 'Enter' && release()
window.addEventListener('keydown', keydown)
window.addEventListener('keyup', keyup)
onUnmounted(() => {
  release()
  window.removeEventListener('keydown', keydown)
  window.removeEventListener('keyup', keyup)
})
</script>

<template>
  <button
    type="button"
    class="btn hold"
    data-hold
    :disabled="disabled"
    @pointerdown="press"
    @pointerup="release"
    @pointerleave="release"
    @contextmenu.prevent
  >
    <i :style="{ width: `${held * 100}%` }" /><span><slot /></span>
  </button>
</template>

<style scoped>
.hold {
  position: relative;
  overflow: hidden;
  background: var(--crimson);
  border-color: var(--crimson);
  color: var(--sheet);
  user-select: none;
  touch-action: none;
}
.hold i {
  position: absolute;
  left: 0;
  top: 0;
  bottom: 0;
  background: var(--ink);
  opacity: 0.55;
}
.hold span {
  position: relative;
}
</style>
