<script setup lang="ts">
// Who may read an API, its drafts and parts of it; the links by which others do. Without an API, who may read all of which nothing else is said.
import { NButton, NInput, NSelect } from 'naive-ui'
import { computed, ref, watch } from 'vue'
import { useAct } from '../data/act'
import type { Question } from '../data/ask'
import { copyText } from '../data/copy'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import type { JsonObject } from '../data/json'
import { partsOf } from '../data/parts'
import { useSession } from '../data/session'
import { groupWords } from '../data/shelves'
import type { Audience, AudienceWish, Link, NewLink } from '../data/types'
import { useUnsaved } from '../data/unsaved'
import { day } from '../data/words'
import Ask from '../parts/Ask.vue'
import FaultLine from '../parts/FaultLine.vue'
import Groups from '../parts/Groups.vue'
import HelpLink from '../parts/HelpLink.vue'

const props = defineProps<{ name?: string }>()
const session = useSession()
const { value: api, error, again } = useLoading(async () => (props.name ? await ledger.api(props.name) : null))
const { value: usual, again: readUsual } = useLoading(ledger.audience)
const { value: teams } = useLoading(ledger.teams)
const teamNames = computed(() => (teams.value ?? []).map((t) => t.name))
const { busy, fault, run } = useAct()
const said = ref('')

const is = computed<Audience | null | undefined>(() => (props.name ? api.value?.audience : usual.value))
const may = computed(() => (props.name ? (api.value?.may?.includes('audience') ?? false) : session.may('audience')))
const published = ref<string[]>([])
const drafts = ref<string[]>([])
const reason = ref('')
watch(is, (a) => { if (a) [published.value, drafts.value] = [[...a.published], [...a.drafts]] }, { immediate: true })
const same = (a: string[], b: string[]) => [...a].sort().join() === [...b].sort().join()
const changed = computed(() => !!is.value && (!same(published.value, is.value.published) || !same(drafts.value, is.value.drafts)))
useUnsaved(() => changed.value || !!label.value || !!part.value)

const set = (wish: AudienceWish) =>
  run(async () => {
    said.value = ''
    await ledger.setAudience(props.name ?? '', wish)
    reason.value = ''
    part.value = null
    partGroups.value = []
    said.value = 'It holds from the next request on.'
    again()
    readUsual()
  })
const keep = () =>
  set({
    ...(same(published.value, is.value!.published) ? {} : { published: published.value }),
    ...(same(drafts.value, is.value!.drafts) ? {} : { drafts: drafts.value }),
    reason: reason.value,
  })
const inWords = (groups: string[]) => groupWords(groups, 'its team alone')

// Parts of the API for fewer: its groups and operations, as its newest version has them.
const newest = computed(() => api.value?.versions.filter((v) => v.state !== 'draft' && v.state !== 'retired').at(-1) ?? api.value?.versions.at(-1))
const part = ref<string | null>(null)
const root = ref<JsonObject>({})
watch(newest, async (v) => {
  if (!v || !may.value) return
  const got = await ledger.wording(`${props.name}@${v.number}`).catch(() => ({ written: {} })) // without it, names are written
  root.value = got.written
}, { immediate: true })
const parts = computed(() => partsOf(root.value))
const partGroups = ref<string[]>([])

const { value: links, again: readLinks } = useLoading(async () => (props.name && may.value ? await ledger.links(props.name) : []))
watch(may, readLinks)
const label = ref('')
const made = ref<NewLink | null>(null)
const copied = ref('')
const copy = (text: string) => copyText(text).then(() => (copied.value = 'Copied.'))
const makeLink = () =>
  run(async () => {
    copied.value = ''
    made.value = await ledger.makeLink(props.name!, { label: label.value.trim() })
    label.value = ''
    readLinks()
  })
// The shelves on which it stands.
const { value: shelves } = useLoading(async () => (props.name ? await ledger.shelves() : []))
const standing = computed(() => (shelves.value ?? []).flatMap((s) => s.stands.filter((o) => o.api === props.name).map((o) => ({ ...o, shelf: s }))))

// As whom whoever may say who reads can look.
const roles = ['lead', 'publisher', 'editor', 'reviewer', 'reader']
const ways = computed(() => [
  { as: 'nobody', text: 'nobody' },
  ...(props.name ? [{ as: `link ${props.name}`, text: 'whoever has a link' }] : []),
  { as: 'signed-in', text: 'whoever is signed in' },
  ...(teams.value ?? []).filter((t) => t.may.includes('audience')).flatMap((t) => roles.map((r) => ({ as: `${r} of ${t.name}`, text: `${r} of ${t.name}` }))),
])
const as = ref('nobody')
const look = () =>
  run(async () => {
    await ledger.seeAs(as.value)
    location.assign(as.value === 'nobody' || as.value.startsWith('link ') ? `/reference/${props.name ? props.name + '/' : ''}` : '/console/')
  })
const question = ref<Question | null>(null)
const withdraw = (l: Link) =>
  (question.value = { title: `Withdraw the link for ${l.label}`, text: 'Whoever used it reads nothing by it from the next request on.', yes: 'Withdraw it', act: () => ledger.withdrawLink(props.name!, l.id) })
</script>

<template>
  <div class="head"><div>
    <h1>{{ name ? `Who may read ${api?.title ?? name}` : 'Who may read' }}</h1>
    <p v-if="name">For whoever may not read it, it is as if it never was. <HelpLink to="people#who-may-read" about="who may read" /></p>
    <p v-else>Every API of which nothing else is said. <HelpLink to="people#who-may-read" about="who may read" /></p>
  </div></div>
  <div class="inner form">
    <FaultLine :text="error || fault" />
    <p v-if="said" role="status">{{ said }}</p>
    <form v-if="is" @submit.prevent="keep">
      <p v-if="name && is.publishedAsLedger && is.draftsAsLedger" class="soft">Nothing else is said of it: it is as <RouterLink to="/readers">the ledger says</RouterLink>.</p>
      <Groups v-model="published" legend="What is published" holder="whoever has a link and its password" :teams="teamNames" :own="api?.team" :without="name ? [] : ['link']" />
      <Groups v-model="drafts" legend="Drafts" holder="whoever has the address of a preview" :teams="teamNames" :own="api?.team" :without="['everyone']" />
      <label v-if="changed">Why, for the journal<NInput v-model:value="reason" :input-props="{ id: 'reason', maxlength: 2000 }" placeholder="" /></label>
      <div class="do">
        <NButton v-if="may" type="primary" attr-type="submit" :loading="busy" :disabled="!changed" data-keep>Keep</NButton>
        <NButton v-if="may && name && !(is.publishedAsLedger && is.draftsAsLedger)" :disabled="busy" data-as-ledger @click="set({ asLedger: true })">As the ledger says: {{ usual ? inWords(usual.published) : '' }}</NButton>
        <p v-if="!may" class="soft">A lead says who may read.</p>
      </div>
    </form>

    <template v-if="name && api && is">
      <h2>Parts for fewer</h2>
      <table v-if="is.parts?.length" class="ruled">
        <thead><tr><th>part</th><th>for</th><th><span class="unseen">acts</span></th></tr></thead>
        <tbody><tr v-for="p in is.parts" :key="p.part"><td><code>{{ p.part }}</code></td><td>{{ inWords(p.published) }}</td><td><button v-if="may" type="button" class="link" :data-lift="p.part" @click="set({ part: p.part, asLedger: true })">For all its readers</button></td></tr></tbody>
      </table>
      <p v-else class="soft">Whoever reads it reads all of it.</p>
      <form v-if="may" @submit.prevent="set({ part: part ?? '', published: partGroups })">
        <label>A group or an operation of {{ newest?.number }}<NSelect v-model:value="part" filterable tag clearable :options="parts" :input-props="{ id: 'part', 'aria-label': 'group or operation' }" placeholder="choose one, or write operation GET /berths" /></label>
        <template v-if="part?.trim()">
          <Groups v-model="partGroups" legend="Of its readers, it is for" holder="whoever has a link and its password" :teams="teamNames" :own="api.team" />
          <NButton attr-type="submit" :loading="busy" data-keep-part>Keep</NButton>
        </template>
      </form>

      <h2>Shelves</h2>
      <ul v-if="standing.length">
        <li v-for="o in standing" :key="o.shelf.name" :data-on="o.shelf.name"><RouterLink to="/shelves">{{ o.shelf.title }}</RouterLink><template v-if="o.versions?.length">, {{ o.versions.join(', ') }} alone</template><span v-if="o.why" class="soft">: not all who see the shelf read it there; {{ o.why }}.</span></li>
      </ul>
      <p v-else class="soft">It stands on none; <RouterLink to="/shelves">see which there are</RouterLink>.</p>

      <template v-if="may">
        <h2>Links</h2>
        <p v-if="!is.published.includes('link')" class="soft">A link opens it once “whoever has a link and its password” is ticked above.</p>
        <div v-if="made" class="made" role="status">
          <p>For {{ made.label }}, until {{ day(made.endsAt) }}. Both are shown this once; send them on different ways.</p>
          <p><code data-address>{{ made.address }}</code> <button type="button" class="link" @click="copy(made.address)">copy it</button></p>
          <p>Password: <code data-password>{{ made.password }}</code> <button type="button" class="link" @click="copy(made.password)">copy it</button> {{ copied }}</p>
        </div>
        <table v-if="links?.length" class="ruled">
          <thead><tr><th>for</th><th>made</th><th>ends</th><th><span class="unseen">acts</span></th></tr></thead>
          <tbody><tr v-for="l in links" :key="l.id"><td>{{ l.label }}</td><td class="soft">{{ l.madeBy }}, {{ day(l.madeAt) }}</td><td>{{ l.ended ? 'ended' : day(l.endsAt) }}</td><td><button type="button" class="link" :data-withdraw="l.label" @click="withdraw(l)">Withdraw …</button></td></tr></tbody>
        </table>
        <form class="line" @submit.prevent="makeLink"><label>A link for <NInput v-model:value="label" :input-props="{ id: 'label', maxlength: 100 }" placeholder="" /></label><NButton attr-type="submit" :disabled="busy || !label.trim()" data-make-link>Make it</NButton></form>
      </template>
    </template>
    <template v-if="may">
      <h2>See as</h2>
      <form class="line" @submit.prevent="look"><label>Look at the reference and the console as <select v-model="as" data-as><option v-for="w in ways" :key="w.as" :value="w.as">{{ w.text }}</option></select></label><NButton attr-type="submit" :disabled="busy" data-look>Look</NButton></form>
      <p class="soft">Every page says so, and nothing can be changed meanwhile.</p>
    </template>
    <Ask :question="question" @close="question = null" @done="readLinks" />
  </div>
</template>

<style scoped>
.form { max-width: 640px; } select { font: inherit; color: var(--ink); background: var(--sheet); border: 1px solid var(--rule-strong); padding: 2px 6px; } h2 { margin: 28px 0 8px; }
.do { display: flex; flex-wrap: wrap; gap: 10px; margin-top: 10px; }
.line { display: flex; gap: 10px; align-items: end; margin-top: 12px; } .line label { flex: 1; }
.made { border: 1px solid var(--rule-strong); padding: 8px 14px; margin: 10px 0; overflow-wrap: anywhere; }
</style>
