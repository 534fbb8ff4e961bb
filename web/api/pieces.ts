/** Rows that the server gives at once, at most. */
const MOST = 250

/**
 * A list asked for again, as long as it was: whoever has scrolled far down stays there.
 * @param key where a page has its rows
 * @returns the first page, with the rows of all of them
 */
export async function asLong<Key extends string, Page extends { total: number } & Record<Key, { id: number }[]>>(
  length: number,
  key: Key,
  ask: (from: number, count: number) => Promise<Page>,
): Promise<Page> {
  const first = await ask(0, Math.min(length, MOST))
  let rows: Page[Key] = first[key]
  while (rows.length < Math.min(length, first.total)) {
    const longer = joined(rows, (await ask(rows.length, Math.min(length - rows.length, MOST)))[key]) as Page[Key]
    if (longer.length === rows.length) break
    rows = longer
  }
  return { ...first, [key]: rows }
}

/** Rows with those behind them; what has moved down between two questions is not there twice. */
export function joined<Row extends { id: number }>(rows: Row[], next: Row[]): Row[] {
  const known = new Set(rows.map((row) => row.id))
  return [...rows, ...next.filter((row) => !known.has(row.id))]
}
