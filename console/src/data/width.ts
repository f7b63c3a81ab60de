// How wide a part of the page is, as it changes: what is drawn is drawn for that. The part is named by its ref in the template.
import { onMounted, onUnmounted, ref, useTemplateRef } from 'vue'

export function useWidth(name: string) {
  const frame = useTemplateRef<HTMLElement>(name)
  const width = ref(1216)
  const watcher = new ResizeObserver(([e]) => (width.value = Math.max(300, e.contentRect.width)))
  onMounted(() => watcher.observe(frame.value!))
  onUnmounted(() => watcher.disconnect())
  return width
}
