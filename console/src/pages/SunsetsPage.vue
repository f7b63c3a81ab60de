<script setup lang="ts">
// What leaves when, across all APIs: since when it is announced, and until when it answers.
import { NButton } from 'naive-ui'
import { computed, ref } from 'vue'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import type { Notice } from '../data/types'
import { csvText, dayAfter, daysBetween, pngOf, save } from '../data/use'
import { useWidth } from '../data/width'
import { count, day } from '../data/words'
import FaultLine from '../parts/FaultLine.vue'
import HelpLink from '../parts/HelpLink.vue'

const { value: apis, error } = useLoading(ledger.apis)
const today = new Date().toISOString().slice(0, 10)
const all = computed(() => (apis.value ?? []).flatMap((a) => (a.notices ?? []).filter((n) => !gone(a.name, n)).map((n) => ({ n, api: a.name, title: a.title, team: a.team ?? '', inside: a.may?.includes('read') ?? false }))).sort((a, b) => ((a.n.sunset || '9') < (b.n.sunset || '9') ? -1 : 1)))
// A notice of what is retired tells of nothing that leaves.
function gone(name: string, n: Notice) {
  const a = apis.value!.find((x) => x.name === name)!
  const of = a.versions.filter((v) => v.state !== 'draft' && (n.version ? v.number === n.version : n.line ? v.line === n.line : true))
  return of.length > 0 && of.every((v) => v.state === 'retired')
}

const width = useWidth('frame')
const svg = ref<SVGSVGElement>()

const narrow = computed(() => width.value < 640)
const left = computed(() => (narrow.value ? 12 : 330))
const row = computed(() => (narrow.value ? 44 : 30))
const height = computed(() => 34 + all.value.length * row.value + 8)
const first = computed(() => dayAfter([today, ...all.value.map((x) => x.n.since)].sort()[0], -5))
const last = computed(() => dayAfter([today, ...all.value.map((x) => x.n.sunset || today)].sort().at(-1)!, 20))
const x = (date: string) => left.value + (daysBetween(first.value, date) / Math.max(1, daysBetween(first.value, last.value))) * (width.value - left.value - 12)
const months = computed(() => {
  const marks: string[] = []
  for (let at = first.value.slice(0, 7) + '-01'; at <= last.value; at = dayAfter(at, 32).slice(0, 7) + '-01') if (at >= first.value) marks.push(at)
  const step = Math.max(1, Math.ceil(marks.length / (narrow.value ? 5 : 14)))
  return marks.filter((_, i) => i % step === 0)
})
const month = (date: string) => new Date(date + 'T00:00:00Z').toLocaleDateString('en-GB', { month: 'short', year: '2-digit', timeZone: 'UTC' })
const left_ = (n: Notice) => (n.sunset ? (n.sunset < today ? `${count(daysBetween(n.sunset, today), 'day')} over` : `${count(daysBetween(today, n.sunset), 'day')} left`) : 'no date yet')
const short = (text: string) => (text.length > 46 ? text.slice(0, 45) + '…' : text)
const csv = () => save('sunsets.csv', new Blob([csvText([['api', 'team', 'what', 'since', 'sunset', 'instead'], ...all.value.map((a) => [a.api, a.team, a.n.subject, a.n.since, a.n.sunset ?? '', a.n.replacedBy ?? ''])])], { type: 'text/csv' }))
const png = async () => save('sunsets.png', await pngOf(svg.value!))
</script>

<template>
  <div class="head"><div><h1>What leaves when</h1><p>Across all APIs that you read. <HelpLink to="notices" about="notices" /></p></div>
    <div v-if="all.length" class="do"><NButton data-csv @click="csv">As CSV</NButton><NButton data-png @click="png">As a picture</NButton></div></div>
  <div class="inner">
    <FaultLine :text="error" />
    <div ref="frame">
      <svg v-if="all.length" ref="svg" :viewBox="`0 0 ${width} ${height}`" :width="width" :height="height" role="img" :aria-label="`${all.length} things leave between ${day(first)} and ${day(last)}; the table says when`">
        <g v-for="m in months" :key="m"><line class="month" :x1="x(m)" :x2="x(m)" y1="24" :y2="height" /><text class="tick" :x="x(m) + 3" y="16">{{ month(m) }}</text></g>
        <g v-for="(a, i) in all" :key="a.n.id" :data-leaves="a.n.id">
          <text v-if="!narrow" class="name" x="0" :y="34 + i * row + 18">{{ short(a.n.subject) }}</text><text v-else class="name" :x="left" :y="34 + i * row + 12">{{ short(a.n.subject) }}</text>
          <rect :class="['bar', { over: a.n.sunset && a.n.sunset < today, open: !a.n.sunset }]" :x="x(a.n.since)" :y="34 + i * row + (narrow ? 20 : 9)" :width="Math.max(2, x(a.n.sunset || last) - x(a.n.since))" height="12"><title>{{ a.n.subject }}: announced {{ day(a.n.since) }}, {{ a.n.sunset ? `leaves ${day(a.n.sunset)}` : 'no date yet' }}</title></rect>
          <path v-if="a.n.sunset" :class="['end', { over: a.n.sunset < today }]" :d="`M${x(a.n.sunset)} ${34 + i * row + (narrow ? 17 : 6)}l7 9l-7 9l-7-9z`" />
        </g>
        <line class="now" :x1="x(today)" :x2="x(today)" y1="20" :y2="height" /><text class="tick now-text" :x="x(today) + 4" y="30">today</text>
      </svg>
    </div>
    <p v-if="apis && !all.length" class="soft">Nothing is announced to leave.</p>
    <table v-if="all.length" class="ruled">
      <thead><tr><th>leaves</th><th>days</th><th>what</th><th>of</th><th>announced</th><th>instead</th></tr></thead>
      <tbody><tr v-for="a in all" :key="a.n.id" :data-row="a.n.id"><td>{{ a.n.sunset ? day(a.n.sunset) : 'no date yet' }}</td><td :class="a.n.sunset && a.n.sunset < today ? 'late' : 'soft'">{{ a.n.sunset ? left_(a.n) : '' }}</td><td><RouterLink v-if="a.inside" :to="`/apis/${a.api}/leaving/notice-${a.n.id}`">{{ a.n.subject }}</RouterLink><RouterLink v-else :to="`/apis/${a.api}`">{{ a.n.subject }}</RouterLink></td><td class="soft">{{ a.team }}</td><td class="soft">{{ day(a.n.since) }}</td><td class="soft">{{ a.n.replacedBy }}</td></tr></tbody>
    </table>
  </div>
</template>

<style scoped>
svg { display: block; margin-bottom: 18px; max-width: 100%; } .month { stroke: var(--rule); } .tick { font: 12px var(--sans); fill: var(--ink-soft); } .name { font: 13px var(--sans); fill: var(--ink); }
.bar { fill: var(--band-3); } .bar.over { fill: var(--breaking-wash); } .bar.open { fill-opacity: 0.45; stroke: var(--rule-strong); stroke-dasharray: 4 3; } .end { fill: var(--hazard); } .end.over { fill: var(--breaking); }
.now { stroke: var(--ink); stroke-dasharray: 2 3; } .now-text { fill: var(--ink); } .late { color: var(--breaking); font-weight: 600; } .do { gap: 10px; }
</style>
