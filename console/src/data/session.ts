// Who is signed in.
import { defineStore } from 'pinia'
import { ledger, Refusal } from './ledger'
import type { Act, Person } from './types'

export const useSession = defineStore('session', {
  state: () => ({ person: null as Person | null, asked: false }),
  getters: {
    // may tells what somebody may do in one team at least; for an API, its own list says.
    may: (s) => (act: Act) => s.person?.may?.includes(act) ?? false,
  },
  actions: {
    async find() {
      if (this.asked) return
      try {
        this.person = await ledger.me()
      } catch (e) {
        if (!(e instanceof Refusal) || e.problem.status !== 401) throw e
      }
      this.asked = true
    },
    async signIn(name: string, password: string) {
      this.person = await ledger.signIn(name, password)
      this.asked = true
    },
    async signOut() {
      const to = await ledger.providerOut().catch(() => '') // whatever the provider does, they sign out here
      await ledger.signOut()
      this.person = null
      if (to) location.assign(to)
    },
  },
})
