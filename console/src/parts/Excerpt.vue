<script setup lang="ts">
// The lines of a description around a place, the touched ones marked.
import { computed } from 'vue'
import type { DescriptionFile, Place } from '../data/types'

const props = defineProps<{ files: DescriptionFile[]; place?: Place; version: string; side: 'old' | 'new'; touched: boolean }>()

const before = 2
const most = 14

// A description recorded as one file calls it by the file's own name.
const file = computed(() => props.files.find((f) => f.path === props.place?.file) ?? props.files[0])

const lines = computed(() => {
  if (!props.place) return []
  const all = (file.value?.text ?? '').split('\n')
  const at = props.place.line - 1
  const indent = (s: string) => s.search(/\S/)
  let end = at + 1
  while (end < all.length && (all[end].trim() === '' || indent(all[end]) > indent(all[at]))) end++
  const last = Math.min(end, at + most)
  const out = []
  for (let i = Math.max(0, at - before); i < Math.min(all.length, last + before); i++) {
    out.push({ n: i + 1, text: all[i], hit: props.touched && i >= at && i < last })
  }
  // Deep YAML would begin in the middle of the page.
  const margin = Math.min(...out.filter((l) => l.text.trim()).map((l) => indent(l.text)))
  for (const l of out) l.text = l.text.slice(margin)
  return out
})

const caption = computed(() => {
  if (!props.place) return `${props.version} · not there`
  const path = props.place.pointer.slice(1).replaceAll('~1', '/').replaceAll('~0', '~')
  const where = props.files.length > 1 ? `${props.place.file} · ` : ''
  return `${props.version} · ${where}${path || 'the whole description'} · line ${props.place.line}`
})
</script>

<template>
  <div class="excerpt">
    <div class="cap" :title="caption">{{ caption }}</div>
    <pre tabindex="0"><span v-for="l in lines" :key="l.n" :class="{ ['hit-' + side]: l.hit }"><em>{{ l.n }}</em>{{ l.text }}
</span></pre>
  </div>
</template>

<style scoped>
.excerpt { min-width: 0; }
.cap { padding: 3px 14px; font: italic 13px/22px var(--serif); color: var(--ink-soft); border-bottom: 1px solid var(--rule); white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
pre { margin: 0; padding: 10px 0; overflow-x: auto; }
span { display: block; padding: 0 14px; white-space: pre; min-width: max-content; }
em { color: var(--ink-faint); font-style: normal; display: inline-block; width: 40px; user-select: none; }
.hit-old { background: var(--breaking-wash); }
.hit-new { background: var(--safe-wash); }
</style>
