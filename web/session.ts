import { defineStore } from 'pinia'
import { api, keepToken } from './api/client'
import type { Preferences, Session, Technician } from './api/types'
import { applyTheme } from './look/theme'
import { preferred } from './words/preferences'

export type Role = Technician['role']
/** Each may do what those before it may. */
const ROLES: Role[] = ['reader', 'technician', 'lead']
const HERE = 60_000 // ms between two notes that somebody is there

/** Who is signed in. */
export const useSession = defineStore('session', {
  state: () => ({ technician: null as Technician | null, bench: '', first: false, loaded: false, noted: 0 }),
  actions: {
    async load() {
      if (!this.loaded) this.take(await api.get<Session>('/session'))
    },
    async signIn(sign_in: string, password: string) {
      this.take(await api.post<Session>('/session', { sign_in, password }))
    },
    async byLink(code: string, password: string) {
      this.take(await api.post<Session>('/session/link', { code, password }))
    },
    async becomeFirst(given: { code: string; name: string; sign_in: string; password: string }) {
      this.take(await api.post<Session>('/session/first', given))
    },
    async signOut() {
      this.take(await api.delete<Session>('/session'))
    },
    async wish(wishes: Partial<Preferences>) {
      this.take(await api.patch<Session>('/me/preferences', wishes))
    },
    async changePassword(old: string, next: string) {
      this.take(await api.put<Session>('/me/password', { old, new: next }))
    },
    /** Somebody moved the pointer or pressed a key: the session is not idle. */
    here() {
      if (!this.technician || Date.now() - this.noted < HERE) return
      this.noted = Date.now()
      api.post('/session/here').catch(() => undefined)
    },
    /** Whether whoever is signed in may do what is for that role. */
    may(role: Role): boolean {
      return ROLES.indexOf(this.technician?.role ?? 'reader') >= ROLES.indexOf(role)
    },
    take(answer: Session) {
      keepToken(answer)
      this.technician = answer.technician
      this.bench = answer.bench
      this.first = answer.first
      this.loaded = true
      const wishes = answer.technician?.preferences
      if (!wishes) return
      const { theme, ...rest } = wishes
      Object.assign(preferred, rest)
      applyTheme(theme)
    },
  },
})
