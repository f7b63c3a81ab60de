<script setup lang="ts">
// The shelves on which readers find APIs together: who sees each, what stands there, in which order.
import { NButton, NInput } from 'naive-ui'
import { computed, reactive, ref } from 'vue'
import { useAct } from '../data/act'
import type { Question } from '../data/ask'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import { useSession } from '../data/session'
import { groupWords, picked, swapped } from '../data/shelves'
import type { Shelf, ShelfWish } from '../data/types'
import { useUnsaved } from '../data/unsaved'
import Ask from '../parts/Ask.vue'
import FaultLine from '../parts/FaultLine.vue'
import Groups from '../parts/Groups.vue'
import HelpLink from '../parts/HelpLink.vue'

const session = useSession()
const { value: shelves, error, again } = useLoading(ledger.shelves)
const { value: apis } = useLoading(ledger.apis)
const { value: teams } = useLoading(ledger.teams)
const teamNames = computed(() => (teams.value ?? []).map((t) => t.name))
const { busy, fault, run } = useAct()
const may = computed(() => session.may('shelves'))
const titleOf = (name: string) => apis.value?.find((a) => a.name === name)?.title ?? name
const mine = (name: string) => apis.value?.find((a) => a.name === name)?.may?.includes('place') ?? false

// The shelf that is being changed; a new one has no name yet.
const open = ref('')
const wish = reactive({ name: '', title: '', audience: [] as string[], landing: '', host: '' })
const before = ref('')
const begin = (s?: Shelf) => {
  open.value = s ? s.name : 'new'
  Object.assign(wish, { name: s?.name ?? '', title: s?.title ?? '', audience: [...(s?.audience ?? ['signed-in'])], landing: s?.landing ?? '', host: s?.host ?? '' })
  before.value = JSON.stringify(wish)
}
useUnsaved(() => open.value !== '' && before.value !== JSON.stringify(wish))
const after = (act: () => Promise<unknown>) => run(async () => { await act(); again() })
const keep = () =>
  after(async () => {
    const { name, ...rest } = wish
    await ledger.setShelf(name.trim(), { ...rest, title: rest.title.trim() || name.trim(), host: rest.host.trim() } satisfies ShelfWish)
    open.value = ''
  })
const move = (s: Shelf, at: number, by: number) => after(() => ledger.setShelf(s.name, { order: swapped(s.stands.map((o) => o.api), at, at + by) }))

const placing = reactive({ shelf: '', api: '', versions: '' })
const placeable = (s: Shelf) => (apis.value ?? []).filter((a) => a.may?.includes('place') && !s.stands.some((o) => o.api === a.name))
const place = (s: Shelf) =>
  after(async () => {
    await ledger.place(s.name, placing.api, picked(placing.versions))
    Object.assign(placing, { shelf: '', api: '', versions: '' })
  })

const question = ref<Question | null>(null)
const drop = (s: Shelf) =>
  (question.value = { title: `Take the shelf ${s.title} away`, text: 'What stands there stays where else it stands, and is read as before.', yes: 'Take it away', act: () => ledger.dropShelf(s.name) })
</script>

<template>
  <div class="head">
    <div><h1>Shelves</h1><p>APIs that readers find together. A shelf opens nothing: who sees it reads there what is open to them. <HelpLink to="people#shelves" about="shelves" /></p></div>
    <div class="do"><NButton v-if="may && open !== 'new'" type="primary" data-new @click="begin()">Make a shelf</NButton></div>
  </div>
  <div class="inner shelves">
    <FaultLine :text="error || fault" />
    <form v-if="open" class="change" @submit.prevent="keep">
      <h2>{{ open === 'new' ? 'A new shelf' : `Change ${open}` }}</h2>
      <label v-if="open === 'new'">Name, in its address<NInput v-model:value="wish.name" :input-props="{ id: 'name', maxlength: 63, pattern: '[a-z][a-z0-9-]*' }" placeholder="partners" /></label>
      <label>Title<NInput v-model:value="wish.title" :input-props="{ id: 'title', maxlength: 100 }" placeholder="" /></label>
      <Groups v-model="wish.audience" legend="Who sees it" holder="" always="those who have a role in all teams" :teams="teamNames" :without="['link']" />
      <label>What greets there, in Markdown<NInput v-model:value="wish.landing" type="textarea" :input-props="{ id: 'landing', maxlength: 20000 }" placeholder="" /></label>
      <label>A host at which nothing else is shown, or none<NInput v-model:value="wish.host" :input-props="{ id: 'host', maxlength: 253 }" placeholder="partners.saltmere.example" /></label>
      <div class="do"><NButton type="primary" attr-type="submit" :loading="busy" :disabled="!wish.name.trim()" data-keep>Keep</NButton><NButton data-cancel @click="open = ''">Leave it</NButton></div>
    </form>
    <p v-if="shelves && !shelves.length && !open" class="soft">There is no shelf yet; readers find all that is for them <a href="/reference/">in one list</a>.</p>
    <section v-for="s in shelves ?? []" :key="s.name" :data-shelf="s.name">
      <h2>{{ s.title }} <code class="soft">{{ s.name }}</code></h2>
      <p class="soft">Seen by {{ groupWords(s.audience ?? [], 'those who have a role in all teams') }}, at <a :href="s.host ? s.address : `/shelves/${s.name}/`" target="_blank">{{ s.address }}</a></p>
      <table v-if="s.stands.length" class="ruled">
        <thead><tr><th class="api">API</th><th class="some">versions</th><th>who reads it there</th><th class="acts"><span class="unseen">acts</span></th></tr></thead>
        <tbody>
          <tr v-for="(o, i) in s.stands" :key="o.api" :data-stand="o.api">
            <td><RouterLink :to="`/apis/${o.api}`">{{ titleOf(o.api) }}</RouterLink></td>
            <td>{{ o.versions?.length ? o.versions.join(', ') : 'all' }}</td>
            <td class="soft">{{ o.why ? `not all who see the shelf: ${o.why}` : 'all who see the shelf' }}</td>
            <td class="acts">
              <template v-if="may"><button type="button" class="link" :disabled="busy || i === 0" :aria-label="`${titleOf(o.api)} further up`" data-up @click="move(s, i, -1)">↑</button> <button type="button" class="link" :disabled="busy || i === s.stands.length - 1" :aria-label="`${titleOf(o.api)} further down`" @click="move(s, i, 1)">↓</button></template>
              <button v-if="mine(o.api)" type="button" class="link" data-off @click="after(() => ledger.unplace(s.name, o.api))">Take it off</button>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-else class="soft">Nothing stands here.</p>
      <form v-if="placing.shelf === s.name" class="line" @submit.prevent="place(s)">
        <label>API <select v-model="placing.api" data-place-api><option v-for="a in placeable(s)" :key="a.name" :value="a.name">{{ a.title }}</option></select></label>
        <label>Versions: lines and numbers, or all<NInput v-model:value="placing.versions" :input-props="{ id: 'versions', maxlength: 200 }" placeholder="all" /></label>
        <NButton attr-type="submit" :disabled="busy || !placing.api" data-place>Place it</NButton>
      </form>
      <p class="do">
        <button v-if="placing.shelf !== s.name && placeable(s).length" type="button" class="link" data-begin-place @click="Object.assign(placing, { shelf: s.name, api: placeable(s)[0]!.name, versions: '' })">Place an API here</button>
        <button v-if="may" type="button" class="link" data-change @click="begin(s)">Change it</button>
        <button v-if="may" type="button" class="link" data-drop @click="drop(s)">Take it away …</button>
      </p>
    </section>
    <Ask :question="question" @close="question = null" @done="again" />
  </div>
</template>

<style scoped>
.shelves { max-width: 960px; } .change { max-width: 640px; border: 1px solid var(--rule-strong); padding: 4px 18px 16px; margin-bottom: 22px; }
.change > label { display: block; margin: 10px 0; }
section { margin-bottom: 30px; } h2 { margin: 18px 0 2px; } section > p { margin: 2px 0 8px; }
.do { display: flex; flex-wrap: wrap; gap: 4px 18px; } table { table-layout: fixed; } .api { width: 24%; } .some { width: 14%; } .acts { width: 150px; white-space: nowrap; text-align: right; } .acts button + button { margin-left: 8px; }
.line { display: flex; flex-wrap: wrap; gap: 10px; align-items: end; margin: 8px 0; } .line label { flex: 1 1 200px; }
select { font: inherit; color: var(--ink); background: var(--sheet); border: 1px solid var(--rule-strong); padding: 2px 6px; display: block; max-width: 100%; }
</style>
