<script setup lang="ts">
// What a lead looks at once a month: numbers for each team, and what they count.
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import type { OverviewSection, OverviewTable } from '../data/types'
import { csvText, save } from '../data/use'
import FaultLine from '../parts/FaultLine.vue'
import HelpLink from '../parts/HelpLink.vue'

const route = useRoute()
const router = useRouter()
const asked = computed(() => ({ from: String(route.query.from ?? ''), until: String(route.query.until ?? '') }))
const { value: o, error } = useLoading(() => ledger.overview(asked.value.from, asked.value.until))
const set = (key: 'from' | 'until', day: string) => router.replace({ query: { ...route.query, [key]: day || undefined } })
// Which team of which section is looked into; '' is all.
const into = ref<Record<string, string>>({})
const turn = (s: OverviewSection, team: string) => (into.value = { ...into.value, [s.id]: into.value[s.id] === team ? '' : team })
const counted = (s: OverviewSection) => (into.value[s.id] ? s.detail.rows.filter((r) => r.cells[0] === into.value[s.id]) : [])
const csv = (t: OverviewTable) => csvText([t.columns.map((c) => c.name), ...t.rows.map((r) => r.cells)])
const take = (s: OverviewSection) => save(`${s.id}.csv`, new Blob([csv(s.detail)], { type: 'text/csv' }))
</script>

<template>
  <div class="head">
    <div><h1>How the teams are doing</h1><p>Of the APIs that you see inside. <HelpLink to="reports" about="reports" /></p></div>
    <div v-if="o" class="do"><label>from <input type="date" :value="o.from" data-from @change="set('from', ($event.target as HTMLInputElement).value)" /></label><label>until <input type="date" :value="o.until" @change="set('until', ($event.target as HTMLInputElement).value)" /></label></div>
  </div>
  <div class="inner">
    <FaultLine :text="error" />
    <p v-if="!o && !error" class="soft">Asking …</p>
    <section v-for="s in o?.sections ?? []" :key="s.id" :data-section="s.id">
      <h2>{{ s.title }}</h2>
      <p class="soft about">{{ s.about }}</p>
      <div v-if="s.summary.rows.length" class="scroll"><table class="ruled">
        <thead><tr><th v-for="c in s.summary.columns" :key="c.name" :class="{ num: c.number }">{{ c.name }}</th></tr></thead>
        <tbody><tr v-for="r in s.summary.rows" :key="r.cells[0]"><td v-for="(c, i) in r.cells" :key="i" :class="{ num: s.summary.columns[i].number }"><button v-if="!i && s.detail.rows.some((d) => d.cells[0] === c)" type="button" class="link" :aria-expanded="into[s.id] === c" :data-team="c" @click="turn(s, c)">{{ c }}</button><template v-else>{{ c }}</template></td></tr></tbody>
      </table></div>
      <p v-else class="soft">Nothing.</p>
      <div v-if="counted(s).length" class="scroll counted" data-counted><table class="ruled">
        <thead><tr><th v-for="c in s.detail.columns.slice(1)" :key="c.name" :class="{ num: c.number }">{{ c.name }}</th></tr></thead>
        <tbody><tr v-for="(r, n) in counted(s)" :key="n"><td v-for="(c, i) in r.cells.slice(1)" :key="i" :class="{ num: s.detail.columns[i + 1].number }"><RouterLink v-if="!i && r.to" :to="r.to">{{ c }}</RouterLink><template v-else>{{ c }}</template></td></tr></tbody>
      </table></div>
      <p v-if="s.detail.rows.length"><button type="button" class="link" @click="take(s)">All that is counted, as CSV</button></p>
    </section>
  </div>
</template>

<style scoped>
h2 { margin-top: 22px; } .about { margin: 0 0 4px; max-width: 800px; } .scroll { overflow-x: auto; } .scroll > table { width: auto; min-width: 55%; } .counted { margin: 8px 0 8px 18px; }
.num { text-align: right; font: 13px/24px var(--mono); } th.num { font: 600 14px/24px var(--sans); } .do label { margin-left: 14px; }
td, th { padding-right: 18px; } input { font: inherit; color: inherit; background: var(--sheet); border: 1px solid var(--rule-strong); padding: 2px 6px; }
</style>
