/**
 * Makes of some work, which is asked for whenever something has changed, one that is done once at a time: who asks
 * while it is under way waits until it has been done once more.
 * @param work gives true where it has to be done again
 */
export function inTurn(work: () => Promise<boolean | void>): () => Promise<void> {
  let underWay: Promise<void> | null = null
  let again = false

  async function until() {
    do {
      again = false
      if (await work()) again = true
    } while (again)
  }

  return () => {
    if (underWay) again = true
    else
      underWay = until().finally(() => {
        underWay = null
      })
    return underWay
  }
}
