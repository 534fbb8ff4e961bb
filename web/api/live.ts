import { onScopeDispose, ref } from 'vue'
import { api } from './client'
import type { CheckProgress, DriveTask, ImageTask, Proof, Taking, Trial, Write } from './types'

interface Messages {
  event: { id: number; kind: string; text: string; docket_id: number | null; computer: string | null }
  write: Write
  trial: Trial
  layout_try: { id: number; docket_id: number }
  images: { checking: { id: number; progress: CheckProgress | null }[] }
  shelves: { looking: { id: number; state: string; done: number; total: number }[] }
  task: DriveTask
  taking: Taking
  image_task: ImageTask
  proof: Proof
  people: { docket_id: number }
  bench: { revision: string }
  /** The line is open, for the first time or again: whatever is shown may be old. */
  back: Record<string, never>
}

type Handlers = { [Name in keyof Messages]?: (data: Messages[Name]) => void }

const NAMES = [
  'event',
  'write',
  'trial',
  'layout_try',
  'task',
  'taking',
  'image_task',
  'proof',
  'people',
  'images',
  'shelves',
  'bench',
] as const
const listeners = new Set<Handlers>()
let source: EventSource | null = null

/** Whether the line to the server is open. */
export const online = ref(true)

/** When something was last heard of running work ("write-12"), by performance.now(). */
export const heard = new Map<string, number>()

/** Calls the handlers for what the server tells, as long as the component lives. */
export function useLive(handlers: Handlers): void {
  listeners.add(handlers)
  open()
  onScopeDispose(() => {
    listeners.delete(handlers)
    if (listeners.size === 0) close()
  })
}

function open(): void {
  if (source) return
  source = new EventSource('/api/live')
  source.onopen = () => {
    online.value = true
    // What a page loaded before the line was open may be old already.
    tell('back', {})
  }
  source.onerror = () => {
    online.value = false
    // A refused request is not tried again by the browser itself.
    if (source?.readyState === EventSource.CLOSED) {
      close()
      // Whoever was signed out meanwhile is refused everywhere: that leads to the sign-in.
      api.get('/technicians').catch(() => undefined)
      setTimeout(() => listeners.size > 0 && open(), 2000)
    }
  }
  for (const name of NAMES) {
    source.addEventListener(name, (event) => {
      const data = JSON.parse(event.data)
      hear(name, data)
      tell(name, data)
    })
  }
}

function hear(name: string, data: { id?: number; checking?: { id: number }[]; looking?: { id: number }[] }): void {
  if (data.id !== undefined) heard.set(`${name}-${data.id}`, performance.now())
  for (const { id } of data.checking ?? []) heard.set(`image-${id}`, performance.now())
  for (const { id } of data.looking ?? []) heard.set(`shelf-${id}`, performance.now())
}

function close(): void {
  source?.close()
  source = null
}

function tell<Name extends keyof Messages>(name: Name, data: Messages[Name]): void {
  for (const handlers of [...listeners]) handlers[name]?.(data)
}
