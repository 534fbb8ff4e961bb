import type { Taking, TakingSheet } from '../../api/types'
import { bytes, range } from '../../words/format'

export type Level = Taking['level']
/** What an image is wished to be. parts: numbers; null for the whole drive. */
export interface Choice {
  parts: number[] | null
  temporary: boolean
  level: Level
  checked: boolean
  shelf: number | null
}
export interface Forecast {
  used: number
  stored: [number, number]
  seconds: [number, number]
}

export const LEVELS: Record<Level, [string, string]> = {
  quick: ['Quick', 'little packed'],
  balanced: ['Balanced', 'packed well'],
  small: ['Small', 'packed as far as it goes'],
}
/** Bytes per second of reading back, where a shelf was never read from; as the server assumes. */
const READING = 250e6

type Measured = NonNullable<NonNullable<TakingSheet['measure']>['result']>

/** What was measured on a sample of the drive, if that was done. */
export const measured = (sheet: TakingSheet): Measured | null => sheet.measure?.result ?? null

/** Files that need not be kept, of the chosen parts. */
export function temporaryFiles(sheet: TakingSheet, parts: number[] | null) {
  return chosen(sheet, parts).flatMap((part) => part.temporary)
}

/** What an image would take, by the sample: the server works out the same. */
export function forecast(sheet: TakingSheet, choice: Choice): Forecast | null {
  if (!measured(sheet)) return null
  const parts = chosen(sheet, choice.parts)
  const taken = parts.map((part) => ((!choice.temporary && part.without) || part.with)[choice.level])
  const spared = choice.temporary ? 0 : sum(parts.flatMap((part) => part.temporary).map((file) => file.bytes))
  const used = sum(parts.map((part) => part.used_bytes)) - spared
  const shelf = sheet.shelves.find((one) => one.id === choice.shelf)
  const checking = choice.checked ? used / (shelf?.read_speed || READING) : 0
  const both = (name: 'stored' | 'seconds', at: 0 | 1) => sum(taken.map((one) => one[name][at] ?? 0))
  return {
    used,
    stored: [both('stored', 0), both('stored', 1)],
    seconds: [0, 1].map(
      (at) => (both('seconds', at as 0 | 1) + (measured(sheet)?.survey ?? 0)) * (sheet.learnt[at] ?? 1) + checking,
    ) as [number, number],
  }
}

/** What speaks against a shelf for it: its own reason, or its room. */
export function roomOn(
  shelf: TakingSheet['shelves'][number],
  expected: Forecast | null,
): ['ok' | 'ask' | 'no', string] {
  if (shelf.state === 'no') return ['no', shelf.why ?? '']
  const free = shelf.free_bytes
  if (expected && free !== null && expected.stored[0] >= free)
    return ['no', `lacks ${bytes(expected.stored[0] - free)} at the least`]
  if (expected && free !== null && expected.stored[1] >= free)
    return ['ask', `it may lack up to ${bytes(expected.stored[1] - free)}`]
  if (shelf.state === 'ask') return ['ask', shelf.why ?? '']
  return ['ok', free === null ? 'room not known' : `${bytes(free)} free`]
}

/** "9 to 12 GB", "about 9 GB" */
export function bytesRange([low, high]: [number, number]): string {
  const [from, to] = [bytes(low), bytes(high)]
  if (from === to) return `about ${to}`
  const [number, unit] = from.split(' ')
  return to.endsWith(` ${unit}`) ? `${number} to ${to}` : `${from} to ${to}`
}

/** "System and Start-up of TKT-03": what is taken. */
export function whatWords(sheet: TakingSheet, parts: number[] | null): string {
  const whose = sheet.drive.computer ?? sheet.drive.hosts[0] ?? `the drive in port ${sheet.drive.port}`
  if (parts === null) return `The whole drive of ${whose}`.replace('drive of the drive', 'drive')
  const names = sheet.parts
    .filter((part) => parts.includes(part.number!))
    .map((part) => part.name || part.volume.label || `part ${part.number}`)
  const list = names.length > 1 ? `${names.slice(0, -1).join(', ')} and ${names.at(-1)}` : (names[0] ?? 'Nothing')
  return `${list} of ${whose}`
}

/** The choice read back, in one sentence. */
export function choiceWords(sheet: TakingSheet, choice: Choice): string {
  const shelf = sheet.shelves.find((one) => one.id === choice.shelf)
  const expected = forecast(sheet, choice)
  const how = [LEVELS[choice.level][0].toLowerCase(), choice.checked ? 'checked afterwards' : 'not checked']
  const used = expected ? [`${bytes(expected.used)} in use`] : []
  const said = [whatWords(sheet, choice.parts), ...used, shelf ? `onto ${shelf.name}` : 'onto no shelf yet', ...how]
  return expected
    ? `${said.join(', ')}: ${bytesRange(expected.stored)}, ${range(...expected.seconds)}`
    : said.join(', ')
}

const sum = (values: number[]) => values.reduce((all, one) => all + one, 0)
const chosen = (sheet: TakingSheet, parts: number[] | null) =>
  (measured(sheet)?.parts ?? []).filter((part) => parts === null || parts.includes(part.number))
