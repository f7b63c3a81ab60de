// Keys that act while nobody writes and no dialog is open.
import { onMounted, onUnmounted } from 'vue'

export const busyWithWords = (e: KeyboardEvent) =>
  e.ctrlKey || e.metaKey || e.altKey || (e.target instanceof Element && !!e.target.closest('input, textarea, select, [contenteditable], [role=dialog]')) || !!document.querySelector('[role=dialog]')

export function useKeys(acts: Record<string, () => void>) {
  const listen = (e: KeyboardEvent) => {
    const act = acts[e.key]
    if (!act || busyWithWords(e)) return
    e.preventDefault()
    act()
  }
  onMounted(() => addEventListener('keydown', listen))
  onUnmounted(() => removeEventListener('keydown', listen))
}
