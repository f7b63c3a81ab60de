<script setup lang="ts">
// How often an API is called: by version, consumer or operation, as far as logs tell.
import { NButton } from 'naive-ui'
import { computed, reactive, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useAct } from '../data/act'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import { bandsOf, csvOf, dayAfter, number, save, share } from '../data/use'
import { day } from '../data/words'
import CallsChart from '../parts/CallsChart.vue'
import FaultLine from '../parts/FaultLine.vue'
import HelpLink from '../parts/HelpLink.vue'

const props = defineProps<{ name: string }>()
const route = useRoute()
const router = useRouter()
const ways = { version: 'version', line: 'line', consumer: 'consumer', operation: 'operation', class: 'answer' }
const text = (name: string) => (typeof route.query[name] === 'string' ? route.query[name] : '')
const asked = reactive({ by: text('by') || 'version', from: text('from'), until: text('until'), version: text('version'), consumer: text('consumer'), operation: text('operation') })
const question = computed(() => Object.fromEntries(Object.entries(asked).filter(([k, v]) => v && !(k === 'by' && v === 'version'))))
watch(question, (q) => void router.replace({ query: q }))
const { value: api } = useLoading(() => ledger.api(props.name))
const { value: use, error } = useLoading(() => ledger.use(props.name, { ...question.value }))
const bands = computed(() => bandsOf(use.value?.series ?? []))
const marks = computed(() => (api.value?.versions ?? []).flatMap((v) => (v.publishedAt && v.state !== 'draft' ? [{ day: v.publishedAt.slice(0, 10), text: v.number }] : [])))
const chart = ref<{ picture: () => Promise<Blob> }>()
const { fault, run } = useAct()
const csv = () => save(`${props.name}-calls.csv`, new Blob([csvOf(use.value!)], { type: 'text/csv' }))
const png = () => run(async () => save(`${props.name}-calls.png`, await chart.value!.picture()))
const narrowed = computed(() => ['version', 'consumer', 'operation'].filter((k) => asked[k as 'version']))
function into(name: string, known: boolean) {
  const filter = { version: 'version', consumer: 'consumer', operation: 'operation' }[asked.by]
  if (!filter || !known) return
  asked[filter as 'version'] = name
  asked.by = filter === 'consumer' ? 'operation' : 'consumer'
}
const lines = computed(() => [...new Set((api.value?.versions ?? []).filter((v) => v.state !== 'draft').map((v) => v.line))])
</script>

<template>
  <div class="head">
    <div><h1>Who calls {{ api?.title ?? name }}</h1><p v-if="use">{{ number(use.calls) }} calls from {{ day(use.from) }} to {{ day(use.until) }}<template v-if="use.calls"> · {{ share(use.failed, use.calls) }} failed · {{ share(use.unknown, use.calls) }} of nobody known</template> <HelpLink to="consumers" about="calls and consumers" /></p></div>
    <div class="do">
      <NButton v-for="l in lines" :key="l" :data-leaving="l" @click="router.push(`/apis/${name}/leaving/${l}`)">May line {{ l }} go?</NButton>
      <NButton :disabled="!use?.calls" data-csv @click="csv">CSV</NButton><NButton :disabled="!use?.calls" data-png @click="png">PNG</NButton>
    </div>
  </div>
  <div class="sheet">
    <FaultLine :text="error || fault" />
    <form class="asks" @submit.prevent>
      <label>By <select v-model="asked.by" data-by><option v-for="(t, w) in ways" :key="w" :value="w">{{ t }}</option></select></label>
      <label>from <input v-model="asked.from" type="date" /></label><label>until <input v-model="asked.until" type="date" /></label>
      <span v-for="k in narrowed" :key="k" class="only">{{ k }} <b>{{ asked[k as 'version'] }}</b> <button type="button" class="link" :aria-label="`all ${k}s`" @click="asked[k as 'version'] = ''">all</button></span>
    </form>
    <template v-if="use">
      <CallsChart v-if="use.calls" ref="chart" :from="use.from" :bands="bands" :missing="use.missing" :marks="marks" :label="`Calls of ${name} a day, by ${asked.by}`" />
      <p v-if="!use.covered" class="none">No log tells of these days. <RouterLink to="/logs">Add a log</RouterLink>, and it is counted who calls what.</p>
      <p v-else class="soft">Logs tell of {{ use.covered }} of these {{ use.days }} days<template v-if="use.missing.length">; none of {{ use.missing.slice(0, 3).map((m) => (m.from === m.until ? day(m.from) : `${day(m.from)} to ${day(m.until)}`)).join(', ') }}<template v-if="use.missing.length > 3"> and {{ use.missing.length - 3 }} times more</template></template>.</p>
    </template>
  </div>
  <div v-if="use?.series.length" class="inner">
    <table class="ruled" tabindex="0">
      <thead><tr><th>{{ ways[asked.by as keyof typeof ways] }}</th><th class="num">calls</th><th class="num">of all</th><th class="num">failed</th><th>first</th><th>last</th></tr></thead>
      <tbody>
        <tr v-for="s in use.series" :key="`${s.known} ${s.name}`" :data-series="s.name">
          <td><button v-if="s.known && ['version', 'consumer', 'operation'].includes(asked.by)" type="button" class="link" @click="into(s.name, s.known)">{{ s.title || s.name }}</button><template v-else>{{ s.title || s.name || 'nobody known' }}</template><RouterLink v-if="asked.by === 'consumer' && s.known" class="soft more" :to="`/consumers/${s.name}`">{{ s.name }}</RouterLink><span v-if="!s.known" class="soft more">no consumer that is known; <RouterLink :to="{ path: '/consumers', query: { agent: s.name } }">make it one</RouterLink></span></td>
          <td class="num">{{ number(s.calls) }}</td><td class="num">{{ share(s.calls, use.calls) }}</td><td class="num">{{ share(s.failed, s.calls) }}</td><td class="soft">{{ day(s.firstDay) }}</td><td class="soft">{{ day(s.lastDay) }}</td>
        </tr>
        <tr class="sum"><td>all</td><td class="num" data-total>{{ number(use.calls) }}</td><td /><td class="num">{{ share(use.failed, use.calls) }}</td><td /><td /></tr>
      </tbody>
    </table>
    <details class="days"><summary>Day by day</summary>
      <div class="wide"><table class="ruled" tabindex="0">
        <thead><tr><th>day</th><th v-for="s in use.series" :key="`${s.known} ${s.name}`" class="num">{{ s.title || s.name || 'nobody known' }}</th></tr></thead>
        <tbody><tr v-for="i in use.days" :key="i"><td>{{ dayAfter(use.from, i - 1) }}</td><td v-for="s in use.series" :key="`${s.known} ${s.name}`" class="num">{{ number(s.days[i - 1]) }}</td></tr></tbody>
      </table></div>
    </details>
  </div>
</template>

<style scoped>
.asks { display: flex; flex-wrap: wrap; gap: 6px 18px; align-items: center; margin-bottom: 8px; font-size: 14px; }
.asks select, .asks input { font: inherit; color: inherit; background: var(--paper); border: 1px solid var(--rule-strong); padding: 1px 6px; }
.only { background: var(--slip); padding: 0 8px; }
.num { text-align: right; font: 13px/24px var(--mono); } th.num { font: 600 14px/24px var(--sans); }
.more { margin-left: 10px; font-size: 13px; } .sum td { font-weight: 600; } .days { margin-top: 14px; } .days summary { cursor: pointer; }
.wide { overflow-x: auto; } .none { padding: 26px 0; }
</style>
