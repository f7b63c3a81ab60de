// A value that is fetched: nothing yet, the value, or why there is none. It is fetched anew when what it depends on changes.
import { ref, watchEffect, type Ref } from 'vue'

export interface Loading<T> {
  value: Ref<T | null>
  error: Ref<string>
  again: () => void
}

export function useLoading<T>(fetcher: () => Promise<T>): Loading<T> {
  const value = ref(null) as Ref<T | null>
  const error = ref('')
  const turn = ref(0)
  watchEffect(async (onCleanup) => {
    void turn.value
    let stale = false
    onCleanup(() => (stale = true))
    try {
      const got = await fetcher()
      if (!stale) [value.value, error.value] = [got, '']
    } catch (e) {
      if (!stale) error.value = e instanceof Error ? e.message : String(e)
    }
  })
  return { value, error, again: () => turn.value++ }
}
