// A value that is fetched: nothing yet, the value, or why there is none. It is fetched anew when what it depends on changes.
import { ref, watchEffect, type Ref } from 'vue'
import { faultOf } from './fault'

export interface Loading<T> {
  value: Ref<T | null>
  error: Ref<string>
  again: () => void
}

export function useLoading<T>(fetcher: () => Promise<T>): Loading<T> {
  const value = ref(null) as Ref<T | null>
  const error = ref('')
  const attempt = ref(0)
  watchEffect((onCleanup) => {
    void attempt.value
    let stale = false
    onCleanup(() => (stale = true))
    fetcher().then(
      (got) => {
        if (!stale) [value.value, error.value] = [got, '']
      },
      (e: unknown) => {
        if (!stale) error.value = faultOf(e)
      },
    )
  })
  return { value, error, again: () => attempt.value++ }
}
