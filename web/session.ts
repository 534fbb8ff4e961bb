import { defineStore } from 'pinia'
import { api, keepToken } from './api/client'
import type { SessionAnswer, Technician } from './api/types'

/** Who is signed in. */
export const useSession = defineStore('session', {
  state: () => ({ technician: null as Technician | null, bench: '', loaded: false }),
  actions: {
    async load() {
      if (!this.loaded) this.take(await api.get<SessionAnswer>('/session'))
    },
    async signIn(sign_in: string, password: string) {
      this.take(await api.post<SessionAnswer>('/session', { sign_in, password }))
    },
    async signOut() {
      this.take(await api.delete<SessionAnswer>('/session'))
    },
    take(answer: SessionAnswer) {
      keepToken(answer)
      this.technician = answer.technician
      this.bench = answer.bench
      this.loaded = true
    },
  },
})
