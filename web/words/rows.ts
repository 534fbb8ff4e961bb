import { nextTick, type Ref } from 'vue'

const STEPS: Record<string, (at: number, last: number) => number> = {
  ArrowDown: (at) => at + 1,
  ArrowUp: (at) => at - 1,
  PageDown: (at) => at + 10,
  PageUp: (at) => at - 10,
  Home: () => 0,
  End: (_, last) => last,
}

/** Which row a key leads to; the same one where the key leads nowhere. */
export function stepTo(key: string, at: number, count: number): number {
  const step = STEPS[key]
  if (!step || count === 0) return at
  return Math.max(0, Math.min(count - 1, step(at, count - 1)))
}

/**
 * A list whose rows are one tab stop: the chosen row, or the first; arrow keys, Home, End and the page keys go through
 * it. The rows carry v-bind="row(index)", the element around them @keydown="onKey".
 */
export function useRows(list: Ref<HTMLElement | null>, count: () => number, at: Ref<number>) {
  const row = (index: number) => ({
    'data-row': '',
    class: { on: index === at.value },
    'aria-selected': index === at.value,
    tabindex: index === Math.max(0, at.value) ? 0 : -1,
  })
  const chosen = () => list.value?.querySelectorAll<HTMLElement>('[data-row]')[at.value]

  /** By so many rows, from anywhere on the page. */
  async function move(by: number) {
    if (!count()) return
    at.value = Math.max(0, Math.min(count() - 1, at.value + by))
    await nextTick()
    if (list.value?.contains(document.activeElement)) chosen()?.focus()
    chosen()?.scrollIntoView({ block: 'nearest' })
  }

  function onKey(event: KeyboardEvent) {
    // A field inside of a row has its own keys; what is ticked has none of these.
    const field = event.target as HTMLElement
    if (field.matches('select, textarea, input:not([type=checkbox])')) return
    if (!STEPS[event.key] || event.ctrlKey || event.altKey || event.metaKey) return
    event.preventDefault()
    event.stopPropagation()
    move(stepTo(event.key, at.value, count()) - at.value)
  }

  return { row, move, onKey }
}

/** Rows that are laid out, and rendered again, together. */
const PIECE = 50

/** A long list in pieces: only those in sight are laid out (.long in base.css). */
export function pieces<Row>(rows: Row[]): { from: number; rows: Row[] }[] {
  return Array.from({ length: Math.ceil(rows.length / PIECE) }, (_, index) => ({
    from: index * PIECE,
    rows: rows.slice(index * PIECE, (index + 1) * PIECE),
  }))
}

/** What a piece is rendered again for (v-memo): other rows, or the chosen row within it, from none or to none. */
export function shows(piece: { from: number; rows: unknown[] }, at: number): unknown[] {
  const chosen = at >= piece.from && at < piece.from + piece.rows.length ? at : -1
  return [piece.rows[0], piece.rows.at(-1), piece.rows.length, at < 0 ? -2 : chosen]
}

/** Whether a list is scrolled so far that more of it is to be asked for. */
export const nearEnd = (list: HTMLElement, pixels: number): boolean =>
  list.scrollTop + list.clientHeight > list.scrollHeight - pixels
