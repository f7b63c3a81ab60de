<script setup lang="ts">
// A new version: drop a file, see what it would change, record it.
import { NButton } from 'naive-ui'
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { ledger, Refusal } from '../data/ledger'
import type { Problem, Recorded } from '../data/types'
import { grades, verdict } from '../data/words'
import ChangeList from '../parts/ChangeList.vue'
import GradeMark from '../parts/GradeMark.vue'

const props = defineProps<{ name?: string }>()
const router = useRouter()
const over = ref(false)
const file = ref<File | null>(null)
const seen = ref<Recorded | null>(null)
const problem = ref<Problem | null>(null)
const busy = ref(false)

async function look(f: File | undefined) {
  over.value = false
  if (!f) return
  file.value = f
  seen.value = problem.value = null
  await attempt(async () => (seen.value = await ledger.preview(f, props.name ?? '')))
}

async function keep() {
  await attempt(async () => {
    const rec = await ledger.record(file.value!, props.name ?? '')
    router.push(`/apis/${rec.version.api}/publish/${rec.version.number}`)
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
  <div class="head"><div><h1>Record a version<template v-if="name"> of {{ name }}</template></h1><p>Nothing is recorded before you have seen what it changes.</p></div></div>
  <div class="inner">
    <label class="drop" :class="{ over }" @dragover.prevent="over = true" @dragleave="over = false" @drop.prevent="look($event.dataTransfer?.files[0])">
      <b>{{ file ? file.name : 'Drop a description here' }}</b>
      <span class="soft">{{ file ? 'drop another to replace it' : 'an OpenAPI file, YAML or JSON; or click to choose one' }}</span>
      <input type="file" accept=".yaml,.yml,.json" @change="look(($event.target as HTMLInputElement).files?.[0])" />
    </label>
    <div v-if="problem" class="fault" role="alert">
      <template v-if="problem.problems"><div v-for="p in problem.problems" :key="p.line + p.text">line {{ p.line }}, column {{ p.column }}: {{ p.text }}</div></template>
      <template v-else>{{ problem.detail }}</template>
    </div>
    <section v-if="seen" class="seen">
      <h2>{{ seen.version.api }}@{{ seen.version.number }} {{ outcome[seen.outcome] }}</h2>
      <template v-if="seen.changes">
        <p>Against {{ seen.base!.number }}: {{ verdict(seen.changes) }}<template v-if="seen.changes.recommended"> These changes ask for <b>{{ seen.changes.recommended.version }}</b>.</template></p>
        <p><template v-for="g in grades" :key="g"><GradeMark v-if="seen.changes.counts[g]" :grade="g" :n="seen.changes.counts[g]" />&ensp;</template></p>
        <p v-if="seen.gate && !seen.gate.open" class="fault">It could not be published as it is: it breaks the promise of its line, {{ seen.gate.promise }}.</p>
      </template>
      <p v-else>It is the first version of {{ seen.version.api }}.</p>
      <NButton type="primary" :disabled="seen.outcome === 'same'" :loading="busy" @click="keep">Record it as a draft</NButton>
      <ChangeList v-if="seen.changes" class="list" :changes="seen.changes.changes" />
    </section>
  </div>
</template>

<style scoped>
.drop { display: block; border: 2px dashed var(--rule-strong); background: var(--sheet); padding: 34px; text-align: center; cursor: pointer; }
.drop.over, .drop:focus-within { border-color: var(--link); }
.drop span { display: block; }
.drop input { position: absolute; opacity: 0; width: 1px; height: 1px; }
.seen { margin-top: 18px; }
.list { margin-top: 18px; border-top: 1px solid var(--rule); }
</style>
