<script setup lang="ts">
import { NButton, NSelect } from 'naive-ui'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import type { Question } from '../data/ask'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import type { Act, Version } from '../data/types'
import { day } from '../data/words'
import Ask from '../parts/Ask.vue'
import FaultLine from '../parts/FaultLine.vue'
import GatewayHeaders from '../parts/GatewayHeaders.vue'
import GradeMark from '../parts/GradeMark.vue'
import Lineup from '../parts/Lineup.vue'
import Timeline from '../parts/Timeline.vue'

const props = defineProps<{ name: string }>()
const router = useRouter()
const { value: api, error, again: readApi } = useLoading(() => ledger.api(props.name))
const { value: history, again: readHistory } = useLoading(() => ledger.history(props.name))
const { value: lineup } = useLoading(() => ledger.lineup(props.name))
const { value: clients } = useLoading(() => ledger.lineupClients(props.name))
function read() {
  readApi()
  readHistory()
}

// What can be done with a version: each is asked about before it is done.
const question = ref<Question | null>(null)
const asks: Record<string, (v: Version) => Question> = {
  unpublish: (v) => ({ title: `Unpublish ${v.api}@${v.number}`, text: 'Its addresses answer 404 at once, until it is published again. What it says stays as it is.', yes: 'Unpublish it', reason: true, act: (reason) => ledger.unpublish(`${v.api}@${v.number}`, reason) }),
  discard: (v) => ({ title: `Take the draft ${v.number} away`, text: 'With all that was recorded of it. The journal keeps that it was there.', yes: 'Take it away', act: () => ledger.discard(`${v.api}@${v.number}`) }),
}
const may = (act: Act) => api.value?.may?.includes(act) ?? false
const actsOf = (v: Version) => [
  ...(may('publish') && (v.state === 'published' || v.state === 'deprecated') ? [{ name: 'unpublish', label: 'Unpublish …' }] : []),
  ...(may('discard') && v.state === 'draft' ? [{ name: 'discard', label: 'Take away …' }] : []),
]

const options = computed(() => (api.value?.versions ?? []).map((v) => ({ label: v.number, value: v.number })))
const old = ref<string | null>(null)
const now = ref<string | null>(null)
const from = computed(() => old.value ?? options.value.at(-2)?.value ?? '')
const to = computed(() => now.value ?? options.value.at(-1)?.value ?? '')
const readers = computed(() => (api.value?.versions ?? []).filter((v) => v.state === 'published' || v.state === 'deprecated').reverse())
const published = computed(() => api.value?.versions.some((v) => v.state !== 'draft'))
const release = (number: string) => history.value?.find((r) => r.version.number === number)
const unchanged = (number: string) => Object.values(release(number)?.changes?.counts ?? { some: 1 }).every((n) => n === 0)
</script>

<template>
  <div v-if="error" class="inner"><FaultLine :text="error" /></div>
  <template v-if="api">
    <div class="head">
      <div><h1>{{ api.title }}</h1><p><template v-if="api.team">{{ api.team }} · </template><code>{{ api.name }}</code> · lines keep the promise <b>{{ api.promise }}</b><template v-for="(p, line) in api.linePromises" :key="line">, line {{ line }} <b>{{ p }}</b></template></p></div>
      <div class="do">
        <a v-if="published" :href="`/reference/${api.name}/`">Read the reference</a>
        <RouterLink v-if="published && may('read')" :to="`/apis/${name}/use`" data-use>Who calls it</RouterLink>
        <RouterLink v-if="published" :to="`/apis/${name}/embed`">Embed it</RouterLink>
        <NButton v-if="may('promise') || may('move')" @click="router.push(`/apis/${name}/settings`)">Settings</NButton>
        <NButton v-if="may('read')" @click="router.push(`/apis/${name}/readers`)">Readers</NButton>
        <NButton v-if="may('read') && published" data-plans @click="router.push(`/apis/${name}/plans`)">Plans</NButton>
        <NButton v-if="may('arrange')" @click="router.push(`/apis/${name}/looks`)">Looks</NButton>
        <NButton v-if="may('announce') && published" @click="router.push(`/apis/${name}/deprecate`)">Deprecate</NButton>
        <NButton v-if="may('record')" type="primary" @click="router.push(`/apis/${name}/record`)">Record a version</NButton>
      </div>
    </div>
    <div class="sheet"><h2>Versions and what leaves</h2><Timeline :api="api" :history="history ?? []" /></div>
    <div class="inner">
      <div v-if="options.length > 1" class="pick">
        <h2>Compare</h2>
        <NSelect :value="from" :options="options" aria-label="old version" @update:value="old = $event" />
        <span>with</span>
        <NSelect :value="to" :options="options" aria-label="new version" @update:value="now = $event" />
        <NButton @click="router.push(`/apis/${name}/compare/${from}..${to}`)">Open the spread</NButton>
        <NButton @click="router.push(`/apis/${name}/guide/${from}..${to}`)">Read the guide</NButton>
      </div>
      <table class="ruled">
        <thead><tr><th>version</th><th>state</th><th>what it changed</th><th v-if="may('read')">who can read it</th><th>recorded</th><th><span class="unseen">acts</span></th></tr></thead>
        <tbody>
          <tr v-for="v in [...api.versions].reverse()" :key="v.number">
            <td><code>{{ v.number }}</code></td>
            <td><GradeMark v-if="v.state === 'deprecated'" grade="hazard" :text="v.sunset ? `leaves ${day(v.sunset)}` : 'deprecated'" /><span v-else :class="{ soft: v.state === 'draft' }">{{ v.state }}</span></td>
            <td>
              <template v-if="release(v.number)?.changes">
                <RouterLink :to="`/apis/${name}/compare/${release(v.number)!.before}..${v.number}`">against {{ release(v.number)!.before }}</RouterLink>
                <span v-if="unchanged(v.number)" class="soft">&ensp;nothing changed</span>
                <template v-for="(n, g) in release(v.number)!.changes!.counts" :key="g"><template v-if="n">&ensp;<GradeMark :grade="g" :n="n" /></template></template>
              </template>
              <span v-else class="soft">the first version</span>
              <details v-if="release(v.number)?.waivers.length" class="waived"><summary><GradeMark grade="hazard" :text="`let through by ${[...new Set(release(v.number)!.waivers.map((w) => w.madeBy))].join(' and ')}`" /></summary><ul><li v-for="w in release(v.number)!.waivers" :key="w.change"><RouterLink :to="`/apis/${name}/compare/${release(v.number)!.before}..${v.number}?change=${w.change}`">{{ w.title }}</RouterLink>: {{ w.reason }} <span class="soft">{{ w.madeBy }}, {{ day(w.madeAt) }}</span></li></ul></details>
            </td>
            <td v-if="may('read')" class="soft">{{ v.readBy }}</td>
            <td class="soft">{{ v.recordedBy }}, {{ day(v.recordedAt) }}</td>
            <td class="ways">
              <RouterLink v-if="(v.state === 'draft' || v.state === 'unpublished') && may('read')" :to="`/apis/${name}/publish/${v.number}`">Publish …</RouterLink>
              <a v-else-if="v.state === 'published' || v.state === 'deprecated'" :href="`/reference/${name}/${v.number}/`">Reference</a>
              <RouterLink v-if="may('read') && v.state !== 'retired'" :to="`/apis/${name}/findings/${v.number}`">House style</RouterLink>
              <RouterLink v-if="may('word') && v.state !== 'retired'" :to="`/apis/${name}/wording/${v.number}`">Wording</RouterLink>
              <RouterLink v-if="may('read') && v.state === 'deprecated'" :to="`/apis/${name}/leaving/${v.number}`" :data-act="`leave ${v.number}`">{{ v.overdue ? 'Retire …' : 'May it go?' }}</RouterLink>
              <template v-if="actsOf(v).length"><button v-for="a in actsOf(v)" :key="a.name" type="button" class="link" :data-act="`${a.name} ${v.number}`" @click="question = asks[a.name](v)">{{ a.label }}</button></template>
            </td>
          </tr>
        </tbody>
      </table>
      <template v-if="lineup && lineup.versions.length > 1">
        <h2 style="margin: 26px 0 8px">Which version can replace which</h2>
        <Lineup :name="name" :lineup="lineup" :clients="clients ?? []" />
      </template>
      <template v-if="api.notices.length">
        <h2 style="margin-top: 26px">Notices</h2>
        <table class="ruled">
          <thead><tr><th>no.</th><th>leaves</th><th>what</th><th>instead</th><th>why</th><th><span class="unseen">acts</span></th></tr></thead>
          <tbody><tr v-for="n in api.notices" :key="n.id">
            <td class="soft">{{ n.id }}</td><td>{{ n.sunset ? day(n.sunset) : 'no date yet' }}</td><td>{{ n.subject }}</td><td>{{ n.replacedBy }}</td><td class="soft why">{{ n.reason }}<template v-if="n.guide">&ensp;<RouterLink :to="`/apis/${name}/guide/${n.guide}`">Guide {{ n.guide.replace('..', ' to ') }}</RouterLink></template></td>
            <td class="ways"><RouterLink v-if="may('read')" :to="`/apis/${name}/leaving/notice-${n.id}`">May it go?</RouterLink><RouterLink v-if="may('announce')" :to="`/apis/${name}/notices/${n.id}`">Change …</RouterLink></td>
          </tr></tbody>
        </table>
        <GatewayHeaders v-if="readers.length" :versions="readers" />
      </template>
      <p v-if="!api.versions.length" class="soft">Nothing is recorded of it any more.</p>
      <Ask :question="question" @close="question = null" @done="read" />
    </div>
  </template>
</template>

<style scoped>
.pick { display: flex; flex-wrap: wrap; gap: 8px 12px; align-items: center; margin-bottom: 16px; }
.pick .n-select { width: 130px; }
.waived { font-size: 13.5px; line-height: 22px; } .waived summary { cursor: pointer; } .waived ul { margin: 2px 0; padding-left: 18px; }
.ways { white-space: nowrap; } .ways > * + * { margin-left: 12px; }
</style>
