import type { Person } from '../../api/types'

export type Role = Person['role']

/** What each role may do, each also what those before it may; docs/rights.md has all of it. */
export const roles: Record<Role, { name: string; does: string }> = {
  reader: { name: 'Reader', does: 'looks' },
  technician: { name: 'Technician', does: 'works on dockets' },
  lead: { name: 'Lead', does: 'people and shelves too' },
}
