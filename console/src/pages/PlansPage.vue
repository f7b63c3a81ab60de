<script setup lang="ts">
// On which terms an API is used, and who uses it by them.
import { NButton, NInput } from 'naive-ui'
import { computed, reactive, ref } from 'vue'
import { useAct } from '../data/act'
import type { Question } from '../data/ask'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import { useMay } from '../data/may'
import type { Grant, Plan, PlanWish } from '../data/types'
import { useUnsaved } from '../data/unsaved'
import { number } from '../data/use'
import { day } from '../data/words'
import Ask from '../parts/Ask.vue'
import FaultLine from '../parts/FaultLine.vue'
import Groups from '../parts/Groups.vue'
import HelpLink from '../parts/HelpLink.vue'

const props = defineProps<{ name: string }>()
const may = useMay(() => props.name)
const { value: plans, error, again } = useLoading(() => ledger.plans(props.name))
const { value: grants, error: noGrants, again: grantsAgain } = useLoading(() => ledger.grants(props.name, ''))
const { value: teams } = useLoading(ledger.teams)
const teamNames = computed(() => (teams.value ?? []).map((t) => t.name))
const { busy, fault, run } = useAct()
const open = ref('')
const blank = { name: '', quota: 0, per: 'day', terms: '', asks: '', audience: ['signed-in'], issues: true }
const wish = reactive({ ...blank })
const before = ref('')
function begin(p?: Plan) {
  open.value = p ? p.name : 'new'
  Object.assign(wish, p ? { ...p, per: p.per ?? 'day', terms: p.terms ?? '', asks: p.asks.join('\n'), audience: [...p.audience] } : blank)
  before.value = JSON.stringify(wish)
}
useUnsaved(() => open.value !== '' && before.value !== JSON.stringify(wish))
const keep = () =>
  run(async () => {
    const quota = Number(wish.quota) || 0
    const to: PlanWish = { quota, terms: wish.terms, asks: wish.asks.split('\n').map((a) => a.trim()).filter(Boolean), audience: wish.audience, issues: wish.issues, ...(quota ? { per: wish.per as PlanWish['per'] } : {}) }
    await ledger.setPlan(props.name, wish.name.trim(), to)
    open.value = ''
    again()
  })
const question = ref<Question | null>(null)
const drop = (p: Plan) => (question.value = { title: `Take the plan ${p.name} away`, text: 'Nobody can ask for it any more.', yes: 'Take it away', act: () => ledger.dropPlan(props.name, p.name) })
const end = (g: Grant) => (question.value = { title: `End that ${g.title} uses line ${g.line}`, text: 'Its credentials end with its last line.', yes: 'End it', reason: true, act: (reason) => ledger.endGrant(g.consumer, g.api, g.line, reason) })
const quota = (p: { quota: number; per?: string }) => (p.quota ? `${number(p.quota)} calls a ${p.per}` : 'as many calls as one likes')
const done = () => (again(), grantsAgain())
</script>

<template>
  <div class="head">
    <div><h1>Who may use {{ name }}</h1><p>Plans say on which terms; whoever may ask for one does so from the reference. <HelpLink to="consumers#who-may-use-an-api" about="plans" /></p></div>
    <div class="do"><RouterLink to="/requests">Requests</RouterLink><NButton v-if="may('plans') && open !== 'new'" type="primary" data-new @click="begin()">Make a plan</NButton></div>
  </div>
  <div class="inner">
    <FaultLine :text="error || noGrants || fault" />
    <form v-if="open" class="form" @submit.prevent="keep">
      <h2>{{ open === 'new' ? 'A new plan' : `Change ${open}` }}</h2>
      <label v-if="open === 'new'">Name<NInput v-model:value="wish.name" :input-props="{ id: 'name', maxlength: 100 }" placeholder="Regular" /></label>
      <label>Quota: calls, 0 for as many as one likes <input id="quota" v-model="wish.quota" type="number" min="0" /> a <select v-model="wish.per"><option v-for="p in ['second', 'minute', 'hour', 'day', 'month']" :key="p">{{ p }}</option></select></label>
      <label>Terms, in Markdown<NInput v-model:value="wish.terms" type="textarea" :autosize="{ minRows: 3, maxRows: 12 }" :input-props="{ id: 'terms', maxlength: 20000 }" placeholder="" /></label>
      <label>What whoever asks is asked, a line each<NInput v-model:value="wish.asks" type="textarea" :autosize="{ minRows: 2, maxRows: 10 }" :input-props="{ id: 'asks' }" placeholder="Where does it run?" /></label>
      <Groups v-model="wish.audience" legend="Who may ask" holder="" always="its team" :teams="teamNames" :without="['link']" />
      <label class="choice"><input v-model="wish.issues" type="checkbox" /> The ledger issues credentials</label>
      <div class="do"><NButton type="primary" attr-type="submit" :loading="busy" :disabled="!wish.name.trim()" data-keep>Keep</NButton><NButton @click="open = ''">Leave it</NButton></div>
    </form>
    <p v-if="plans && !plans.length && !open" class="soft">There is no plan: nobody can ask for its use.</p>
    <table v-if="plans?.length" class="ruled" tabindex="0">
      <thead><tr><th>plan</th><th>quota</th><th>who may ask</th><th>what is asked</th><th>credentials</th><th><span class="unseen">acts</span></th></tr></thead>
      <tbody><tr v-for="p in plans" :key="p.name" :data-plan="p.name"><td>{{ p.name }}</td><td>{{ quota(p) }}</td><td class="soft">{{ p.audience.join(', ') || 'its team' }}</td><td class="soft why">{{ p.asks.join(' ') }}</td><td class="soft">{{ p.issues ? 'by the ledger' : 'elsewhere' }}</td><td class="ways"><template v-if="may('plans')"><button type="button" class="link" @click="begin(p)">Change</button> <button type="button" class="link" @click="drop(p)">Take away …</button></template></td></tr></tbody>
    </table>
    <template v-if="grants?.length">
      <h2>Who uses it</h2>
      <table class="ruled" tabindex="0">
        <thead><tr><th>consumer</th><th>line</th><th>plan</th><th>since</th><th>credentials</th><th><span class="unseen">acts</span></th></tr></thead>
        <tbody><tr v-for="g in grants" :key="`${g.consumer} ${g.line}`" :data-grant="g.consumer"><td><RouterLink :to="`/consumers/${g.consumer}`">{{ g.title }}</RouterLink></td><td>{{ g.line }}</td><td>{{ g.plan }}, {{ quota(g) }}</td><td class="soft">{{ day(g.since) }}, {{ g.by }}</td><td class="soft">{{ g.credentials.filter((c) => !c.ended).length || (g.issues ? 'none yet' : '') }}</td><td class="ways"><button v-if="may('access')" type="button" class="link" @click="end(g)">End it …</button></td></tr></tbody>
      </table>
    </template>
    <Ask :question="question" @close="question = null" @done="done" />
  </div>
</template>

<style scoped>
h2 { margin-top: 18px; } .form { max-width: 640px; margin-bottom: 24px; } .form label { display: block; margin: 10px 0; } .form .do { display: flex; gap: 10px; margin-top: 14px; }
select, input[type='number'] { font: inherit; color: inherit; background: var(--sheet); border: 1px solid var(--rule-strong); padding: 3px 8px; width: 110px; } .ways > * + * { margin-left: 12px; }
</style>
