// What went wrong, in words. What belongs to an act or a page is told there; what nobody expected stands above the page.
import { ref } from 'vue'

export const unexpected = ref('')

export const faultOf = (e: unknown) => (e instanceof Error ? e.message : String(e))

// tell shows what nobody expected.
export function tell(e: unknown) {
  console.error(e)
  unexpected.value = faultOf(e)
}

// watchFaults tells what no page has caught. An event without an error is a browser's remark, and no fault.
export function watchFaults(page: EventTarget) {
  page.addEventListener('error', (e) => {
    const { error } = e as ErrorEvent as { error: unknown }
    if (error) tell(error)
  })
  page.addEventListener('unhandledrejection', (e) => tell((e as PromiseRejectionEvent).reason))
}
