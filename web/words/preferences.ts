import { reactive } from 'vue'
import type { Preferences } from '../api/types'

/** How whoever is signed in likes times and numbers to be written, and whether they want to hear anything. */
export const preferred = reactive<Omit<Preferences, 'theme'>>({
  dates: 'day-first',
  clock: '24',
  numbers: 'point',
  sound: 'on',
})
