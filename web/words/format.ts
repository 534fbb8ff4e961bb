import { preferred } from './preferences'

// Numbers and times as people say them.

const UNITS: [string, number][] = [
  ['TB', 1e12],
  ['GB', 1e9],
  ['MB', 1e6],
  ['kB', 1e3],
]

/** "480.1 GB": decimal, as on the drive's label. */
export function bytes(value: number): string {
  const [unit, factor] = UNITS.find(([, size]) => value >= size) ?? ['B', 1]
  const digits = value >= 1e9 ? 1 : 0
  return `${count(value / factor, digits)} ${unit}`
}

/** "480,103,981,056 bytes", for whoever hovers. */
export const exact = (value: number) => `${count(value)} bytes`

/** "141 MB/s" */
export const speed = (value: number) => `${bytes(value)}/s`

/** "2031-03-02", as the server takes a day */
export const localDay = (time: Date): string =>
  new Date(time.getTime() - time.getTimezoneOffset() * 60000).toISOString().slice(0, 10)

/** "2 Mar", "Mar 2" or "03-02", with the year where it is asked for */
export function day(time: Date, year: boolean): string {
  if (preferred.dates === 'year-first') {
    const whole = localDay(time)
    return year ? whole : whole.slice(5)
  }
  const language = preferred.dates === 'month-first' ? 'en-US' : 'en-GB'
  return time
    .toLocaleDateString(language, { day: 'numeric', month: 'short', year: year ? 'numeric' : undefined })
    .replace(',', '')
}

/** "Mon 2 Mar 18:30", with the year where it is another */
export function moment(iso: string): string {
  const time = new Date(iso)
  const weekday = time.toLocaleDateString('en-GB', { weekday: 'short' })
  return `${weekday} ${day(time, time.getFullYear() !== new Date().getFullYear())} ${clock(iso)}`
}

/** "2 Mar 2031 18:30", where the year matters */
export const dated = (iso: string) => `${day(new Date(iso), true)} ${clock(iso)}`

/** "18:30", or "6:30 pm" */
export const clock = (iso: string) =>
  preferred.clock === '12'
    ? new Date(iso).toLocaleTimeString('en-GB', { hour: 'numeric', minute: '2-digit', hour12: true })
    : new Date(iso).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' })

/** The time as it stands in an image, where its zone is another than ours: "18:30 (UTC+02:00)". */
export function otherZone(iso: string): string | null {
  const match = /T(\d\d:\d\d).*?(Z|[+-]\d\d:\d\d)$/.exec(iso)
  if (!match) return null
  const theirs = match[2] === 'Z' ? 0 : Number(`${match[2]!.slice(0, 1)}1`) * minutes(match[2]!.slice(1))
  return theirs === -new Date(iso).getTimezoneOffset() ? null : `${match[1]} (UTC${match[2] === 'Z' ? '' : match[2]})`
}

const minutes = (text: string) => Number(text.slice(0, 2)) * 60 + Number(text.slice(3))

/** "40 s", "12 min", "5 h", "3 days" */
export function span(seconds: number): string {
  if (seconds < 0.5) return 'under 1 s'
  if (seconds < 90) return `${Math.round(seconds)} s`
  if (seconds < 5400) return `${Math.round(seconds / 60)} min`
  if (seconds < 129600) return `${Math.round(seconds / 3600)} h`
  return `${Math.round(seconds / 86400)} days`
}

/** "2 to 3 min", "about 61 s", "up to 3 s", "under 1 s" */
export function range(low: number, high: number): string {
  const [from, to] = [span(low), span(high)]
  if (low < 0.5) return high < 0.5 ? to : `up to ${to}`
  if (from === to) return `about ${to}`
  const [number, unit] = from.split(' ')
  return to.endsWith(` ${unit}`) ? `${number} to ${to}` : `${from} to ${to}`
}

export const ago = (iso: string) => `${span((Date.now() - new Date(iso).getTime()) / 1000)} ago`

const LANGUAGES = { point: 'en', comma: 'de', space: 'fr' } as const
/** "1,204,882", "1.204.882" or "1 204 882", with so many digits behind it, or at least so many */
export const count = (value: number, digits = 0, least = digits) =>
  value.toLocaleString(LANGUAGES[preferred.numbers], { minimumFractionDigits: least, maximumFractionDigits: digits })

const ROLES: Record<string, string> = {
  startup: 'Start-up',
  reserved: 'Reserved',
  system: 'System',
  data: 'Data',
  recovery: 'Recovery',
  swap: 'Swap',
  free: 'Unallocated',
}

export const roleName = (role: string) => ROLES[role] ?? role
