<script setup lang="ts">
import { NButton, NSelect } from 'naive-ui'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { useAct } from '../data/act'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import { useSession } from '../data/session'
import { day } from '../data/words'
import FaultLine from '../parts/FaultLine.vue'
import GradeMark from '../parts/GradeMark.vue'
import Lineup from '../parts/Lineup.vue'
import Timeline from '../parts/Timeline.vue'

const props = defineProps<{ name: string }>()
const session = useSession()
const router = useRouter()
const { value: api, error } = useLoading(() => ledger.api(props.name))
const { value: history } = useLoading(() => ledger.history(props.name))
const { value: lineup } = useLoading(() => ledger.lineup(props.name))

const days = ref('-1')
const set = ref(false)
const { busy, fault, run } = useAct()
watch(api, (a) => { days.value = String(a?.noticeDays ?? -1) })
const setDays = () =>
  run(async () => {
    await ledger.setNoticeDays(props.name, Number(days.value))
    set.value = true
  })

const options = computed(() => (api.value?.versions ?? []).map((v) => ({ label: v.number, value: v.number })))
const old = ref<string | null>(null)
const now = ref<string | null>(null)
const from = computed(() => old.value ?? options.value.at(-2)?.value ?? '')
const to = computed(() => now.value ?? options.value.at(-1)?.value ?? '')
const published = computed(() => api.value?.versions.some((v) => v.state !== 'draft'))
const release = (number: string) => history.value?.find((r) => r.version.number === number)
const unchanged = (number: string) => Object.values(release(number)?.changes?.counts ?? { some: 1 }).every((n) => n === 0)
</script>

<template>
  <div v-if="error" class="inner"><FaultLine :text="error" /></div>
  <template v-if="api">
    <div class="head">
      <div><h1>{{ api.title }}</h1><p>{{ api.team }} · <code>{{ api.name }}</code> · lines keep the promise <b>{{ api.promise }}</b></p></div>
      <div class="do">
        <a v-if="published" :href="`/reference/${api.name}/`">Read the reference</a>
        <NButton v-if="session.mayWrite" @click="router.push(`/apis/${name}/looks`)">Looks</NButton>
        <NButton v-if="session.mayWrite && published" @click="router.push(`/apis/${name}/deprecate`)">Deprecate</NButton>
        <NButton v-if="session.mayWrite" type="primary" @click="router.push(`/apis/${name}/record`)">Record a version</NButton>
      </div>
    </div>
    <div class="sheet scroll"><h2>Versions and what leaves</h2><Timeline :api="api" :history="history ?? []" /></div>
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
        <thead><tr><th>version</th><th>state</th><th>what it changed</th><th>recorded</th><th></th></tr></thead>
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
            </td>
            <td class="soft">{{ v.recordedBy }}, {{ day(v.recordedAt) }}</td>
            <td class="ways">
              <RouterLink v-if="(v.state === 'draft' || v.state === 'unpublished') && session.mayWrite" :to="`/apis/${name}/publish/${v.number}`">Publish …</RouterLink>
              <a v-else-if="v.state === 'published' || v.state === 'deprecated'" :href="`/reference/${name}/${v.number}/`">Reference</a>
              <RouterLink v-if="session.mayWrite && v.state !== 'retired'" :to="`/apis/${name}/wording/${v.number}`">Wording</RouterLink>
            </td>
          </tr>
        </tbody>
      </table>
      <template v-if="lineup && lineup.versions.length > 1">
        <h2 style="margin: 26px 0 8px">Which version can replace which</h2>
        <Lineup :name="name" :lineup="lineup" />
      </template>
      <template v-if="api.notices.length">
        <h2 style="margin-top: 26px">Notices</h2>
        <table class="ruled">
          <thead><tr><th></th><th>leaves</th><th>what</th><th>instead</th><th>why</th><th></th></tr></thead>
          <tbody><tr v-for="n in api.notices" :key="n.id">
            <td class="soft">{{ n.id }}</td><td>{{ n.sunset ? day(n.sunset) : 'no date yet' }}</td><td>{{ n.subject }}</td><td>{{ n.replacedBy }}</td><td class="soft">{{ n.reason }}<template v-if="n.guide">&ensp;<RouterLink :to="`/apis/${name}/guide/${n.guide}`">Guide {{ n.guide.replace('..', ' to ') }}</RouterLink></template></td>
            <td class="ways"><RouterLink v-if="session.mayWrite" :to="`/apis/${name}/notices/${n.id}`">Change …</RouterLink></td>
          </tr></tbody>
        </table>
      </template>
      <p v-if="session.person?.role === 'admin'" class="period">
        <label>What leaves is announced at least <input v-model="days" type="number" min="-1" max="3650" aria-label="days of notice" /> days before (−1: as many as the ledger has).</label>
        <NButton size="small" :loading="busy" @click="setDays">Set</NButton> <span v-if="fault" class="fault" role="alert">{{ fault }}</span><span v-else-if="set" class="soft" role="status">It holds from now on.</span>
      </p>
    </div>
  </template>
</template>

<style scoped>
.scroll { overflow-x: auto; }
.pick { display: flex; flex-wrap: wrap; gap: 8px 12px; align-items: center; margin-bottom: 16px; }
.pick .n-select { width: 130px; }
.period { margin-top: 18px; } .period .n-button { margin: 0 8px; } .period input { width: 5em; font: inherit; padding: 1px 6px; border: 1px solid var(--rule-strong); background: var(--sheet); color: var(--ink); }
.ways { white-space: nowrap; } .ways a + a { margin-left: 12px; }
</style>
