// Words that were written and are not kept: whoever leaves them is asked.
import { onMounted, onUnmounted, ref } from 'vue'
import { onBeforeRouteLeave, onBeforeRouteUpdate } from 'vue-router'

// The answer that is waited for: whether to leave.
export const leaving = ref<((leave: boolean) => void) | null>(null)

export function useUnsaved(unsaved: () => boolean) {
  const ask = () =>
    !unsaved() ||
    new Promise<boolean>((answer) => {
      leaving.value = (leave) => {
        leaving.value = null
        answer(leave)
      }
    })
  onBeforeRouteLeave(ask)
  onBeforeRouteUpdate((to, from) => to.path === from.path || ask())
  const warn = (e: BeforeUnloadEvent) => {
    if (unsaved()) e.preventDefault()
  }
  onMounted(() => addEventListener('beforeunload', warn))
  onUnmounted(() => removeEventListener('beforeunload', warn))
}
