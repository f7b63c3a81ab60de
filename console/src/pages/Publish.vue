<script setup lang="ts">
// The gate: what stands in the way of publishing, and the ways through, each with its reason.
import { NButton, NCheckbox, NInput } from 'naive-ui'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useAct } from '../data/act'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import { useMay } from '../data/may'
import { useUnsaved } from '../data/unsaved'
import DiagnosticLine from '../parts/DiagnosticLine.vue'
import FaultLine from '../parts/FaultLine.vue'
import HelpLink from '../parts/HelpLink.vue'
import GradeMark from '../parts/GradeMark.vue'
import Touched from '../parts/Touched.vue'

const props = defineProps<{ name: string; number: string }>()
const may = useMay(() => props.name)
const router = useRouter()
const reference = computed(() => `${props.name}@${props.number}`)
const { value: gate, error, again } = useLoading(() => ledger.gate(reference.value))
const { value: history } = useLoading(() => ledger.history(props.name))
const { value: found } = useLoading(() => ledger.findings(reference.value))
const fresh = computed(() => found.value?.items.filter((f) => f.new && !f.let).length ?? 0)
const before = computed(() => history.value?.find((r) => r.version.number === props.number)?.before)

// What is to be let through, each with its reason; what has none yet is asked for one.
const reasons = ref<Record<string, string>>({})
const through = (id: string) => reasons.value[id] !== undefined
const settled = (id: string) => !!reasons.value[id]?.trim()
function turn(id: string, on: boolean) {
  const rest = Object.fromEntries(Object.entries(reasons.value).filter(([k]) => k !== id))
  reasons.value = on ? { ...rest, [id]: Object.values(reasons.value).find((r) => r.trim()) ?? '' } : rest
}

const obstacles = computed(() => gate.value?.obstacles.filter((o) => !o.waived) ?? [])
const earlier = computed(() => gate.value?.obstacles.filter((o) => o.waived) ?? [])
// Whom what breaks would touch, by the version against which it does.
const bases = computed(() => [...new Set(obstacles.value.filter((o) => !o.consumer).map((o) => o.against[0]))])
const { value: impacts } = useLoading(async () => Object.fromEntries(await Promise.all(bases.value.map(async (b) => [b, await ledger.impact(`${props.name}@${b}`, reference.value)] as const))))
const mistakes = computed(() => gate.value?.mistakes?.filter((m) => !m.allowed) ?? [])
const credentials = computed(() => gate.value?.credentials?.filter((c) => !c.allowed) ?? [])
const several = computed(() => new Set([...(gate.value?.mistakes ?? []), ...(gate.value?.diagnostics ?? [])].map((d) => d.file)).size > 1)
const ids = computed(() => [...obstacles.value.map((o) => o.change.id), ...mistakes.value.map((m) => m.id), ...credentials.value.map((c) => c.id)])
const left = computed(() => ids.value.filter((id) => !settled(id)))
const unreasoned = computed(() => ids.value.filter((id) => through(id) && !settled(id)))
const given = computed(() => Object.values(reasons.value).find((r) => r.trim()))
function same() {
  for (const id of unreasoned.value) reasons.value[id] = given.value ?? ''
}
const { busy, fault, run } = useAct()
const done = ref(false)
useUnsaved(() => !done.value && Object.values(reasons.value).some((r) => r.trim()))

// After a try that failed the gate is read again: only what still stands in the way is told as such.
const publish = () =>
  run(async () => {
    const chosen = (of: string[]) => of.filter(settled)
    try {
      await ledger.publish(
        reference.value,
        chosen(obstacles.value.map((o) => o.change.id)).map((change) => ({ change, reason: reasons.value[change] })),
        chosen([...mistakes.value.map((m) => m.id), ...credentials.value.map((c) => c.id)]).map((finding) => ({ finding, reason: reasons.value[finding] })),
      )
    } catch (e) {
      again()
      throw e
    }
    done.value = true
    await router.push(`/apis/${props.name}`)
  })
</script>

<template>
  <div class="head">
    <div><h1>Publish {{ reference }}</h1><p>A published version never changes. <HelpLink to="ledger#lines-promises-the-gate" about="the gate" /></p></div>
    <div class="do"><RouterLink :to="`/apis/${name}/wording/${number}`">How it reads</RouterLink><RouterLink v-if="before" :to="`/apis/${name}/compare/${before}..${number}`">What it changes against {{ before }}</RouterLink></div>
  </div>
  <div class="inner">
    <FaultLine :text="error" />
    <template v-if="gate">
      <p v-for="u in gate.unmet ?? []" :key="u" class="obstacle" data-unmet>{{ u[0].toUpperCase() + u.slice(1) }}. <HelpLink to="housestyle#what-is-asked-of-what-is-published" about="the rules of review" /></p>
      <p v-if="!ids.length"><GradeMark grade="safe" text="the gate is open" /> It keeps the promise of its line, <b>{{ gate.promise }}</b>.</p>
      <p v-else-if="!left.length"><GradeMark grade="hazard" text="the gate would open" /> All that stands in the way is let through, each with its reason.</p>
      <p v-else-if="gate.open"><GradeMark grade="breaking" text="the gate is shut" /> It keeps the promise of its line, <b>{{ gate.promise }}</b>; what stands below has to be mended, or let through with a reason.</p>
      <p v-else><GradeMark grade="breaking" text="the gate is shut" /> <template v-if="obstacles.every((o) => o.consumer)">It keeps the promise of its line, <b>{{ gate.promise }}</b>, and what consumers were recorded to do no longer passes.</template><template v-else>It breaks the promise of its line, <b>{{ gate.promise }}</b>.</template></p>
      <details v-if="!gate.open && gate.waysOut" :open="left.length > 0" class="ways"><summary>The ways out, in the order to weigh them</summary><ol><li v-for="w in gate.waysOut" :key="w">{{ w }}</li></ol></details>
      <h2 v-if="obstacles.length">What breaks it</h2>
      <div v-for="o in obstacles" :key="o.change.id" class="obstacle" :class="{ settled: settled(o.change.id) }">
        <h3><GradeMark v-if="settled(o.change.id)" grade="hazard" text="let through" /><GradeMark v-else grade="breaking" /> {{ o.change.title }}</h3>
        <div v-if="o.consumer">Recorded at {{ o.against.join(', ') }}, and replayed by the gate. <RouterLink :to="`/consumers/${o.consumer}/replay/${name}`">Show it</RouterLink><pre class="slip" tabindex="0">{{ o.change.why }}</pre></div>
        <div v-else>{{ o.change.why }}, against {{ o.against.join(', ') }} <RouterLink :to="`/apis/${name}/compare/${o.against[0]}..${number}?change=${o.change.id}`">Show it</RouterLink></div>
        <div v-if="o.removal" class="soft">{{ o.removal.text }}</div>
        <div v-if="!o.rollback && !o.consumer"><Touched :impact="impacts?.[o.against[0]] ?? null" :change="o.change.id" :name="name" /></div>
        <pre v-if="o.change.witness?.value !== undefined" class="slip" tabindex="0">{{ JSON.stringify(o.change.witness.value) }}</pre>
        <ul v-if="o.change.advice.length && !settled(o.change.id)" class="ways"><li v-for="w in o.change.advice" :key="w">{{ w }}</li></ul>
        <template v-if="may('publish')">
          <NCheckbox :checked="through(o.change.id)" @update:checked="turn(o.change.id, $event)">Let this change through</NCheckbox>
          <label v-if="through(o.change.id)" class="reason">Why it is let through<NInput v-model:value="reasons[o.change.id]" type="textarea" :autosize="{ minRows: 1, maxRows: 6 }" :input-props="{ id: `reason-${o.change.id}`, class: 'why-through' }" placeholder="" /></label>
        </template>
      </div>
      <p v-for="o in earlier" :key="o.change.id" class="soft"><template v-if="o.untouched">Goes through, for it touches nobody: {{ o.change.title }}, against {{ o.against.join(', ') }}; {{ o.untouched }}.</template><template v-else>Waived for an earlier version of the line: {{ o.change.title }}, against {{ o.against.join(', ') }}.</template></p>
      <template v-if="mistakes.length">
        <h2>Errors in the description</h2>
        <p>Mend them and record the version again; or say why it may be published with them.</p>
        <div v-for="m in mistakes" :key="m.id" class="obstacle mistake" :class="{ settled: settled(m.id) }">
          <DiagnosticLine :diagnostic="m" :file="several" />
          <template v-if="may('publish')">
            <NCheckbox :checked="through(m.id)" @update:checked="turn(m.id, $event)">It may be published so</NCheckbox>
            <label v-if="through(m.id)" class="reason">Why it may<NInput v-model:value="reasons[m.id]" type="textarea" :autosize="{ minRows: 1, maxRows: 6 }" :input-props="{ id: `reason-${m.id}`, class: 'why-allowed' }" placeholder="" /></label>
          </template>
        </div>
      </template>
      <template v-if="credentials.length">
        <h2>What looks like a credential</h2>
        <p>Take it out, and take care that it is no longer valid; or say why it may be published.</p>
        <div v-for="c in credentials" :key="c.id" class="obstacle" :class="{ settled: settled(c.id) }">
          <h3>{{ c.what }}</h3>
          <div><code>{{ c.shown }}</code> <span class="soft">{{ c.place.file }}:{{ c.place.line }}</span></div>
          <template v-if="may('publish')">
            <NCheckbox :checked="through(c.id)" @update:checked="turn(c.id, $event)">It may be published</NCheckbox>
            <label v-if="through(c.id)" class="reason">Why it may<NInput v-model:value="reasons[c.id]" type="textarea" :autosize="{ minRows: 1, maxRows: 6 }" :input-props="{ id: `reason-${c.id}`, class: 'why-allowed' }" placeholder="" /></label>
          </template>
        </div>
      </template>
      <template v-if="found && found.items.length">
        <h2>House style</h2>
        <p data-style><template v-if="fresh && before">{{ fresh === 1 ? 'One finding is' : `${fresh} findings are` }} new since {{ before }}.</template><template v-else-if="before">Nothing is new since {{ before }}.</template> <RouterLink :to="`/apis/${name}/findings/${number}`">{{ found.items.length === 1 ? 'The one finding' : `All ${found.items.length} findings` }}, beside the text</RouterLink></p>
      </template>
      <template v-if="gate.diagnostics?.length">
        <h2>What else deserves a look</h2>
        <DiagnosticLine v-for="(d, i) in gate.diagnostics" :key="i" :diagnostic="d" :file="several" />
      </template>
      <FaultLine :text="fault" />
      <p v-if="unreasoned.length" class="soft" role="status">What is let through needs its reason. <button v-if="given" type="button" class="link" data-same @click="same">The same for the others</button></p>
      <NButton v-if="may('publish')" type="primary" data-publish :loading="busy" :disabled="left.length > 0 || (gate.unmet?.length ?? 0) > 0" @click="publish">Publish for ever</NButton>
      <span v-if="may('publish') && left.length" class="soft left">{{ left.length === 1 ? 'one thing still stands' : `${left.length} things still stand` }} in the way</span>
    </template>
  </div>
</template>

<style scoped>
.obstacle { border-top: 1px solid var(--rule); padding: 10px 0 14px; border-left: 3px solid var(--breaking); padding-left: 16px; }
.obstacle.settled { border-left-color: var(--hazard); }
.obstacle + .obstacle { margin-top: 0; }
.ways { margin: 2px 0 8px; max-width: 820px; } ul.ways, .ways ol { padding-left: 20px; margin: 2px 0 8px; } .ways summary { cursor: pointer; }
.reason { display: block; max-width: 620px; margin: 4px 0 6px; }
.left { margin-left: 14px; }
.inner > .n-button { margin-top: 16px; }
</style>
