<script setup lang="ts">
// What of a consumer's recorded exchanges a version of an API still answers.
import { computed, ref, watch } from 'vue'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import type { Replay, ReplayFinding } from '../data/types'
import { count } from '../data/words'
import FaultLine from '../parts/FaultLine.vue'
import GradeMark from '../parts/GradeMark.vue'
import HelpLink from '../parts/HelpLink.vue'

const props = defineProps<{ consumer: string; api: string }>()
const { value: c, error: noConsumer } = useLoading(() => ledger.consumer(props.consumer))
const { value: a, error } = useLoading(() => ledger.api(props.api))
const versions = computed(() => a.value?.versions.map((v) => v.number) ?? [])
const against = ref('')
watch(versions, (all) => (against.value ||= all.at(-1) ?? ''))
const report = ref<Replay | null>(null)
const wrong = ref('')
watch(against, async (number) => {
  report.value = null
  wrong.value = ''
  try {
    const found = await ledger.replay(props.consumer, `${props.api}@${number}`)
    if (number === against.value) report.value = found
  } catch (e) {
    wrong.value = (e as Error).message
  }
})
const groups = computed(() => {
  const all: { operation: string; findings: ReplayFinding[] }[] = []
  for (const f of report.value?.findings ?? []) {
    const of = f.operation || ''
    const last = all.at(-1)
    if (last && last.operation === of) last.findings.push(f)
    else all.push({ operation: of, findings: [f] })
  }
  return all
})
const fails = computed(() => report.value?.findings.some((f) => f.grade === 'breaking') ?? false)
const some = (all: number[]) => (all.length > 8 ? `${all.slice(0, 8).join(', ')} and ${all.length - 8} more` : all.join(', '))
</script>

<template>
  <div class="head"><div><h1>What {{ c?.title ?? consumer }} was recorded to do</h1><p>Held against a version of {{ a?.title ?? api }}: nothing is sent anywhere, its description answers. <HelpLink to="reliance#replay" about="replaying" /></p></div>
    <div class="do"><RouterLink :to="`/consumers/${consumer}`">{{ c?.title ?? consumer }}</RouterLink></div></div>
  <div class="inner">
    <FaultLine :text="noConsumer || error || wrong" />
    <p><label>Against <select v-model="against" data-against><option v-for="v in versions" :key="v" :value="v">{{ v }}</option></select></label></p>
    <template v-if="report">
      <p data-passed><GradeMark :grade="fails ? 'breaking' : 'safe'" :text="report.passed < report.exchanges ? `${report.exchanges - report.passed} of ${count(report.exchanges, 'exchange')} fail` : `all ${count(report.exchanges, 'exchange')} pass`" /> of {{ count(report.operations.length, 'operation') }}<template v-if="fails && report.passed === report.exchanges">; what it relies on is not promised any more</template>.</p>
      <section v-for="g in groups" :key="g.operation" class="group">
        <h2>{{ g.operation || 'Of no operation' }}</h2>
        <div v-for="(f, i) in g.findings" :key="i" class="finding" :class="{ fails: f.grade === 'breaking' }" data-finding>
          <p><GradeMark :grade="f.grade" text="" /> <b>{{ f.title }}</b> <span class="soft">{{ f.at }}<template v-if="f.exchanges.length"> · {{ f.exchanges.length > 1 ? 'exchanges' : 'exchange' }} {{ some(f.exchanges) }}</template><template v-if="f.also?.length"> · also in {{ f.also.join(', ') }}</template></span></p>
          <pre v-if="f.message" class="slip" tabindex="0">{{ f.message }}</pre>
        </div>
      </section>
    </template>
    <p v-else-if="!wrong && against" class="soft">Asking …</p>
  </div>
</template>

<style scoped>
h2 { font: 600 15px/24px var(--mono); margin-top: 18px; } .finding { padding: 4px 0 8px 14px; border-left: 3px solid var(--hazard); margin: 6px 0; } .finding.fails { border-left-color: var(--breaking); }
.finding p { margin: 0; } pre { white-space: pre-wrap; overflow-wrap: anywhere; }
select { font: inherit; color: inherit; background: var(--sheet); border: 1px solid var(--rule-strong); padding: 3px 8px; }
</style>
