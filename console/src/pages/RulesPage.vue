<script setup lang="ts">
// The rules that are in force in the house, or for one API; and one of them with what breaks and what keeps it.
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import FaultLine from '../parts/FaultLine.vue'
import GradeMark from '../parts/GradeMark.vue'
import HelpLink from '../parts/HelpLink.vue'

const props = defineProps<{ rule?: string }>()
const route = useRoute()
const api = computed(() => String(route.query.api ?? ''))
const { value: rules, error } = useLoading(() => ledger.rules(api.value))
const looks = { error: 'breaking', refused: 'breaking', warning: 'hazard', hint: 'editorial', off: 'editorial' } as const
const groups = computed(() => [...new Set((rules.value?.items ?? []).map((r) => r.group))].sort((a, b) => Number(b === 'own') - Number(a === 'own') || Number(a === 'well-formed') - Number(b === 'well-formed')))
const one = computed(() => rules.value?.items.find((r) => r.name === props.rule))
const to = (name: string) => `/rules/${name}${api.value ? `?api=${api.value}` : ''}`
const heads: Record<string, string> = { own: 'Of the house’s own', readers: 'What readers miss', consistent: 'What is said in more than one way', safe: 'What is not safe', lasting: 'What will hold the API back', 'well-formed': 'Mistakes, and what is read instead' }
</script>

<template>
  <div class="head">
    <div><h1>{{ rule ?? 'Rules' }}</h1><p>{{ rules?.style ? `In force: ${rules.style}` : 'The rules as they come' }}{{ api ? `, for ${api}` : '' }}. <HelpLink to="housestyle" about="house styles" /></p></div>
    <div class="do"><RouterLink v-if="rule" :to="`/rules${api ? `?api=${api}` : ''}`">All rules</RouterLink><RouterLink to="/style">Style of the house</RouterLink></div>
  </div>
  <div class="inner rules">
    <FaultLine :text="error" />
    <template v-if="rules && rule">
      <p v-if="!one">There is no rule of this name.</p>
      <template v-else>
        <p><GradeMark :grade="looks[one.weight]" :text="one.weight" /> {{ one.says }}</p>
        <p v-if="one.because"><b>Because</b> {{ one.because }}</p>
        <p v-if="one.why" class="why">{{ one.why }}</p>
        <p v-else-if="one.group === 'well-formed'"><HelpLink to="mistakes" about="mistakes" /></p>
        <div v-if="one.bad?.length || one.good?.length" class="pair">
          <div><h2>Breaks it</h2><pre v-for="e in one.bad" :key="e" class="slip" tabindex="0">{{ e.trimEnd() }}</pre></div>
          <div><h2>Keeps it</h2><pre v-for="e in one.good" :key="e" class="slip" tabindex="0">{{ e.trimEnd() }}</pre></div>
        </div>
        <template v-if="one.must"><h2>As a condition</h2><table class="ruled"><tbody><tr><th>about</th><td><code>{{ one.about }}</code></td></tr><tr v-if="one.where"><th>where</th><td><code>{{ one.where }}</code></td></tr><tr><th>must</th><td><code>{{ one.must }}</code></td></tr></tbody></table></template>
      </template>
    </template>
    <section v-for="g in rule ? [] : groups" :key="g">
      <h2>{{ heads[g] ?? g }}</h2>
      <table class="ruled"><tbody>
        <tr v-for="r in rules!.items.filter((o) => o.group === g)" :key="r.name" :class="{ off: r.weight === 'off' }" :data-rule="r.name">
          <td class="weight"><GradeMark :grade="looks[r.weight]" :text="r.weight" /></td><td class="name"><RouterLink :to="to(r.name)">{{ r.name }}</RouterLink></td><td>{{ r.says }}<span v-if="r.because" class="soft"> — {{ r.because }}</span></td>
        </tr>
      </tbody></table>
    </section>
  </div>
</template>

<style scoped>
.rules { max-width: 1120px; } .weight { width: 110px; } .name { width: 210px; font-family: var(--mono); font-size: 13px; } .off td { color: var(--ink-soft); }
.why { max-width: 720px; } .pair pre { white-space: pre-wrap; } .pair { display: grid; grid-template-columns: repeat(auto-fit, minmax(320px, 1fr)); gap: 0 24px; } .pair > div { min-width: 0; } th { width: 90px; } td code { white-space: pre-wrap; }
</style>
