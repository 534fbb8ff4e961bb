import type { DriveTask, Fact, StationName } from './types'

// What types.ts cannot say, which is generated from docs/openapi.yaml: answers that hold something of another type
// each time.

/** What a station answers: its view is of its own kind. */
export interface StationAnswer<View> {
  station: StationName
  view: View
  facts: Fact[]
}

/** Work on a drive, with what it found. */
export type DriveTaskOf<Result> = Omit<DriveTask, 'result'> & { result: Result | null }
