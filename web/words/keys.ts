import { onMounted, onUnmounted } from 'vue'

type Keys = Record<string, (event: KeyboardEvent) => void>

/** Whether a key press belongs to a field, a button or an open dialog rather than to the page. */
function taken(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement
  if (event.ctrlKey || event.altKey || event.metaKey) return true
  if (document.querySelector('[role="dialog"]')) return true
  if (/^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName) || target.isContentEditable) return true
  return event.key === 'Enter' && target.closest('button, a, [role="combobox"]') !== null
}

/** Keys of a page, by KeyboardEvent.key in lower case ("1", "enter", "escape"). */
export function useKeys(keys: Keys): void {
  const listen = (event: KeyboardEvent) => {
    const handler = keys[event.key.toLowerCase()]
    if (!handler || taken(event)) return
    event.preventDefault()
    handler(event)
  }
  onMounted(() => window.addEventListener('keydown', listen))
  onUnmounted(() => window.removeEventListener('keydown', listen))
}

/** Presses the page's main action, if it can be pressed. */
export function pressMain(): void {
  document.querySelector<HTMLButtonElement>('[data-main]:not([disabled])')?.click()
}
