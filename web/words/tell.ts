import { ref } from 'vue'
import { useLive } from '../api/live'
import { preferred } from './preferences'

const KEY = 'evrel-tell'
const ICON = '/icon.svg'

/** Whether this browser makes a sound and shows a notification when a write ends, or needs somebody. */
export const telling = ref(localStorage.getItem(KEY) === 'yes')

/** Switches that; the browser may ask for its permission. Without it there is still the sound. */
export async function tellMe(on: boolean): Promise<void> {
  telling.value = on
  localStorage.setItem(KEY, on ? 'yes' : 'no')
  if (on && 'Notification' in window && Notification.permission === 'default') await Notification.requestPermission()
}

const ENDS: Record<string, string> = { write_done: 'is written and read back', write_failed: 'needs you' }
const TAKEN = ['taking_done', 'taking_failed']

/** Tells of every write and every image that ends or needs somebody, whatever page is open. */
export function useTelling(): void {
  useLive({
    event: (event) => {
      if (TAKEN.includes(event.kind)) tell(event.text, event.kind === 'taking_done', event.id)
      if (ENDS[event.kind]) tell(`${event.computer} ${ENDS[event.kind]}`, event.kind === 'write_done', event.id)
    },
  })
}

/** Two tones: rising where all is well, falling where somebody is needed. */
function tell(text: string, well: boolean, event: number): void {
  if (!telling.value) return
  // The tag: several open pages make one notification.
  if ('Notification' in window && Notification.permission === 'granted')
    new Notification('Evrel', { body: text, icon: ICON, tag: `evrel-${event}` })
  if (preferred.sound === 'off') return
  const audio = new AudioContext()
  for (const [at, pitch] of (well ? [523, 784] : [523, 349]).entries()) {
    const tone = new OscillatorNode(audio, { frequency: pitch })
    const gain = new GainNode(audio, { gain: 0.12 })
    tone.connect(gain).connect(audio.destination)
    tone.start(audio.currentTime + at * 0.22)
    tone.stop(audio.currentTime + at * 0.22 + 0.2)
  }
}

/** The icon of the browser's tab, filled as far as a write is; null puts the usual one back. */
export function tabIcon(percent: number | null): void {
  const link = document.querySelector<HTMLLinkElement>('link[rel="icon"]')
  if (!link) return
  link.href = percent === null ? ICON : `data:image/svg+xml,${encodeURIComponent(core(percent))}`
}

function core(percent: number): string {
  const height = 0.28 * percent
  const core = 'x="9" y="2" width="14"'
  return [
    '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 32 32">',
    `<clipPath id="c"><rect ${core} height="28" rx="6"/></clipPath><g clip-path="url(#c)">`,
    `<rect ${core} height="28" fill="#cfc6b4"/><rect ${core} height="${height}" fill="#c24c14"/></g></svg>`,
  ].join('')
}
