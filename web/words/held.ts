import { api } from '../api/client'
import type { DriveInside, Image } from '../api/types'
import { stateChip } from './images'

/** What can be looked into: an image, or an attached drive as it is now. */
export type HeldKind = 'images' | 'drives'

export interface Held {
  kind: HeldKind
  id: number
  computer: string | null
  taken_at: string
  parts: Image['parts']
  size_bytes: number
  twins: Image['twins']
  chip: readonly [string, string]
}

export async function held(kind: HeldKind, id: string | number): Promise<Held> {
  if (kind === 'images') {
    const image = await api.get<Image>(`/images/${id}`)
    return { ...image, kind, chip: stateChip(image) }
  }
  const drive = await api.get<DriveInside>(`/drives/${id}/inside`)
  return { ...drive, kind, chip: ['', `Port ${drive.port}, as it is now`] }
}

export const insideOf = (one: { kind: HeldKind; id: number }) => `/${one.kind}/${one.id}/inside`

/** Beside one of its twins, which are images. */
export const besideOf = (one: Held, image: number) => `/${one.kind}/${one.id}/compare/${image}`
