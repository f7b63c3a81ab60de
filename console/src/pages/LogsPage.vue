<script setup lang="ts">
// The logs whose calls were counted, one to add, and the calls of nothing that is described.
import { NButton, NInput } from 'naive-ui'
import { computed, ref } from 'vue'
import { useAct } from '../data/act'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import { useSession } from '../data/session'
import type { AddedLog } from '../data/types'
import { number } from '../data/use'
import { count, day } from '../data/words'
import FaultLine from '../parts/FaultLine.vue'
import HelpLink from '../parts/HelpLink.vue'

const session = useSession()
const { value: logs, error, again } = useLoading(ledger.logs)
const { value: odd, error: noOdd, again: oddAgain } = useLoading(ledger.unmatched)
const { busy, fault, run } = useAct()
const mapping = ref('')
const named = ref(false)
const added = ref<AddedLog[]>([])
const may = computed(() => session.may('tally'))
const whys: Record<string, string> = { path: 'no such path', method: 'no such method there', version: 'no such version', untold: 'the log does not hold what chooses the version' }
const add = (files: FileList | null) =>
  run(async () => {
    added.value = []
    for (const f of files ?? []) {
      added.value.push(await ledger.addLog(f, mapping.value.trim()))
      again()
      oddAgain()
    }
  })
const over = ref(false)
const words = (l: AddedLog) => (l.lines > 0 && l.lines === l.repeated ? `all of its ${count(l.lines, 'line')} were counted before` : [`${number(l.calls)} calls counted`, l.repeated && `${number(l.repeated)} lines counted before`, l.elsewhere && `${number(l.elsewhere)} of other APIs`, l.unmatched && `${number(l.unmatched)} of no operation`, l.bad && `${number(l.bad)} that cannot be read`].filter(Boolean).join(', '))
</script>

<template>
  <div class="head">
    <div><h1>Logs</h1><p>Whose calls were counted. Nothing of a log is kept but how many calls there were. <HelpLink to="consumers#logs" about="logs" /></p></div>
  </div>
  <div class="inner">
    <FaultLine :text="error || noOdd || fault" />
    <form v-if="may" class="drop" :class="{ over }" @submit.prevent @dragover.prevent="over = true" @dragleave="over = false" @drop.prevent="((over = false), add($event.dataTransfer?.files ?? null))">
      <label class="pick"><input type="file" multiple class="unseen" data-log @change="add(($event.target as HTMLInputElement).files)" /><NButton tag="span" type="primary" :loading="busy">Add logs</NButton></label>
      <span class="soft">or drop them here: access logs in the Common or the Combined Log Format, lines of JSON; also packed with gzip or zstd.</span>
      <button v-if="!named" type="button" class="link" @click="named = true">Lines of JSON with names of their own</button>
      <label v-else class="mapping">Which names hold what<NInput v-model:value="mapping" :input-props="{ id: 'mapping' }" placeholder="{time: ts, target: request.path, headers: {Harbour-Version: version}}" /></label>
    </form>
    <div v-for="l in added" :key="l.name" class="added" :data-added="l.name">
      <p><b>{{ l.name }}</b>: {{ words(l) }}</p>
      <p v-for="t in l.torn" :key="t.why" class="soft">{{ count(t.lines, 'line') }}: {{ t.why }}, such as line {{ t.examples.map((e) => e.line).join(', ') }}</p>
    </div>
    <table v-if="logs?.length" class="ruled" tabindex="0">
      <thead><tr><th>log</th><th>added</th><th>of</th><th class="num">lines</th><th class="num">calls</th><th class="num">of nothing</th><th class="num">unreadable</th><th>days</th></tr></thead>
      <tbody><tr v-for="l in logs" :key="l.id" :data-item="l.id"><td>{{ l.name }}</td><td class="soft">{{ l.addedBy }}, {{ day(l.addedAt) }}</td><td class="soft">{{ l.apis.length > 4 ? `${l.apis.slice(0, 4).join(', ')} and ${l.apis.length - 4} more` : l.apis.join(', ') }}</td><td class="num">{{ number(l.lines - l.repeated) }}</td><td class="num">{{ number(l.calls) }}</td><td class="num">{{ number(l.unmatched) }}</td><td class="num">{{ number(l.bad) }}</td><td class="soft">{{ l.firstDay ? `${day(l.firstDay)} to ${day(l.lastDay!)}` : '' }}</td></tr></tbody>
    </table>
    <p v-else-if="logs" class="soft">None was added yet.</p>
    <template v-if="odd?.length">
      <h2>Calls of nothing that is described</h2>
      <table class="ruled" tabindex="0"><thead><tr><th class="num">calls</th><th>what was asked for</th><th>why not</th><th>last</th></tr></thead><tbody><tr v-for="u in odd.slice(0, 100)" :key="`${u.why} ${u.api} ${u.method} ${u.path}`"><td class="num">{{ number(u.calls) }}</td><td><code>{{ u.path ? `${u.method} ${u.path}` : 'other paths' }}</code></td><td class="soft">{{ whys[u.why] }}<template v-if="u.api"> of <RouterLink :to="`/apis/${u.api}`">{{ u.api }}</RouterLink></template></td><td class="soft">{{ u.lastDay ? day(u.lastDay) : '' }}</td></tr></tbody></table>
      <p v-if="odd.length > 100" class="soft">And {{ odd.length - 100 }} more.</p>
    </template>
  </div>
</template>

<style scoped>
h2 { margin-top: 22px; }
.drop { display: flex; flex-wrap: wrap; gap: 6px 16px; align-items: center; border: 1px dashed var(--rule-strong); padding: 14px 18px; margin-bottom: 16px; } .drop.over { background: var(--slip); }
.pick { cursor: pointer; } .pick:focus-within { outline: 2px solid var(--link); outline-offset: 2px; } .mapping { flex: 1 1 100%; }
.added { background: var(--slip); padding: 6px 14px; margin-bottom: 10px; } .added p { margin: 0; }
.num { text-align: right; font: 13px/24px var(--mono); } th.num { font: 600 14px/24px var(--sans); }
</style>
