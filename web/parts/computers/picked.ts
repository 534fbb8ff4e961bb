import type { ComputerRow } from '../../api/types'

/** A computer as somebody chose it. */
export type Picked = Pick<ComputerRow, 'id' | 'name' | 'place'>
