<script setup lang="ts">
// How another page holds a part of the reference: choose it, see it, take the lines along.
import { NSelect } from 'naive-ui'
import { computed, ref, watch } from 'vue'
import { copyText } from '../data/copy'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import FaultLine from '../parts/FaultLine.vue'
import HelpLink from '../parts/HelpLink.vue'

const props = defineProps<{ name: string }>()
const { value: api, error } = useLoading(() => ledger.api(props.name))
const { value: looks } = useLoading(() => ledger.looks(props.name))
const readable = computed(() => (api.value?.versions ?? []).filter((v) => v.state === 'published' || v.state === 'deprecated').reverse())
const version = ref('latest')
const part = ref('')
const at = computed(() => (version.value === 'latest' ? readable.value[0]?.number : (readable.value.find((v) => v.number === version.value || v.line === version.value)?.number ?? '')))
const versions = computed(() => [
  { value: 'latest', label: `the newest, now ${readable.value[0]?.number ?? ''}` },
  ...[...new Set(readable.value.map((v) => v.line))].map((line) => ({ value: line, label: `the newest of line ${line}, now ${readable.value.find((v) => v.line === line)!.number}` })),
  ...readable.value.map((v) => ({ value: v.number, label: `${v.number}, always` })),
])

// What can be held is what the version's reference has: its own index says it, by the names that its addresses have.
const parts = ref<{ value: string; label: string }[]>([])
const failed = ref('')
watch(at, async (number) => {
  if (!number) return
  failed.value = ''
  const found = await ledger.parts(props.name, number).catch((e: unknown) => ((failed.value = String(e)), []))
  parts.value = [{ value: '', label: 'the whole version' }, ...found]
  if (!parts.value.some((p) => p.value === part.value)) part.value = ''
}, { immediate: true })

const page = computed(() => `/embed/${props.name}/${version.value}/${part.value}`)
const title = computed(() => part.value === '' ? '' : parts.value.find((p) => p.value === part.value)?.label.replace(/, [A-Z]+ \/.*$/, '') ?? '')
const quote = (text: string) => text.replaceAll('&', '&amp;').replaceAll('"', '&quot;').replaceAll('<', '&lt;')
const origin = location.origin
const lines = computed(() => `<script src="${origin}/reference/assets/embed.js"\n        data-page="${quote(page.value)}" data-title="${quote(title.value || (api.value?.title ?? ''))}"></` + 'script>')
const copied = ref(false)
watch(lines, () => (copied.value = false))
async function copy() {
  await copyText(lines.value)
  copied.value = true
}
</script>

<template>
  <div class="head"><div><h1>Hold {{ api?.title ?? name }} in another page</h1><p>The part that is chosen, without what leads around it; as tall as it is. <HelpLink to="embedding" about="embedding" /></p></div></div>
  <div class="inner embeds">
    <div class="form">
      <FaultLine :text="error || failed" />
      <p v-if="api && !readable.length">No version of it is published, so there is nothing to hold.</p>
      <template v-else-if="api">
        <div class="one version">Version<NSelect v-model:value="version" :options="versions" aria-label="version" /></div>
        <div class="one part">Part<NSelect v-model:value="part" filterable :options="parts" :input-props="{ 'aria-label': 'part' }" /></div>
        <p v-if="looks && looks.parents?.length" class="soft">Pages of {{ looks.parents.join(', ') }} may hold it.</p>
        <p v-else-if="looks" class="fault">No site may hold it yet: browsers will show nothing. <RouterLink v-if="api?.may?.includes('arrange')" :to="`/apis/${name}/looks`">Say which may</RouterLink></p>
        <h2>The lines</h2>
        <pre class="slip" tabindex="0" data-lines>{{ lines }}</pre>
        <button type="button" class="link" @click="copy">{{ copied ? 'copied' : 'copy them' }}</button>
      </template>
    </div>
    <iframe v-if="at" :src="page" title="How it looks" class="preview"></iframe>
  </div>
</template>

<style scoped>
.embeds { display: grid; grid-template-columns: minmax(0, 420px) minmax(0, 1fr); gap: 26px; max-width: none; }
.one { margin: 0 0 12px; color: var(--ink-soft); font-size: 14px; }
.slip { white-space: pre-wrap; overflow-wrap: anywhere; }
.preview { width: 100%; height: calc(100vh - 190px); min-height: 480px; border: 1px solid var(--rule-strong); background: var(--sheet); }
@media (max-width: 900px) { .embeds { grid-template-columns: minmax(0, 1fr); } }
</style>
