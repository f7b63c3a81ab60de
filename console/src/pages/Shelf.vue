<script setup lang="ts">
// The shelf: what waits for whoever looks, all APIs as they are looked for, and what leaves.
import { NButton } from 'naive-ui'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useKeys } from '../data/keys'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import { useSession } from '../data/session'
import { shelved, type Order } from '../data/shelf'
import { count, day } from '../data/words'
import FaultLine from '../parts/FaultLine.vue'
import GradeMark from '../parts/GradeMark.vue'

const session = useSession()
const route = useRoute()
const router = useRouter()
const { value: apis, error } = useLoading(ledger.apis)
const { value: waiting, error: notWaited } = useLoading(ledger.waiting)

// Of many drafts the first stand above the shelf, the rest on demand.
const few = 6
const all = ref(false)

// What is looked for is in the address, so that it can be kept and passed on.
const text = (name: string) => (typeof route.query[name] === 'string' ? route.query[name] : '')
const words = ref(text('q'))
const team = ref(text('team'))
const only = ref(text('only'))
const order = ref((text('sort') || 'title') as Order)
function note() {
  const query = { q: words.value, team: team.value, only: only.value, sort: order.value === 'title' ? '' : order.value }
  void router.replace({ query: Object.fromEntries(Object.entries(query).filter(([, v]) => v)) })
}
function sort(by: Order) {
  order.value = order.value === by && !by.startsWith('-') ? (`-${by}` as Order) : by
  note()
}
const teams = computed(() => [...new Set((apis.value ?? []).map((a) => a.team).filter(Boolean))].sort())
const rows = computed(() => shelved(apis.value ?? [], { words: words.value, team: team.value, only: only.value, order: order.value }))
const leaving = computed(() => rows.value.flatMap((r) => r.api.notices).sort((a, b) => (a.sunset ?? '9').localeCompare(b.sunset ?? '9')))

const columns: { by: Order; name: string }[] = [{ by: 'title', name: 'API' }, { by: 'team', name: 'team' }, { by: 'newest', name: 'newest' }]
const sorts = (by: Order) => (order.value === by ? 'ascending' : order.value === `-${by}` ? 'descending' : 'none')

function step(by: number) {
  const links = [...document.querySelectorAll<HTMLElement>('tr[data-api] a:first-child')]
  const at = links.indexOf(document.activeElement as HTMLElement)
  links[Math.min(Math.max(at + by, 0), links.length - 1)]?.focus()
}
useKeys({ j: () => step(1), k: () => step(-1) })
</script>

<template>
  <div class="head">
    <div><h1>Shelf</h1><p v-if="apis">{{ count(apis.length, 'API') }}, {{ count(apis.reduce((n, a) => n + a.versions.length, 0), 'version') }}</p></div>
    <div class="do"><RouterLink v-if="session.may('read')" to="/overview">How the teams are doing</RouterLink><RouterLink to="/shelves">Shelves for readers</RouterLink><RouterLink v-if="session.may('record')" v-slot="{ navigate }" to="/record" custom><NButton type="primary" @click="navigate">Record a version</NButton></RouterLink></div>
  </div>
  <div class="inner">
    <FaultLine :text="error || notWaited" />
    <section v-if="apis && !apis.length" class="begin">
      <h2>This ledger is empty</h2>
      <ol>
        <li><template v-if="session.may('record')"><RouterLink to="/record">Record a first version</RouterLink>: drop an OpenAPI or RAML description; you see what is wrong with it before it is kept.</template><template v-else>Somebody who may write records a first version.</template></li>
        <li>Publish it: readers get a reference of it, and its number never says anything else again.</li>
        <li>Record the next one: the ledger tells what it breaks, for whom, with a message that shows it.</li>
      </ol>
      <p><a href="/manual/first-hour" target="_blank">A first hour</a> goes through it with a description of your own.</p>
    </section>
    <section v-if="waiting && waiting.drafts.length + waiting.notices.length + waiting.asked.length" class="waits" aria-labelledby="waits">
      <h2 id="waits">What waits</h2>
      <ul>
        <li v-for="d in (all ? waiting.drafts : waiting.drafts.slice(0, few))" :key="d.version.api + d.version.number">
          <GradeMark v-if="d.open" grade="safe" text="gate open" /><GradeMark v-else grade="breaking" text="gate shut" />
          <RouterLink :to="`/apis/${d.version.api}/publish/${d.version.number}`">{{ d.version.title }} <code>{{ d.version.number }}</code></RouterLink>
          <span class="soft">{{ d.mine ? 'your draft' : `a draft by ${d.version.recordedBy}` }} of {{ day(d.version.recordedAt) }}<template v-if="d.why">: {{ d.why }}</template></span>
        </li>
        <li v-for="r in waiting.asked" :key="`asked ${r.id}`" data-asked><GradeMark grade="hazard" text="asks for it" /> <RouterLink to="/requests">{{ r.title || r.consumer }}: {{ r.items.map((i) => `${i.api}, line ${i.line}`).join(', ') }}</RouterLink></li>
        <li v-for="n in waiting.notices" :key="n.id"><GradeMark grade="hazard" :text="`leaves ${day(n.sunset!)}`" /> <RouterLink :to="`/apis/${n.api}/notices/${n.id}`">{{ n.subject }}</RouterLink></li>
      </ul>
      <button v-if="!all && waiting.drafts.length > few" type="button" class="link" data-all @click="all = true">and {{ count(waiting.drafts.length - few, 'draft') }} more</button>
    </section>
    <template v-if="apis && apis.length">
      <div class="seek" role="search">
        <label>Find <input v-model="words" type="search" data-words @input="note" /></label>
        <label>team <select v-model="team" @change="note"><option value="">any</option><option v-for="t in teams" :key="t">{{ t }}</option></select></label>
        <label>only <select v-model="only" @change="note"><option value="">all of them</option><option value="drafts">with drafts</option><option value="leaving">with something that leaves</option><option value="unpublished">never published</option></select></label>
        <span class="soft" role="status">{{ rows.length === apis.length ? '' : `${rows.length} of ${apis.length}` }}</span>
      </div>
      <table class="ruled">
        <thead><tr><th v-for="c in columns" :key="c.by" :aria-sort="sorts(c.by)"><button type="button" @click="sort(c.by)">{{ c.name }}{{ sorts(c.by) === 'ascending' ? ' ↑' : sorts(c.by) === 'descending' ? ' ↓' : '' }}</button></th><th>drafts</th><th>leaves next</th><th>promise</th></tr></thead>
        <tbody>
          <tr v-for="r in rows" :key="r.api.name" :data-api="r.api.name">
            <td><RouterLink :to="`/apis/${r.api.name}`"><b>{{ r.api.title }}</b></RouterLink> <code class="soft">{{ r.api.name }}</code></td>
            <td>{{ r.api.team }}</td>
            <td><code>{{ r.newest?.number ?? '—' }}</code><span v-if="r.newest?.publishedAt" class="soft"> published {{ day(r.newest.publishedAt) }}</span> <GradeMark v-if="r.newest?.waivers?.length" grade="hazard" :text="`${count(r.newest.waivers.length, 'change')} let through`" /></td>
            <td><RouterLink v-for="d in r.drafts" :key="d.number" class="draft" :to="`/apis/${r.api.name}/publish/${d.number}`"><code>{{ d.number }}</code></RouterLink></td>
            <td>{{ r.leaves ? day(r.leaves) : '' }}</td>
            <td>{{ r.api.promise }}<span v-for="(p, line) in r.api.linePromises" :key="line" class="soft">, line {{ line }} {{ p }}</span></td>
          </tr>
          <tr v-if="!rows.length"><td colspan="6" class="soft">No API is like that.</td></tr>
        </tbody>
      </table>
    </template>
    <template v-if="leaving.length">
      <h2 style="margin-top: 28px">What leaves</h2>
      <p><RouterLink to="/sunsets">When, across all APIs</RouterLink></p>
      <table class="ruled">
        <thead><tr><th>leaves</th><th>what</th><th>instead</th><th>why</th></tr></thead>
        <tbody>
          <tr v-for="n in leaving" :key="n.id">
            <td>{{ n.sunset ? day(n.sunset) : 'no date yet' }}</td>
            <td><RouterLink :to="`/apis/${n.api}`">{{ n.subject }}</RouterLink></td>
            <td>{{ n.replacedBy }}</td>
            <td class="soft why">{{ n.reason }}</td>
          </tr>
        </tbody>
      </table>
    </template>
  </div>
</template>

<style scoped>
.waits { margin-bottom: 20px; }
.waits ul { list-style: none; margin: 2px 0 0; padding: 0; font-size: 14.5px; }
.waits li { border-top: 1px solid var(--rule); padding: 4px 0; display: flex; flex-wrap: wrap; gap: 2px 12px; align-items: baseline; }
.seek { display: flex; flex-wrap: wrap; gap: 6px 18px; align-items: baseline; margin-bottom: 8px; color: var(--ink-soft); font-size: 14px; }
.seek input, .seek select { font: inherit; color: var(--ink); background: var(--sheet); border: 1px solid var(--rule-strong); padding: 2px 6px; max-width: 100%; }
th button { all: unset; cursor: pointer; font-weight: 600; } th button:hover { text-decoration: underline; } th button:focus-visible { outline: 2px solid var(--link); }
.draft + .draft { margin-left: 10px; }
.begin { max-width: 640px; } .begin ol { padding-left: 20px; }
</style>
