import type { Order, Write, WriteView } from '../api/types'
import { bytes, span } from './format'

export type OrderState = 'done' | 'now' | 'ahead' | 'failed' | 'held'

/** Seconds from which on it is worth telling how long an order was said to take. */
const TOLD = 2

export const isRunning = (write: Write | null): boolean => write?.state === 'queued' || write?.state === 'running'

/** Index of the order that is carried out, or at which the write has stopped; -1 before the first. */
export const orderAt = (orders: Order[], write: Write | null): number =>
  orders.findIndex((order) => order.id === write?.progress.order)

/** How far the order of this index has come. */
export function orderState(orders: Order[], write: Write | null, index: number): OrderState {
  if (!write) return 'ahead'
  const at = orderAt(orders, write)
  if (write.state === 'done' || index < at) return 'done'
  if (index > at) return 'ahead'
  return isRunning(write) ? 'now' : write.state === 'failed' ? 'failed' : 'held'
}

/** How much of each part is written, from 0 to 1, by its number. */
export function partShares(orders: Order[], write: Write | null): Record<string, number> {
  const share = (order: Order, index: number) => {
    const state = orderState(orders, write, index)
    if (state === 'done') return 1
    return state === 'ahead' || !order.bytes ? 0 : (write?.progress.done ?? 0) / order.bytes
  }
  return Object.fromEntries(
    orders.flatMap((order, index) => (order.kind === 'part' ? [[String(order.part), share(order, index)]] : [])),
  )
}

/** Bytes that all orders write. */
export const toWrite = (orders: Order[]): number =>
  orders.reduce((sum, order) => sum + (order.kind === 'part' ? (order.bytes ?? 0) : 0), 0)

/** What an order really did: of a part, what was written and what was there already. */
function did(outcome: { bytes: number | null; moved?: number; spared?: number }): string {
  if (!outcome.spared) return outcome.bytes ? `${bytes(outcome.bytes)} · ` : ''
  return `${bytes(outcome.moved ?? 0)} written, ${bytes(outcome.spared)} there already · `
}

/** The words at the end of an order: what it did and how long it took, how far it is, or how much it will be. */
export function orderAmount(view: WriteView, index: number): string {
  const orders = view.orders ?? []
  const order = orders[index]!
  const outcome = view.write?.outcomes.find((one) => one.id === order.id)
  if (outcome) {
    const said = view.expected?.orders?.[order.id]
    const told = said && Math.max(said, outcome.seconds) >= TOLD ? `, said ${span(said)}` : ''
    return `${did(outcome)}${span(outcome.seconds)}${told}`
  }
  if (!order.bytes) return ''
  const now = orderState(orders, view.write ?? null, index) === 'now'
  return now ? `${bytes(view.write?.progress.done ?? 0)} of ${bytes(order.bytes)}` : bytes(order.bytes)
}
