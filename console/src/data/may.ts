// What whoever is signed in may do to an API, as the ledger says.
import { computed } from 'vue'
import { ledger } from './ledger'
import { useLoading } from './loading'
import type { Act } from './types'

export function useMay(name: () => string) {
  const { value: api } = useLoading(() => ledger.api(name()))
  return computed(() => (act: Act) => api.value?.may?.includes(act) ?? false)
}
