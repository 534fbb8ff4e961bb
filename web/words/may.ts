import type { Directive } from 'vue'
import { useSession, type Role } from '../session'

/** A button or link for whoever may do that; for others it rests, and says who may. The server decides in any case. */
export const vMay: Directive<HTMLElement, Role> = { mounted: rest, updated: rest }

function rest(element: HTMLElement, { value }: { value: Role }): void {
  if (useSession().may(value)) return
  element.title = `Only a ${value} may do that`
  element.setAttribute('aria-disabled', 'true')
  if ('disabled' in element) element.disabled = true
  else element.removeAttribute('href')
}
