<script setup lang="ts">
// One consumer: whose it is, what it calls, and by what its calls are recognised.
import { NButton, NInput } from 'naive-ui'
import { computed, reactive, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { useAct } from '../data/act'
import type { Question } from '../data/ask'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import { useSession } from '../data/session'
import type { ConsumerGuide, NewCredential, Sign } from '../data/types'
import { useUnsaved } from '../data/unsaved'
import { number } from '../data/use'
import { count, day } from '../data/words'
import Ask from '../parts/Ask.vue'
import FaultLine from '../parts/FaultLine.vue'
import HelpLink from '../parts/HelpLink.vue'
import Reliance from '../parts/Reliance.vue'

const props = defineProps<{ consumer: string }>()
const router = useRouter()
const session = useSession()
const { value: c, error, again } = useLoading(() => ledger.consumer(props.consumer))
const { value: teams } = useLoading(ledger.teams)
const { value: apis } = useLoading(ledger.apis)
const { busy, fault, run } = useAct()

// At the APIs of which teams one may say by what it is recognised; '' is all.
const places = computed(() => [...(session.may('consumers') && session.person?.role === 'admin' ? [''] : []), ...(teams.value ?? []).filter((t) => t.may.includes('consumers')).map((t) => t.name)])
const at = ref<string | null>(null)
const signs = ref<Sign[]>([])
const here = computed(() => (c.value?.knownBy ?? []).filter((s) => (s.team ?? '') === at.value))
watch([c, at], () => (signs.value = here.value.map((s) => ({ ...s }))))
const changed = computed(() => at.value !== null && JSON.stringify(signs.value.map((s) => [s.kind, s.value])) !== JSON.stringify(here.value.map((s) => [s.kind, s.value])))
const keepSigns = () =>
  run(async () => {
    await ledger.setSigns(props.consumer, { team: at.value || undefined, knownBy: signs.value.filter((s) => s.value.trim()).map((s) => ({ kind: s.kind, value: s.value.trim() })) })
    at.value = null
    again()
  })

const changing = ref(false)
const wish = reactive({ title: '', note: '', contacts: '' })
function begin() {
  Object.assign(wish, { title: c.value!.title, note: c.value!.note ?? '', contacts: c.value!.contacts.join(', ') })
  changing.value = true
}
useUnsaved(() => changed.value || (changing.value && (wish.title !== c.value?.title || wish.note !== (c.value?.note ?? '') || wish.contacts !== c.value?.contacts.join(', '))))
const keep = () =>
  run(async () => {
    await ledger.setConsumer(props.consumer, { title: wish.title.trim(), note: wish.note, contacts: wish.contacts.split(/[\s,]+/).filter(Boolean) })
    changing.value = false
    again()
  })
const asUsed = (uses: string[]) => new URLSearchParams(uses.map((u) => ['use', u])).toString()
const { value: guides, again: guidesAgain } = useLoading(() => ledger.consumerGuides(props.consumer))
const tick = (g: ConsumerGuide, step: string, done: boolean) => run(async () => { await ledger.setStep(props.consumer, { api: g.api, old: g.old, new: g.new, step, done }); guidesAgain() })

// By what it is known at the APIs that it may use: a new one leaves the one before a week.
const { value: grants, again: grantsAgain } = useLoading(() => ledger.grants('', props.consumer))
const made = ref<NewCredential | null>(null)
const renewed = ref(false)
const makeKey = (api: string, there: boolean) =>
  run(async () => {
    made.value = await ledger.makeCredential(props.consumer, api, there ? 7 : -1)
    renewed.value = there
    grantsAgain()
  })
const endKey = (api: string, id: string) => (question.value = { title: `End ${id}`, text: 'It is refused from now on.', yes: 'End it', act: async () => { await ledger.endCredential(props.consumer, api, id); grantsAgain() } })
const question = ref<Question | null>(null)
const drop = () => (question.value = { title: `Take ${c.value!.title} away`, text: 'Its calls stay, and are nobody’s that is known.', yes: 'Take it away', act: () => ledger.dropConsumer(props.consumer) })
const titleOf = (name: string) => apis.value?.find((a) => a.name === name)?.title ?? name
const inside = (name: string) => apis.value?.find((a) => a.name === name)?.may?.includes('read') ?? false
// What of its APIs leaves, the next first.
const leaving = computed(() => (c.value?.uses ?? []).flatMap((u) => (apis.value?.find((a) => a.name === u.api)?.notices ?? []).filter((n) => n.sunset).map((n) => ({ api: u.api, n }))).sort((a, b) => (a.n.sunset! < b.n.sunset! ? -1 : 1)))
</script>

<template>
  <div v-if="error" class="inner"><FaultLine :text="error" /></div>
  <template v-if="c">
    <div class="head">
      <div><h1>{{ c.title }}</h1><p><code>{{ c.name }}</code> · of {{ c.team || c.person }} · made by {{ c.madeBy }} on {{ day(c.madeAt) }}<template v-if="c.contacts.length"> · ask <template v-for="(a, i) in c.contacts" :key="a"><template v-if="i">, </template><a :href="a.startsWith('https:') ? a : `mailto:${a}`">{{ a }}</a></template></template> <HelpLink to="consumers" about="consumers" /></p><p v-if="c.note">{{ c.note }}</p></div>
      <div v-if="c.mine" class="do"><NButton data-change @click="begin">Change it</NButton><NButton data-drop @click="drop">Take it away …</NButton></div>
    </div>
    <div class="inner">
      <FaultLine :text="fault" />
      <form v-if="changing" class="form" @submit.prevent="keep">
        <label>What people call it<NInput v-model:value="wish.title" :input-props="{ id: 'title', maxlength: 100 }" placeholder="" /></label>
        <label>What it is for<NInput v-model:value="wish.note" :input-props="{ id: 'note', maxlength: 2000 }" placeholder="" /></label>
        <label>Who to ask: addresses<NInput v-model:value="wish.contacts" :input-props="{ id: 'contacts' }" placeholder="" /></label>
        <div class="do"><NButton type="primary" attr-type="submit" :loading="busy" :disabled="!wish.title.trim()" data-keep>Keep</NButton><NButton @click="changing = false">Leave it</NButton></div>
      </form>
      <template v-if="grants?.length">
        <h2>What it may use</h2>
        <table class="ruled">
          <thead><tr><th>API</th><th>line</th><th>plan</th><th>credentials</th><th><span class="unseen">acts</span></th></tr></thead>
          <tbody><tr v-for="(g, n) in grants" :key="`${g.api} ${g.line}`" :data-grant="g.api"><td><a :href="`/reference/${g.api}/${g.versions.at(-1) ?? ''}`">{{ titleOf(g.api) }}</a></td><td>{{ g.line }}</td><td>{{ g.plan }}, {{ g.quota ? `${number(g.quota)} calls a ${g.per}` : 'as many calls as one likes' }}</td>
            <td><template v-if="n === grants.findIndex((o) => o.api === g.api)"><div v-for="k in g.credentials.filter((k) => !k.ended)" :key="k.id"><code>{{ k.id }}</code> <span class="soft">{{ k.endsAt ? `ends ${day(k.endsAt)}` : `since ${day(k.madeAt)}` }}</span> <button type="button" class="link" @click="endKey(g.api, k.id)">End it …</button></div></template></td>
            <td class="ways"><button v-if="g.issues" type="button" class="link" :data-key="g.api" :disabled="busy" @click="makeKey(g.api, g.credentials.some((k) => !k.ended))">{{ g.credentials.some((k) => !k.ended) ? 'Renew' : 'Make a credential' }}</button></td></tr></tbody>
        </table>
        <p v-if="made" class="slip made" data-made><b>{{ made.credential }}</b><br />It is shown this once: keep it where it is safe. Logs tell of it as {{ made.id }}.<template v-if="renewed"> The one before it goes on for a week.</template></p>
      </template>
      <h2>What it calls</h2>
      <table v-if="c.uses.length" class="ruled">
        <thead><tr><th>API</th><th class="num">calls</th><th>first</th><th>last</th><th><span class="unseen">more</span></th></tr></thead>
        <tbody><tr v-for="u in c.uses" :key="u.api" :data-use="u.api"><td><RouterLink :to="`/apis/${u.api}`">{{ titleOf(u.api) }}</RouterLink></td><td class="num">{{ number(u.calls) }}</td><td class="soft">{{ day(u.firstDay) }}</td><td class="soft">{{ day(u.lastDay) }}</td><td><RouterLink :to="{ path: `/apis/${u.api}/use`, query: { consumer: c.name } }">by version</RouterLink>, <RouterLink :to="{ path: `/apis/${u.api}/use`, query: { consumer: c.name, by: 'operation' } }">by operation</RouterLink></td></tr></tbody>
      </table>
      <p v-else class="soft">No log tells of it.</p>
      <template v-if="leaving.length">
        <h2>What leaves of what it calls</h2>
        <table class="ruled"><thead><tr><th>leaves</th><th>what</th><th>instead</th></tr></thead><tbody><tr v-for="l in leaving" :key="l.n.id"><td>{{ day(l.n.sunset!) }}</td><td><RouterLink v-if="inside(l.api)" :to="`/apis/${l.api}/leaving/notice-${l.n.id}`">{{ l.n.subject }}</RouterLink><a v-else :href="`/reference/${l.api}/notices`">{{ l.n.subject }}</a></td><td class="soft">{{ l.n.replacedBy }}<template v-if="l.n.guide"> · <RouterLink :to="`/apis/${l.api}/guide/${l.n.guide}`">guide {{ l.n.guide.replace('..', ' to ') }}</RouterLink></template></td></tr></tbody></table>
      </template>
      <section v-for="g in guides ?? []" :key="`${g.api} ${g.old}`" :data-guide="g.api">
        <h2>From {{ titleOf(g.api) }} {{ g.old }} to {{ g.new }}</h2>
        <p class="soft">{{ g.steps.filter((s) => s.doneAt).length }} of {{ count(g.steps.length, 'step') }} done, of those that the {{ count(g.uses.length, 'operation') }} ask for that it calls<template v-if="g.spared">, but for {{ g.spared }} about nothing that it relies on</template> · <a :href="`/reference/${g.api}/guides/${g.old}..${g.new}?${asUsed(g.uses)}`">its guide, step by step</a></p>
        <ul class="steps"><li v-for="s in g.steps" :key="s.id"><label><input type="checkbox" :checked="!!s.doneAt" :disabled="!c.mine || busy" :data-step="s.id" @change="tick(g, s.id, ($event.target as HTMLInputElement).checked)" /> {{ s.title }}</label> <span v-if="s.relied" class="soft">· it relies on it</span> <span v-if="s.doneAt" class="soft">{{ s.doneBy }}, {{ day(s.doneAt) }}</span></li></ul>
      </section>
      <Reliance :consumer="c.name" :mine="c.mine" :title-of="titleOf" @said="guidesAgain" />
      <h2>By what its calls are recognised</h2>
      <ul v-if="c.knownBy.length" class="signs"><li v-for="s in c.knownBy" :key="`${s.team} ${s.kind} ${s.value}`">{{ s.kind }} <code>{{ s.value }}</code> <span class="soft">{{ s.team ? `at the APIs of ${s.team}` : 'at all APIs' }}</span></li></ul>
      <p v-else class="soft">By nothing that you may know of: its calls are of nobody known.</p>
      <p v-if="places.length && at === null"><button v-for="p in places" :key="p" type="button" class="link place" :data-at="p || 'all'" @click="at = p">Say it for {{ p ? `the APIs of ${p}` : 'all APIs' }}</button></p>
      <form v-if="at !== null" class="form" @submit.prevent="keepSigns">
        <h3>At {{ at ? `the APIs of ${at}` : 'all APIs' }}</h3>
        <p class="soft">A credential counts before a header, a header before what the caller calls itself; a * stands for any text. Calls that were counted before are recognised anew.</p>
        <div v-for="(s, i) in signs" :key="i" class="sign"><select v-model="s.kind" :aria-label="`by what, ${i + 1}`"><option value="credential">credential</option><option value="header">header</option><option value="agent">agent</option></select><NInput v-model:value="s.value" :input-props="{ 'aria-label': `its value, ${i + 1}`, maxlength: 120 }" :placeholder="s.kind === 'header' ? 'Client-Name: boards' : s.kind === 'agent' ? 'LocksideBoards/*' : 'boards-key-1'" /><button type="button" class="link" @click="signs.splice(i, 1)">Take away</button></div>
        <button type="button" class="link" data-more @click="signs.push({ kind: 'agent', value: '' })">One more</button>
        <div class="do"><NButton type="primary" attr-type="submit" :loading="busy" :disabled="!changed" data-keep-signs>Keep</NButton><NButton @click="at = null">Leave it</NButton></div>
      </form>
    </div>
    <Ask :question="question" @close="question = null" @done="question?.yes === 'Take it away' && router.push('/consumers')" />
  </template>
</template>

<style scoped>
h2 { margin-top: 18px; } .signs { list-style: none; padding: 0; margin: 4px 0; }
.num { text-align: right; font: 13px/24px var(--mono); } th.num { font: 600 14px/24px var(--sans); }
.steps { list-style: none; padding: 0; margin: 4px 0; } .made { white-space: normal; overflow-wrap: anywhere; } .form { max-width: 640px; margin: 6px 0 20px; } .form label { display: block; margin: 10px 0; } .form .do { display: flex; gap: 10px; margin-top: 14px; }
.sign { display: flex; gap: 10px; align-items: center; margin: 6px 0; } .sign button { white-space: nowrap; } .place { margin-right: 18px; }
select { font: inherit; color: inherit; background: var(--sheet); border: 1px solid var(--rule-strong); padding: 3px 8px; }
</style>
