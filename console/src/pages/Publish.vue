<script setup lang="ts">
// The gate: what stands in the way of publishing a draft, and the ways through.
import { NButton, NCheckbox, NInput } from 'naive-ui'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useAct } from '../data/act'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import { useSession } from '../data/session'
import DiagnosticLine from '../parts/DiagnosticLine.vue'
import FaultLine from '../parts/FaultLine.vue'
import GradeMark from '../parts/GradeMark.vue'

const props = defineProps<{ name: string; number: string }>()
const session = useSession()
const router = useRouter()
const reference = computed(() => `${props.name}@${props.number}`)
const { value: gate, error } = useLoading(() => ledger.gate(reference.value))
const { value: history } = useLoading(() => ledger.history(props.name))
const before = computed(() => history.value?.find((r) => r.version.number === props.number)?.before)

const waived = ref<string[]>([])
const reason = ref('')
const allowed = ref<string[]>([])
const allowReason = ref('')
const credentials = computed(() => gate.value?.credentials?.filter((c) => !c.allowed) ?? [])
const mistakes = computed(() => gate.value?.mistakes?.filter((m) => !m.allowed) ?? [])
const several = computed(() => new Set([...(gate.value?.mistakes ?? []), ...(gate.value?.diagnostics ?? [])].map((d) => d.file)).size > 1)
const { busy, fault, run } = useAct()
const obstacles = computed(() => gate.value?.obstacles.filter((o) => !o.waived) ?? [])
const earlier = computed(() => gate.value?.obstacles.filter((o) => o.waived) ?? [])
const open = computed(() => obstacles.value.every((o) => waived.value.includes(o.change.id)))

function waive(id: string, on: boolean) {
  waived.value = on ? [...waived.value, id] : waived.value.filter((w) => w !== id)
}

const publish = () =>
  run(async () => {
    await ledger.publish(reference.value, waived.value.map((change) => ({ change, reason: reason.value })), allowed.value.map((finding) => ({ finding, reason: allowReason.value })))
    await router.push(`/apis/${props.name}`)
  })
</script>

<template>
  <div class="head">
    <div><h1>Publish {{ reference }}</h1><p>A published version never changes.</p></div>
    <div class="do"><RouterLink :to="`/apis/${name}/wording/${number}`">How it reads</RouterLink><RouterLink v-if="before" :to="`/apis/${name}/compare/${before}..${number}`">What it changes against {{ before }}</RouterLink></div>
  </div>
  <div class="inner">
    <FaultLine :text="error" />
    <template v-if="gate">
      <p v-if="gate.open && mistakes.length + credentials.length"><GradeMark grade="breaking" text="the gate is shut" /> It keeps the promise of its line, <b>{{ gate.promise }}</b>; what stands below has to be mended, or let through with a reason.</p>
      <p v-else-if="gate.open"><GradeMark grade="safe" text="the gate is open" /> It keeps the promise of its line, <b>{{ gate.promise }}</b>.</p>
      <template v-else>
        <p><GradeMark grade="breaking" text="the gate is shut" /> It breaks the promise of its line, <b>{{ gate.promise }}</b>. The ways out, in the order to weigh them:</p>
        <ol class="ways"><li v-for="w in gate.waysOut" :key="w">{{ w }}</li></ol>
        <div v-for="o in obstacles" :key="o.change.id" class="obstacle">
          <h3>{{ o.change.title }}</h3>
          <div>{{ o.change.why }}, against {{ o.against.join(', ') }}</div>
          <div v-if="o.removal" class="soft">{{ o.removal.text }}</div>
          <pre v-if="o.change.witness?.value !== undefined" class="slip">{{ JSON.stringify(o.change.witness.value) }}</pre>
          <ul v-if="o.change.advice.length" class="ways"><li v-for="w in o.change.advice" :key="w">{{ w }}</li></ul>
          <NCheckbox v-if="session.mayWrite" :checked="waived.includes(o.change.id)" @update:checked="waive(o.change.id, $event)">Let this change through</NCheckbox>
        </div>
        <label v-if="waived.length" class="reason">Why it is let through<NInput v-model:value="reason" type="textarea" :input-props="{ id: 'reason' }" placeholder="" /></label>
      </template>
      <p v-for="o in earlier" :key="o.change.id" class="soft">Waived for an earlier version of the line: {{ o.change.title }}, against {{ o.against.join(', ') }}.</p>
      <template v-if="mistakes.length">
        <h2>Errors in the description</h2>
        <p>Mend them and record the version again; or say why it may be published with them.</p>
        <div v-for="m in mistakes" :key="m.id" class="obstacle mistake">
          <DiagnosticLine :diagnostic="m" :file="several" />
          <NCheckbox v-if="session.mayWrite" :checked="allowed.includes(m.id)" @update:checked="allowed = $event ? [...allowed, m.id] : allowed.filter((a) => a !== m.id)">It may be published so</NCheckbox>
        </div>
      </template>
      <template v-if="credentials.length">
        <h2>What looks like a credential</h2>
        <p>Take it out, and take care that it is no longer valid; or say why it may be published.</p>
        <div v-for="c in credentials" :key="c.id" class="obstacle">
          <h3>{{ c.what }}</h3>
          <div><code>{{ c.shown }}</code> <span class="soft">{{ c.place.file }}:{{ c.place.line }}</span></div>
          <NCheckbox v-if="session.mayWrite" :checked="allowed.includes(c.id)" @update:checked="allowed = $event ? [...allowed, c.id] : allowed.filter((a) => a !== c.id)">It may be published</NCheckbox>
        </div>
      </template>
      <label v-if="allowed.length" class="reason">Why it may<NInput v-model:value="allowReason" type="textarea" :input-props="{ id: 'allow-reason' }" placeholder="" /></label>
      <template v-if="gate.diagnostics?.length">
        <h2>What else deserves a look</h2>
        <DiagnosticLine v-for="(d, i) in gate.diagnostics" :key="i" :diagnostic="d" :file="several" />
      </template>
      <FaultLine :text="fault" />
      <NButton v-if="session.mayWrite" type="primary" :loading="busy" @click="publish">{{ (open || gate.open) && credentials.length + mistakes.length === allowed.length ? 'Publish for ever' : 'Try to publish' }}</NButton>
    </template>
  </div>
</template>

<style scoped>
.obstacle { border-top: 1px solid var(--rule); padding: 10px 0 14px; }
.ways { margin: 2px 0 8px; padding-left: 20px; max-width: 820px; }
.reason { display: block; max-width: 620px; margin: 4px 0 16px; }
</style>
