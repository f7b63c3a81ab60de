<script setup lang="ts">
// A new version: drop a file, a folder or an archive, see what it would change, record it.
import { NButton } from 'naive-ui'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { ledger, Refusal } from '../data/ledger'
import { useSession } from '../data/session'
import type { Problem, Recorded } from '../data/types'
import { chosen, dropped, isArchive, type Part } from '../data/upload'
import { grades } from '../data/words'
import ChangeList from '../parts/ChangeList.vue'
import DiagnosticLine from '../parts/DiagnosticLine.vue'
import GradeMark from '../parts/GradeMark.vue'
import HelpLink from '../parts/HelpLink.vue'

const props = defineProps<{ name?: string }>()
const router = useRouter()
const over = ref(false)
const files = ref<Part[]>([])
const entry = ref('')
const seen = ref<Recorded | null>(null)
const problem = ref<Problem | null>(null)
const busy = ref(false)
// A new API is kept by a team: it is asked for where it could be one of several.
const session = useSession()
const mine = computed(() => Object.entries(session.person?.teams ?? {}).filter(([, role]) => ['lead', 'publisher', 'editor'].includes(role)).map(([team]) => team))
const team = ref('')

const what = computed(() => {
  if (files.value.length === 1) return files.value[0].path
  return files.value.length ? `${files.value.length} files` : ''
})
const several = computed(() => files.value.length > 1 || isArchive(what.value))
const entries = computed(() => (files.value.length > 1 ? files.value.map((f) => f.path).filter((p) => /\.(raml|ya?ml|json)$/i.test(p)).sort() : []))

async function look(parts: Part[]) {
  over.value = false
  if (parts.length === 0) return
  files.value = parts
  entry.value = ''
  await preview()
}

async function preview() {
  seen.value = problem.value = null
  await attempt(async () => (seen.value = await ledger.preview({ files: files.value, entry: entry.value }, props.name ?? '', team.value)))
}

async function keep() {
  await attempt(async () => {
    const rec = await ledger.record({ files: files.value, entry: entry.value }, props.name ?? '', team.value)
    await router.push(`/apis/${rec.version.api}/publish/${rec.version.number}`)
  })
}

async function attempt(act: () => Promise<unknown>) {
  busy.value = true
  try {
    await act()
  } catch (e) {
    if (!(e instanceof Refusal)) throw e
    problem.value = e.problem
  } finally {
    busy.value = false
  }
}

const outcome = { new: 'would be a new draft', replaced: 'would replace the draft of this number', same: 'is already recorded, unchanged' }
</script>

<template>
  <div class="head"><div><h1>Record a version<template v-if="name"> of {{ name }}</template></h1><p>Nothing is recorded before you have seen what it changes. <HelpLink to="ledger#versions" about="recording" /></p></div></div>
  <div class="inner">
    <div class="drop" :class="{ over }" @dragover.prevent="over = true" @dragleave="over = false" @drop.prevent="dropped($event.dataTransfer?.items).then(look)">
      <b>{{ what || 'Drop a description here' }}</b>
      <span class="soft">{{ what ? 'drop another to replace it' : 'OpenAPI or RAML: a file, a folder, or an archive (.zip, .tar.gz)' }}</span>
      <span class="choose">
        <label>choose a file<input class="one" type="file" accept=".yaml,.yml,.json,.raml,.zip,.tgz,.gz" @change="look(chosen(($event.target as HTMLInputElement).files))" /></label>
        <label>choose a folder<input class="folder" type="file" webkitdirectory @change="look(chosen(($event.target as HTMLInputElement).files))" /></label>
      </span>
    </div>
    <p v-if="entries.length > 1" class="entry">
      <label>It begins with <select v-model="entry" @change="preview"><option value="">the file that is plainly meant</option><option v-for="e in entries" :key="e">{{ e }}</option></select></label>
    </p>
    <p v-else-if="files.length === 1 && isArchive(files[0].path)" class="entry">
      <label>It begins with <input v-model="entry" placeholder="the file that is plainly meant" @change="preview" /></label>
    </p>
    <p v-if="!name && mine.length > 1" class="entry">
      <label>A new API is kept by <select v-model="team" data-team @change="files.length && preview()"><option value="">one of my teams</option><option v-for="t in mine" :key="t" :value="t">{{ t }}</option></select></label>
    </p>
    <div v-if="problem" class="fault" role="alert">
      <template v-if="problem.diagnostics"><DiagnosticLine v-for="(d, i) in problem.diagnostics" :key="i" :diagnostic="d" :file="several" /></template>
      <template v-else>{{ problem.detail }}</template>
    </div>
    <section v-if="seen" class="seen">
      <h2>{{ seen.version.api }}@{{ seen.version.number }} {{ outcome[seen.outcome] }}</h2>
      <template v-if="seen.changes">
        <p>Against {{ seen.base!.number }}: {{ seen.verdict }}.</p>
        <p><template v-for="g in grades" :key="g"><GradeMark v-if="seen.changes.counts[g]" :grade="g" :n="seen.changes.counts[g]" />&ensp;</template></p>
        <p v-if="seen.gate && !seen.gate.open" class="fault">It could not be published as it is: it breaks the promise of its line, {{ seen.gate.promise }}.</p>
      </template>
      <p v-else>It is the first version of {{ seen.version.api }}.</p>
      <section v-if="seen.diagnostics.worst.length" class="wrong">
        <p>Its description has {{ seen.diagnostics.text }}.<template v-if="seen.diagnostics.errors"> It can be recorded; the gate asks that the errors are mended, or let through by name.</template></p>
      </section>
      <NButton type="primary" :disabled="seen.outcome === 'same'" :loading="busy" @click="keep">Record it as a draft</NButton>
      <section v-if="seen.diagnostics.worst.length" class="list">
        <DiagnosticLine v-for="(d, i) in seen.diagnostics.worst" :key="i" :diagnostic="d" :file="several" />
      </section>
      <ChangeList v-if="seen.changes" class="list" :changes="seen.changes.changes" />
    </section>
  </div>
</template>

<style scoped>
.drop { display: block; border: 2px dashed var(--rule-strong); background: var(--sheet); padding: 34px; text-align: center; }
.drop.over, .drop:focus-within { border-color: var(--link); }
.drop span { display: block; }
.drop input { position: absolute; opacity: 0; width: 1px; height: 1px; }
.choose { margin-top: 10px; }
.choose label { color: var(--link); text-decoration: underline; cursor: pointer; margin: 0 10px; }
.choose label:focus-within { outline: 2px solid var(--link); outline-offset: 3px; }
.entry select, .entry input { font: inherit; padding: 3px 6px; border: 1px solid var(--rule-strong); background: var(--sheet); color: inherit; max-width: 100%; }
.seen { margin-top: 18px; }
.wrong { margin: 6px 0 14px; }
.list { margin-top: 18px; border-top: 1px solid var(--rule); }
</style>
