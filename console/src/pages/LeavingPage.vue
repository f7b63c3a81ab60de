<script setup lang="ts">
// May something go? The answer with its reasons, the curve of use, and who is left, with what to send them.
import { NButton, NInput, NModal } from 'naive-ui'
import { computed, ref } from 'vue'
import { useAct } from '../data/act'
import { copyText } from '../data/copy'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import type { CallerUse } from '../data/types'
import { bandsOf, number, share } from '../data/use'
import { count, day, sentence } from '../data/words'
import CallsChart from '../parts/CallsChart.vue'
import FaultLine from '../parts/FaultLine.vue'
import HelpLink from '../parts/HelpLink.vue'

const props = defineProps<{ name: string; of: string }>()
const { value: api } = useLoading(() => ledger.api(props.name))
const what = computed(() => (props.of.startsWith('notice-') ? props.of.slice(7) : `${props.name}@${props.of}`))
const { value: r, error, again } = useLoading(() => ledger.ready(what.value))
const { value: use } = useLoading(() => ledger.use(props.name, {}))
const notice = computed(() => api.value?.notices.find((n) => n.id === r.value?.notice))
const today = new Date().toISOString().slice(0, 10)
const left = computed(() => (r.value?.sunset ? Math.round((Date.parse(r.value.sunset) - Date.parse(today)) / 864e5) : 0))
const when = computed(() => {
  if (!r.value?.sunset) return ''
  if (left.value === 0) return 'today'
  return left.value > 0 ? `in ${count(left.value, 'day')}` : `${count(-left.value, 'day')} ago`
})
// What leaves lies below the others.
const bands = computed(() => {
  const of = (s: { name: string }) => r.value?.versions.includes(s.name)
  const series = (use.value?.series ?? []).filter((s) => s.calls)
  return bandsOf([...series.filter(of), ...series.filter((s) => !of(s))])
})
const marks = computed(() => [...(notice.value ? [{ day: notice.value.since, text: 'announced' }] : []), ...(r.value?.sunset ? [{ day: r.value.sunset, text: 'leaves' }] : [])])
const ends = computed(() => (r.value?.ends ? { early: r.value.ends, late: r.value.endsBy, now: r.value.curve.at(-1) ?? 0 } : undefined))
const perDay = (u: CallerUse) => number(Math.round(u.calls / Math.max(1, r.value!.evidence.covered)))

const reminding = ref<CallerUse | null>(null)
const writing = ref(false)
const words = ref('')
const copied = ref(false)
function remind(u: CallerUse) {
  [reminding.value, writing.value] = [u, true]
  words.value = r.value!.messages[u.consumer ?? ''] ?? ''
  copied.value = false
}
const mail = computed(() => `mailto:${(reminding.value?.contacts ?? []).filter((c) => c.includes('@')).join(',')}?subject=${encodeURIComponent(`${r.value?.title} leaves${r.value?.sunset ? ' on ' + day(r.value.sunset) : ''}`)}&body=${encodeURIComponent(words.value)}`)

const may = computed(() => api.value?.may?.includes('publish') ?? false)
const leaving = computed(() => (api.value?.versions ?? []).filter((v) => r.value?.versions.includes(v.number) && v.overdue))
const retiring = ref(false)
const reason = ref('')
const despite = ref('')
const { busy, fault, run } = useAct()
const retire = () =>
  run(async () => {
    for (const v of leaving.value) await ledger.retire(`${props.name}@${v.number}`, reason.value, despite.value)
    retiring.value = false
    again()
  })
</script>

<template>
  <div v-if="error" class="inner"><FaultLine :text="error" /></div>
  <template v-if="r">
    <div class="head">
      <div><h1>May {{ r.title.startsWith('Line ') ? 'line' + r.title.slice(4) : r.title }} go?</h1><p><template v-if="notice">Announced on {{ day(notice.since) }}<template v-if="r.sunset">, leaves on {{ day(r.sunset) }}, {{ when }}</template> · <RouterLink :to="`/apis/${name}/notices/${notice.id}`">the notice</RouterLink></template><template v-else>Nothing says that it leaves · <RouterLink :to="`/apis/${name}/deprecate`">announce it</RouterLink></template><template v-if="r.guide"> · <RouterLink :to="`/apis/${name}/guide/${r.guide}`">guide {{ r.guide.replace('..', ' to ') }}</RouterLink></template> · <RouterLink :to="`/apis/${name}/use`">who calls {{ api?.title ?? name }}</RouterLink> <HelpLink to="consumers#may-it-go" about="what may go" /></p></div>
      <div v-if="may && leaving.length" class="do"><NButton type="primary" data-retire @click="retiring = true">Retire {{ leaving.map((v) => v.number).join(', ') }} …</NButton></div>
    </div>
    <div class="sheet">
      <div class="answer"><b :class="r.may ? 'yes' : 'no'" data-answer>{{ r.may ? 'Yes' : 'No' }}</b><ul><li v-for="x in r.reasons" :key="x.text"><i :class="x.fine ? 'yes' : 'no'" :aria-label="x.fine ? 'fine' : 'in the way'" role="img">{{ x.fine ? '✓' : '✕' }}</i>{{ x.text }}</li></ul></div>
      <template v-if="use?.calls">
        <h2>Calls a day</h2>
        <CallsChart :from="use.from" :bands="bands" :missing="use.missing" :marks="marks" :ends="ends" :label="`Calls of ${name} a day, by version`" />
        <p v-if="r.ends" class="soft">At this pace the calls of {{ r.subject }} end on {{ day(r.ends) }} at the earliest<template v-if="r.endsBy">, on {{ day(r.endsBy) }} at the latest</template><template v-else>; nobody can say when at the latest</template>.</p>
        <p v-else-if="r.users.length" class="soft">The calls of {{ r.subject }} do not become fewer.</p>
      </template>
    </div>
    <div class="inner">
      <h2>{{ r.users.length ? 'Who is left' : 'Nobody is left' }}</h2>
      <p v-if="!r.users.length" class="soft">{{ r.evidence.covered ? `As far as logs tell, of ${r.evidence.covered} of the last ${r.evidence.days} days.` : 'But no log tells of the last ' + r.evidence.days + ' days.' }}</p>
      <table v-else class="ruled" tabindex="0">
        <thead><tr><th>consumer</th><th>calls</th><th class="num">a day</th><th class="num">failed</th><th>last call</th><th>who to ask</th><th><span class="unseen">acts</span></th></tr></thead>
        <tbody>
          <tr v-for="u in r.users" :key="u.consumer || u.caller" :data-user="u.consumer || u.caller">
            <td><RouterLink v-if="u.consumer" :to="`/consumers/${u.consumer}`">{{ u.title || u.consumer }}</RouterLink><template v-else>an unknown caller<small>“{{ u.caller || 'says nothing' }}”</small></template><small v-if="u.team">{{ u.team }}</small></td>
            <td>{{ u.versions.join(', ') }}<details><summary class="soft">{{ count(u.operations.length, 'operation') }}</summary><code v-for="o in u.operations" :key="o">{{ o }}</code></details></td>
            <td class="num">{{ perDay(u) }}</td><td class="num">{{ share(u.failed, u.calls) }}</td><td>{{ day(u.lastDay) }}</td>
            <td class="soft"><template v-if="u.contacts.length">{{ u.contacts.join(', ') }}</template><template v-else-if="u.consumer">nobody is named</template></td>
            <td class="ways"><button v-if="u.consumer" type="button" class="link" :data-remind="u.consumer" @click="remind(u)">Remind …</button><RouterLink v-else :to="{ path: '/consumers', query: { agent: u.caller } }">Make it a consumer</RouterLink></td>
          </tr>
        </tbody>
      </table>
    </div>
    <div v-if="r.moved.length" class="inner moved">
      <h2>Who has moved</h2>
      <p class="soft">Called it in the last 90 days, and not in the last {{ r.quiet }}.</p>
      <table class="ruled" tabindex="0"><thead><tr><th>consumer</th><th>called</th><th class="num">calls</th><th>last call</th></tr></thead><tbody><tr v-for="u in r.moved" :key="u.consumer || u.caller"><td><RouterLink v-if="u.consumer" :to="`/consumers/${u.consumer}`">{{ u.title || u.consumer }}</RouterLink><template v-else>“{{ u.caller || 'says nothing' }}”</template></td><td>{{ u.versions.join(', ') }}</td><td class="num">{{ number(u.calls) }}</td><td>{{ day(u.lastDay) }}</td></tr></tbody></table>
    </div>
    <NModal v-model:show="writing">
      <form v-if="reminding" class="ask wide" role="dialog" aria-labelledby="remind-title" @submit.prevent>
        <h2 id="remind-title">Remind {{ reminding.title || reminding.consumer }}</h2>
        <label>What to say<NInput v-model:value="words" type="textarea" :autosize="{ minRows: 12, maxRows: 20 }" :input-props="{ id: 'remind-words' }" placeholder="" /></label>
        <div class="do"><NButton attr-type="button" @click="writing = false">Close</NButton><NButton attr-type="button" data-copy @click="copyText(words).then(() => (copied = true))">{{ copied ? 'Copied' : 'Copy it' }}</NButton><NButton v-if="reminding.contacts.length" type="primary" tag="a" :href="mail" data-mail>Write the mail</NButton></div>
      </form>
    </NModal>
    <NModal :show="retiring" @update:show="retiring = false">
      <form class="ask" role="dialog" aria-labelledby="retire-title" @submit.prevent="retire">
        <h2 id="retire-title">Retire {{ leaving.map((v) => v.number).join(', ') }}</h2>
        <p>It is gone for good: its addresses answer 410 and lead on, and its clients no longer count.</p>
        <label>Why<NInput v-model:value="reason" type="textarea" :input-props="{ id: 'retire-reason' }" placeholder="" /></label>
        <label v-if="!r.may">{{ sentence(r.reasons.filter((x) => !x.fine).map((x) => x.text).join('; ')) }}. Why it goes all the same<NInput v-model:value="despite" type="textarea" :input-props="{ id: 'retire-despite' }" placeholder="" /></label>
        <FaultLine :text="fault" />
        <div class="do"><NButton attr-type="button" @click="retiring = false">Leave it</NButton><NButton type="primary" attr-type="submit" data-yes :loading="busy" :disabled="!reason.trim() || (!r.may && !despite.trim())">Retire it</NButton></div>
      </form>
    </NModal>
  </template>
</template>

<style scoped>
.answer { display: grid; grid-template-columns: 110px 1fr; border-bottom: 1px solid var(--rule); padding-bottom: 10px; margin-bottom: 8px; }
.answer b { font: 600 30px/40px var(--serif); } .answer ul { list-style: none; margin: 6px 0 0; padding: 0; font-size: 14.5px; line-height: 23px; }
.answer i { font-style: normal; font-weight: 700; display: inline-block; width: 20px; }
.yes { color: var(--safe); } .no { color: var(--breaking); }
td small { display: block; color: var(--ink-soft); line-height: 19px; } td code { display: block; } td summary { cursor: pointer; font-size: 13px; line-height: 19px; }
.num { text-align: right; font: 13px/24px var(--mono); } th.num { font: 600 14px/24px var(--sans); }
.moved { padding-top: 0; } .ways { white-space: nowrap; } .ask.wide { width: min(680px, calc(100vw - 32px)); }
@media (max-width: 800px) { .answer { grid-template-columns: 1fr; } }
</style>
