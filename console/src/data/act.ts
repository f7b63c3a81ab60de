// An act that is under way: busy while it is, with the fault that ended it.
import { ref } from 'vue'
import { faultOf } from './fault'

export function useAct() {
  const busy = ref(false)
  const fault = ref('')

  async function run(act: () => Promise<unknown>) {
    busy.value = true
    fault.value = ''
    try {
      await act()
    } catch (e) {
      fault.value = faultOf(e)
    } finally {
      busy.value = false
    }
  }

  return { busy, fault, run }
}
