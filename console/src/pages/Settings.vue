<script setup lang="ts">
// What holds for an API: its team, what its lines promise, how early what leaves is announced; and its end, where it never was more than a draft.
import { NButton, NInput } from 'naive-ui'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { useAct } from '../data/act'
import type { Question } from '../data/ask'
import type { Act } from '../data/types'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import { picked } from '../data/shelves'
import { useUnsaved } from '../data/unsaved'
import Ask from '../parts/Ask.vue'
import FaultLine from '../parts/FaultLine.vue'
import HelpLink from '../parts/HelpLink.vue'
import HowCalled from '../parts/HowCalled.vue'

const props = defineProps<{ name: string }>()
const router = useRouter()
const { value: api, error } = useLoading(() => ledger.api(props.name))

const team = ref('')
const days = ref('')
const promise = ref('')
const line = ref('')
const reason = ref('')
const scheme = ref('')
const undeclared = ref('')
const said = ref('')
const { busy, fault, run } = useAct()
// What the API settles itself; to whom that is not told, what holds.
const own = computed(() => (api.value?.own ? (api.value.own.promise ?? '') : (api.value?.promise ?? '')))
const ownDays = computed(() => String(api.value?.own ? (api.value.own.noticeDays ?? -1) : (api.value?.noticeDays ?? '')))
const promised = computed(() => (line.value ? (api.value?.linePromises?.[line.value] ?? '') : own.value))
watch(api, (a) => { if (a) [team.value, days.value, scheme.value, undeclared.value] = [a.team, ownDays.value, a.versioning ?? '', a.undeclared ?? ''] })
watch([api, line], () => (promise.value = promised.value))
// To which versions its pages lead.
const leads = ref<'all' | 'lines' | 'some'>('all')
const some = ref('')
const switcher = computed(() => (leads.value === 'all' ? [] : leads.value === 'lines' ? ['lines'] : picked(some.value)))
watch(api, (a) => {
  const is = a?.switcher ?? []
  leads.value = !is.length ? 'all' : is.join() === 'lines' ? 'lines' : 'some'
  some.value = leads.value === 'some' ? is.join(', ') : ''
})
const lines = computed(() => [...new Set((api.value?.versions ?? []).map((v) => v.line))])
const drafts = computed(() => api.value?.versions.every((v) => v.state === 'draft'))
const may = (act: Act) => api.value?.may?.includes(act) ?? false
const { value: teams } = useLoading(ledger.teams)

const changed = computed(() => ({
  team: team.value.trim() !== (api.value?.team ?? ''),
  days: String(days.value) !== ownDays.value,
  promise: promise.value !== promised.value,
  calling: scheme.value.trim() !== (api.value?.versioning ?? '') || undeclared.value !== (api.value?.undeclared ?? ''),
  switcher: (leads.value !== 'some' || switcher.value.length > 0) && switcher.value.join() !== (api.value?.switcher ?? []).join(),
}))
useUnsaved(() => !!api.value && Object.values(changed.value).includes(true))

// A number field gives a number, or nothing where it holds none.
const ready = computed(() => {
  const c = changed.value
  if (!Object.values(c).includes(true)) return false
  return (!c.days || /^(-1|\d{1,4})$/.test(String(days.value))) && (!c.promise || reason.value.trim() !== '')
})

const mine = computed(() => teams.value?.find((t) => t.name === team.value)?.may.includes('move'))
const withdraw = () => run(async () => void (api.value = await ledger.set(props.name, { team: api.value!.team })))
const promises = { backward: 'backward: nothing breaks yesterday’s clients', 'both-ways': 'both-ways: nor tomorrow’s, after a rollback', none: 'none: anything may change' }

const keep = () =>
  run(async () => {
    said.value = ''
    api.value = await ledger.set(props.name, {
      ...(changed.value.team ? { team: team.value.trim() } : {}),
      ...(changed.value.days ? { noticeDays: Number(days.value) } : {}),
      ...(changed.value.calling ? { versioning: scheme.value.trim(), undeclared: undeclared.value } : {}),
      ...(changed.value.switcher ? { switcher: switcher.value } : {}),
      ...(changed.value.promise ? { promise: promise.value, reason: reason.value, ...(line.value ? { line: line.value } : {}) } : {}),
    })
    reason.value = ''
    team.value = api.value.team
    said.value = api.value.offered ? `It is offered to ${api.value.offered}.` : 'It holds from now on.'
  })
const question = ref<Question | null>(null)
const end = () =>
  (question.value = { title: `Take ${props.name} away`, text: 'With its drafts, its looks and its pictures. The journal keeps that it was there.', yes: 'Take it away', act: () => ledger.discardApi(props.name) })
</script>

<template>
  <div class="head"><div><h1>What holds for {{ api?.title ?? name }}</h1><p>The journal keeps who changed it, and why.</p></div></div>
  <form class="inner form" @submit.prevent="keep">
    <FaultLine :text="error" />
    <template v-if="api">
      <label>Team<select id="team" v-model="team" :disabled="!may('move')"><option v-if="!api.team" value="">none</option><option v-for="t in teams ?? []" :key="t.name" :value="t.name">{{ t.name }}</option></select></label>
      <p v-if="api.offered" class="soft" data-offered>It is offered to {{ api.offered }}, whose lead takes it, or not.<template v-if="may('move')"> <button type="button" class="link" @click="withdraw">Take the offer back</button></template></p>
      <p v-else-if="changed.team && !mine" class="soft">You may not speak for {{ team }}: it is offered to them, and one of their leads takes it.</p>
      <fieldset>
        <legend>Promise <HelpLink to="ledger#lines-promises-the-gate" about="promises" /></legend>
        <label class="in">of <select id="line" v-model="line"><option value="">all lines that have none of their own</option><option v-for="l in lines" :key="l" :value="l">line {{ l }} alone</option></select></label>
        <label v-for="(text, p) in promises" :key="p" class="choice"><input v-model="promise" type="radio" name="promise" :value="p" /> {{ text }}</label>
        <label v-if="line" class="choice"><input v-model="promise" type="radio" name="promise" value="" /> what its API promises: {{ api.promise }}</label>
        <label v-else class="choice"><input v-model="promise" type="radio" name="promise" value="" /> what the house style says<template v-if="!own">: {{ api.promise }}</template></label>
        <label v-if="changed.promise">Why another promise holds from now on<NInput v-model:value="reason" type="textarea" :input-props="{ id: 'reason' }" placeholder="" /></label>
      </fieldset>
      <label v-if="may('period')">Days between a notice and the day on which something leaves, at least; −1 for as many as the house style says, or the ledger<template v-if="ownDays === '-1'">: {{ api.noticeDays }}</template><input id="days" v-model="days" type="number" min="-1" max="3650" aria-label="days of notice" /></label>
      <p v-else class="soft"><template v-if="api.noticeDays">What leaves is announced at least {{ api.noticeDays }} days before</template><template v-else>There is no notice period</template>; an administrator sets it.</p>
      <p v-for="asked in api.review" :key="asked" class="soft">By the house style, {{ asked }}. <HelpLink to="housestyle#what-is-asked-of-what-is-published" about="the rules of review" /></p>
      <fieldset v-if="may('arrange')">
        <legend>Its pages lead to <HelpLink to="people#shelves" about="which versions pages lead to" /></legend>
        <label class="choice"><input v-model="leads" type="radio" name="leads" value="all" /> every published version</label>
        <label class="choice"><input v-model="leads" type="radio" name="leads" value="lines" /> the newest of each line</label>
        <label class="choice"><input v-model="leads" type="radio" name="leads" value="some" /> these:</label>
        <label v-if="leads === 'some'">Lines and numbers<NInput v-model:value="some" :input-props="{ id: 'some', maxlength: 200 }" placeholder="2, 1.4.0" /></label>
      </fieldset>
      <HowCalled v-if="may('read')" v-model:scheme="scheme" v-model:undeclared="undeclared" :name="name" :kept="`${api.versioning} ${api.undeclared}`" :may="may('calling')" />
      <FaultLine :text="fault" />
      <p v-if="said" role="status">{{ said }}</p>
      <NButton type="primary" attr-type="submit" :loading="busy" :disabled="!ready">Keep</NButton>
      <template v-if="drafts">
        <h2 style="margin-top: 28px">Its end</h2>
        <p>It never had more than drafts, so it can be taken away. <button type="button" class="link" data-end @click="end">Take {{ name }} away …</button></p>
      </template>
      <Ask :question="question" @close="question = null" @done="router.push('/')" />
    </template>
  </form>
</template>

<style scoped>
.form { max-width: 600px; }
.form > label { display: block; margin: 12px 0; }
fieldset { border: 1px solid var(--rule); margin: 14px 0; padding: 6px 16px 12px; } legend { font: 600 15px var(--serif); padding: 0 6px; }
fieldset label { display: block; } .choice input { accent-color: var(--ink); }
select, #days { font: inherit; color: var(--ink); background: var(--sheet); border: 1px solid var(--rule-strong); padding: 2px 6px; max-width: 100%; }
#days { display: block; width: 8em; } #team { display: block; }
</style>
