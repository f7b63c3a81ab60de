<script setup lang="ts">
// Who did what and when: the newest first, by person, API, act and time.
import { NButton } from 'naive-ui'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useAct } from '../data/act'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import { useSession } from '../data/session'
import type { Entry } from '../data/types'
import FaultLine from '../parts/FaultLine.vue'
import HelpLink from '../parts/HelpLink.vue'

const route = useRoute()
const session = useSession()
const router = useRouter()
const atOnce = 100
const entries = ref<Entry[]>([])
const more = ref(true)
const verdict = ref('')
const opened = ref<number[]>([])
const { busy, fault, run } = useAct()
const { value: apis } = useLoading(ledger.apis)

const text = (name: string) => (typeof route.query[name] === 'string' ? route.query[name] : '')
const asked = ref({ actor: text('actor'), api: text('api'), act: text('act'), from: text('from'), until: text('until') })
const question = computed(() => Object.fromEntries(Object.entries(asked.value).filter(([, v]) => v)))
// Kinds of acts, in the order in which designers work.
const acts = { version: 'versions', change: 'waivers', notice: 'notices', overlay: 'wordings', guide: 'guides', looks: 'looks', picture: 'pictures', preview: 'previews', promise: 'promises', team: 'whose APIs are', audience: 'who may read', link: 'links', shelf: 'shelves', switcher: 'what pages lead to', member: 'members', teams: 'teams', 'notice-period': 'notice periods', api: 'APIs taken away', credential: 'credentials let through', mistake: 'errors let through', person: 'people', token: 'tokens', calls: 'logs added', consumer: 'consumers', calling: 'how APIs are called', style: 'house styles', feed: 'secret feeds' }

let asking = 0
const older = () =>
  run(async () => {
    const mine = asking
    const next = await ledger.journal(entries.value.at(-1)?.seq ?? 0, atOnce, question.value)
    if (mine !== asking) return
    entries.value.push(...next)
    more.value = next.length === atOnce
  })
watch(question, (q, before) => {
  if (JSON.stringify(q) === JSON.stringify(before)) return
  asking++
  entries.value = []
  opened.value = []
  void router.replace({ query: q })
  void older()
})
void older()

const verify = () => run(async () => {
  const v = await ledger.verifyJournal()
  verdict.value = v.intact ? `${v.entries} entries and ${v.contents} contents, all as they were written. The head: ${v.head}` : `The journal does not hold: ${v.why}`
})
const detailsOf = (e: Entry) => Object.entries(e.detail).filter(([, v]) => v && v !== '{}')
// Who may read from then on, as a journal has it: a JSON list of groups.
const groups = (text: string, none = 'its team') => (JSON.parse(text) as string[]).join(', ') || none
function opens(e: Entry) {
  if (e.detail.shelf) return [e.detail.shelf, e.detail.versions && groups(e.detail.versions, '')].filter(Boolean).join(': ')
  if (e.act === 'switcher.set') return e.detail.versions ? groups(e.detail.versions, '') : 'all versions'
  if (!e.act.startsWith('audience.')) return ''
  const to = [e.detail.published && groups(e.detail.published), e.detail.drafts && `drafts: ${groups(e.detail.drafts)}`].filter(Boolean).join('; ')
  return [e.detail.part, to || 'as the ledger says'].filter(Boolean).join(': ')
}
const why = (e: Entry) => [e.detail.title || e.detail.label || opens(e), e.detail.reason || e.detail.message].filter(Boolean).join(': ')
const turn = (seq: number) => (opened.value = opened.value.includes(seq) ? opened.value.filter((s) => s !== seq) : [...opened.value, seq])
</script>

<template>
  <div class="head">
    <div><h1>Journal</h1><p>{{ verdict || 'Every act, each entry chained to the one before it.' }} <HelpLink to="ledger#the-journal" about="the journal" /></p></div>
    <div class="do"><a href="/api/v1/journal/export" download="journal.jsonl" title="what you may know of it, and hashes of the rest, to be checked without the ledger">Export it</a><NButton v-if="session.person?.role" :disabled="busy" data-verify @click="verify">Verify</NButton></div>
  </div>
  <div class="inner">
    <form class="seek" role="search" aria-label="Acts" @submit.prevent>
      <label>by <input v-model.lazy="asked.actor" data-by placeholder="anybody" size="12" /></label>
      <label>with <select v-model="asked.api" data-api><option value="">anything</option><option v-for="a in apis ?? []" :key="a.name" :value="a.name">{{ a.title }}</option><option v-if="asked.api && !(apis ?? []).some((a) => a.name === asked.api)">{{ asked.api }}</option></select></label>
      <label>what <select v-model="asked.act" data-kind><option value="">all acts</option><option v-for="(name, kind) in acts" :key="kind" :value="kind">{{ name }}</option></select></label>
      <label>from <input v-model.lazy="asked.from" type="date" /></label>
      <label>to <input v-model.lazy="asked.until" type="date" /></label>
      <button v-if="Object.keys(question).length" type="button" class="link" @click="asked = { actor: '', api: '', act: '', from: '', until: '' }">all of it</button>
    </form>
    <FaultLine :text="fault" />
    <table v-if="entries.length" class="ruled">
      <thead><tr><th>when</th><th>who</th><th>act</th><th>what</th><th>why</th></tr></thead>
      <tbody v-for="e in entries" :key="e.seq">
        <tr :data-seq="e.seq">
          <td class="soft when"><button type="button" class="link" :aria-expanded="opened.includes(e.seq)" :title="`details of entry ${e.seq}`" @click="turn(e.seq)">{{ e.at.slice(0, 16).replace('T', ' ') }}</button></td>
          <td>{{ e.actor || 'the ledger' }}</td><td>{{ e.act }}</td><td>{{ e.subject }}</td><td class="soft" :class="{ why: why(e) }">{{ why(e) }}</td>
        </tr>
        <tr v-if="opened.includes(e.seq)" class="details"><td colspan="5"><dl><template v-for="[k, v] in detailsOf(e)" :key="k"><dt>{{ k }}</dt><dd>{{ v }}</dd></template><dt>entry</dt><dd>{{ e.seq }}, {{ e.at }}</dd><dt>hash</dt><dd><code>{{ e.hash }}</code></dd></dl></td></tr>
      </tbody>
    </table>
    <p v-else-if="!busy && !fault" class="soft">Nothing was done that is like that.</p>
    <p v-if="entries.length && more"><NButton :disabled="busy" data-older @click="older">Older acts</NButton></p>
  </div>
</template>

<style scoped>
.seek { display: flex; flex-wrap: wrap; gap: 6px 16px; align-items: baseline; margin-bottom: 10px; color: var(--ink-soft); font-size: 14px; }
.seek input, .seek select { font: inherit; color: var(--ink); background: var(--sheet); border: 1px solid var(--rule-strong); padding: 2px 6px; max-width: 100%; }
.when { white-space: nowrap; }
.details td { border-top: 0; padding: 0 0 8px; }
dl { display: grid; grid-template-columns: max-content minmax(0, 1fr); gap: 0 16px; margin: 0; padding: 8px 14px; background: var(--slip); font-size: 13.5px; line-height: 22px; }
dt { color: var(--ink-soft); } dd { margin: 0; overflow-wrap: anywhere; white-space: pre-wrap; }
</style>
