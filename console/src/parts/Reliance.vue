<script setup lang="ts">
// What a consumer relies on: what it says, in its own file, and what it was recorded to do.
import { NButton, NInput } from 'naive-ui'
import { computed, ref } from 'vue'
import { useAct } from '../data/act'
import type { Question } from '../data/ask'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import type { AddedRecording, Recording } from '../data/types'
import { useUnsaved } from '../data/unsaved'
import { count, day } from '../data/words'
import Ask from './Ask.vue'
import FaultLine from './FaultLine.vue'
import HelpLink from './HelpLink.vue'

const props = defineProps<{ consumer: string; mine: boolean; titleOf: (api: string) => string }>()
const emit = defineEmits<{ said: [] }>()
const { value: r, error, again } = useLoading(() => ledger.reliance(props.consumer))
const { busy, fault, run } = useAct()
const text = ref<string | null>(null)
useUnsaved(() => text.value !== null && text.value !== r.value?.text)
const starts = 'relies:\n  berths@1.2.0:\n    GET /berths:\n      sends: [limit]\n      reads: [items[].id]\n'
const keep = () => run(async () => { await ledger.setReliance(props.consumer, text.value!); text.value = null; again(); emit('said') })

// A recording is of one version of an API.
const version = ref('')
const added = ref<AddedRecording | null>(null)
const add = (files: FileList | null) =>
  run(async () => {
    if (!files?.length) return
    const [api, number] = version.value.trim().split('@')
    added.value = await ledger.addRecording(props.consumer, api, number ?? '', files[0])
    again()
  })
const guard = (x: Recording, guards: boolean) => run(async () => { await ledger.setGuards(props.consumer, x.api, guards); again() })
const question = ref<Question | null>(null)
const drop = (x: Recording) => (question.value = { title: `Take the recording with ${props.titleOf(x.api)} away`, text: 'Nothing is replayed of it any more.', yes: 'Take it away', act: async () => { await ledger.dropRecording(props.consumer, x.api); again() } })
const known = computed(() => r.value && (r.value.apis.length || r.value.recordings.length || props.mine))
</script>

<template>
  <section v-if="known" data-reliance>
    <h2>What it relies on <HelpLink to="reliance" about="what a consumer relies on" /></h2>
    <FaultLine :text="error || fault" />
    <template v-if="r">
      <p v-if="!r.apis.length" class="soft">Nobody says: all that it calls counts.</p>
      <p v-for="a in r.apis" :key="a.api" class="said"><b>{{ titleOf(a.api) }}</b>{{ a.version ? `, built for ${a.version}` : '' }}: {{ count(a.operations, 'operation') }} <span class="soft">said by {{ a.saidBy }}, {{ day(a.saidAt) }}</span></p>
      <details v-if="r.text && text === null"><summary>As its file says it</summary><pre class="slip" tabindex="0">{{ r.text }}</pre></details>
      <p v-if="mine && text === null"><button type="button" class="link" data-say @click="text = r.text || starts">{{ r.text ? 'Say it anew' : 'Say what it relies on' }}</button></p>
      <form v-if="text !== null" class="say" @submit.prevent="keep">
        <label>What it sends and reads<NInput v-model:value="text" type="textarea" :autosize="{ minRows: 8, maxRows: 30 }" :input-props="{ id: 'relies', spellcheck: false }" placeholder="" /></label>
        <div class="do"><NButton type="primary" attr-type="submit" :loading="busy" :disabled="text === r.text" data-keep-relies>Keep</NButton><NButton @click="text = null">Leave it</NButton></div>
      </form>
      <h3>What it was recorded to do</h3>
      <table v-if="r.recordings.length" class="ruled">
        <thead><tr><th>with</th><th class="num">exchanges</th><th>recorded</th><th>the gate replays it</th><th><span class="unseen">acts</span></th></tr></thead>
        <tbody><tr v-for="x in r.recordings" :key="x.api" :data-recording="x.api"><td><RouterLink :to="`/apis/${x.api}`">{{ titleOf(x.api) }}</RouterLink> {{ x.version }}<br /><RouterLink :to="`/consumers/${consumer}/replay/${x.api}`" data-replay>What still passes</RouterLink></td><td class="num">{{ x.exchanges }}</td><td class="soft">{{ x.addedBy }}, {{ day(x.addedAt) }}</td>
          <td><label v-if="x.maySet"><input type="checkbox" :checked="x.guards" :disabled="busy" data-guard @change="guard(x, ($event.target as HTMLInputElement).checked)" /> {{ x.guards ? 'yes' : 'no' }}</label><template v-else>{{ x.guards ? 'yes' : 'no' }}</template></td>
          <td class="ways"><button v-if="x.maySet || (mine && !x.guards)" type="button" class="link" @click="drop(x)">Take away …</button></td></tr></tbody>
      </table>
      <p v-else class="soft">Nothing is recorded.</p>
      <form v-if="mine" class="add" @submit.prevent>
        <label>The version that answered<NInput v-model:value="version" :input-props="{ id: 'recorded-at' }" placeholder="berths@1.2.0" /></label>
        <label class="pick" :class="{ off: !/@./.test(version) }"><input type="file" accept=".har,application/json" class="unseen" :disabled="!/@./.test(version)" data-har @change="add(($event.target as HTMLInputElement).files)" /><NButton tag="span" :disabled="!/@./.test(version)" :loading="busy">Add a recording</NButton></label>
        <span class="soft">an HTTP archive (HAR); credentials are taken out before it is kept</span>
      </form>
      <p v-if="added" data-added>{{ count(added.exchanges, 'exchange') }} of {{ titleOf(added.api) }} {{ added.version }} kept<template v-if="added.alike">; left out as said already: {{ added.alike }}</template><template v-if="added.elsewhere">; left aside as no calls of it: {{ added.elsewhere }}</template><template v-if="added.wrong.length">; {{ added.wrong.length === 1 ? '1 entry' : `${added.wrong.length} entries` }} cannot be read</template>.</p>
    </template>
    <Ask :question="question" @close="question = null" @done="question = null" />
  </section>
</template>

<style scoped>
h2 { margin-top: 18px; }
.said { margin: 2px 0; } h3 { margin-top: 14px; } .say { max-width: 720px; } .say :deep(textarea) { font: 13px/20px var(--mono); }
.do { display: flex; gap: 10px; margin: 12px 0; } .add { display: flex; gap: 12px; align-items: flex-end; flex-wrap: wrap; margin: 12px 0; } .add label:first-child { width: 220px; }
.num { text-align: right; font: 13px/24px var(--mono); } th.num { font: 600 14px/24px var(--sans); } .ways > * { margin-right: 12px; }
</style>
