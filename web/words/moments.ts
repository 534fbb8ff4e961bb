import type { Preferences } from '../api/types'

const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec']

/**
 * What somebody has typed as a day, or as a moment: "26 Nov 2031 14:20", "26.11.2031 2:20 pm", "2031-11-26 14:20". Of
 * two numbers the first is the day or the month, as they like it; a year stands first where it has four digits.
 * @returns null where it is not whole, or no such day
 */
export function typedMoment(text: string, way: Preferences['dates'], withTime: boolean): Date | null {
  const found = /^(.+?)(?:[ ,T]+(\d{1,2}):(\d{2})\s*([ap]m)?)?$/i.exec(text.trim())
  if (!found) return null
  const [, dayText, hours, minutes, half] = found
  if (withTime !== (hours !== undefined)) return null
  const day = typedDay(dayText!, way)
  const time = withTime ? typedTime(Number(hours), Number(minutes), half?.toLowerCase()) : [0, 0]
  if (!day || !time) return null
  const made = new Date(day[0], day[1], day[2], time[0], time[1])
  return made.getFullYear() === day[0] && made.getMonth() === day[1] && made.getDate() === day[2] ? made : null
}

function typedTime(hours: number, minutes: number, half: string | undefined): [number, number] | null {
  if (minutes > 59 || hours > (half ? 12 : 23) || (half && hours === 0)) return null
  return [half ? (hours % 12) + (half === 'pm' ? 12 : 0) : hours, minutes]
}

/** @returns year, month from 0, day */
function typedDay(text: string, way: Preferences['dates']): [number, number, number] | null {
  const parts = text.split(/[ .,/-]+/).filter(Boolean)
  if (parts.length !== 3) return null
  const named = parts.findIndex((part) => /^[a-z]{3,}$/i.test(part))
  if (parts.some((part, index) => index !== named && !/^\d{1,4}$/.test(part))) return null
  const numbers = parts.map((part, index) =>
    index === named ? MONTHS.indexOf(part.slice(0, 3).toLowerCase()) + 1 : +part,
  )
  const yearFirst = parts[0]!.length === 4 && named !== 0
  const year = yearFirst ? numbers[0]! : numbers[2]!
  const [one, two] = yearFirst ? [numbers[1]!, numbers[2]!] : [numbers[0]!, numbers[1]!]
  const monthFirst = named >= 0 ? named === (yearFirst ? 1 : 0) : yearFirst || way === 'month-first'
  const [month, day] = monthFirst ? [one, two] : [two, one]
  return year >= 1970 && month >= 1 && month <= 12 && day >= 1 ? [year, month - 1, day] : null
}
