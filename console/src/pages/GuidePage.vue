<script setup lang="ts">
import { ref, watch } from 'vue'
import { faultOf } from '../data/fault'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import { useMay } from '../data/may'
import type { Guide } from '../data/types'
import { day } from '../data/words'
import FaultLine from '../parts/FaultLine.vue'
import GuideStep from '../parts/GuideStep.vue'
import GuideWords from '../parts/GuideWords.vue'

const props = defineProps<{ name: string; old: string; now: string }>()
const may = useMay(() => props.name)
const guide = ref<Guide>()
const error = ref('')
const refs = () => ({ old: `${props.name}@${props.old}`, new: `${props.name}@${props.now}` })
const { value: impact } = useLoading(() => ledger.impact(refs().old, refs().new))

async function read() {
  try {
    guide.value = await ledger.guide(refs().old, refs().new)
  } catch (e) {
    error.value = faultOf(e)
  }
}
watch(() => [props.name, props.old, props.now], read, { immediate: true })

const write = async (anchor: string, text: string) => {
  guide.value = await ledger.writeGuide({ ...refs(), anchor, text })
}
</script>

<template>
  <div v-if="error" class="inner"><FaultLine :text="error" /></div>
  <template v-if="guide">
    <div class="head">
      <div><h1>{{ guide.title }}, from {{ guide.from }} to {{ guide.to }}</h1><p>{{ guide.verdict }}</p></div>
      <div class="do"><RouterLink :to="`/apis/${name}/compare/${old}..${now}`">The spread</RouterLink><a :href="`/reference/${name}/guides/${old}..${now}`">As readers see it, when both are published</a></div>
    </div>
    <div class="inner">
      <section v-if="guide.gone?.length" class="gone">
        <h2>What you wrote to changes that are gone</h2>
        <p class="soft">Readers do not see it. Move what is worth it to another step, and take the rest away.</p>
        <div v-for="t in guide.gone" :key="t.anchor"><b>{{ t.title }}</b><GuideWords :words="t" :anchor="t.anchor" invitation="" :write="may('word') ? write : undefined" /></div>
      </section>
      <GuideWords :words="guide.intro" anchor="intro" invitation="Write an introduction" :write="may('word') ? write : undefined" />
      <template v-if="guide.must.length"><h2>What you must do</h2><GuideStep v-for="s in guide.must" :key="s.change.id" :step="s" :api="name" :from="old" :to="now" :impact="impact ?? null" :write="may('word') ? write : undefined" /></template>
      <template v-if="guide.renames.length">
        <h2>New names</h2>
        <table class="ruled" tabindex="0">
          <thead><tr><th>where</th><th>was</th><th>is</th></tr></thead>
          <tbody><tr v-for="r in guide.renames" :key="r.where + r.from"><td>{{ r.where }}</td><td><code>{{ r.from }}</code></td><td><code>{{ r.to }}</code></td></tr></tbody>
        </table>
      </template>
      <template v-if="guide.wait.length">
        <h2>What may wait</h2>
        <table class="ruled" tabindex="0">
          <thead><tr><th>until</th><th>what</th><th>instead</th><th>why</th></tr></thead>
          <tbody><tr v-for="w in guide.wait" :key="w.title"><td>{{ w.until ? day(w.until) : 'no date yet' }}</td><td>{{ w.title }}</td><td>{{ w.instead }}</td><td class="soft">{{ w.reason }}</td></tr></tbody>
        </table>
      </template>
      <template v-if="guide.check.length"><h2>What you should test</h2><GuideStep v-for="s in guide.check" :key="s.change.id" :step="s" :api="name" :from="old" :to="now" :impact="impact ?? null" :write="may('word') ? write : undefined" /></template>
      <template v-if="guide.adopt.length"><h2>What is new</h2><ul><li v-for="s in guide.adopt" :key="s.change.id">{{ s.title }} <GuideWords :words="s.words" :anchor="s.change.id" invitation="Write to it" :write="may('word') ? write : undefined" /></li></ul></template>
      <template v-if="guide.plans.length">
        <h2>Where replacements stand</h2>
        <table class="ruled" tabindex="0">
          <thead><tr><th>what leaves</th><th>in its place</th><th>came in</th><th>announced</th><th>may leave from</th><th>left with</th></tr></thead>
          <tbody><tr v-for="p in guide.plans" :key="p.notice"><td>{{ p.subject }}</td><td>{{ p.instead }}</td><td>{{ p.expandedIn }}</td><td>{{ day(p.deprecated) }}</td><td>{{ p.mayContract ? day(p.mayContract) : 'no date yet' }}</td><td>{{ p.contractedIn }}</td></tr></tbody>
        </table>
      </template>
      <h2>The way back</h2>
      <p>{{ guide.back }}</p>
      <ul><li v-for="s in guide.rollback" :key="s.change.id">{{ s.title }}<div v-if="s.before" class="soft">{{ s.text }} <code>{{ s.before.head }}</code></div></li></ul>
      <GuideWords :words="guide.end" anchor="end" invitation="Write an end" :write="may('word') ? write : undefined" />
    </div>
  </template>
</template>

<style scoped>
.gone { border: 1px solid var(--hazard); padding: 4px 16px 10px; margin-bottom: 16px; }
</style>
