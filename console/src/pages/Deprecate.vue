<script setup lang="ts">
import { NButton, NInput, NSelect } from 'naive-ui'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useAct } from '../data/act'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import FaultLine from '../parts/FaultLine.vue'
import NoticeFields from '../parts/NoticeFields.vue'

const props = defineProps<{ name: string }>()
const router = useRouter()
const { value: api, error } = useLoading(() => ledger.api(props.name))
const versions = computed(() => (api.value?.versions ?? []).filter((v) => v.state !== 'draft').reverse())

const number = ref<string | null>(null)
const scope = ref('version')
const operation = ref('')
const parameter = ref('')
const header = ref('')
const field = ref('')
const value = ref('')
const words = ref({ sunset: '', replacedBy: '', reason: '', guide: '', sooner: '' })
const { busy, fault, run } = useAct()
const chosen = computed(() => number.value ?? versions.value[0]?.number ?? '')

const scopes = [
  { label: 'this version', value: 'version' },
  { label: 'its whole line', value: 'line' },
  { label: 'one operation of its line', value: 'operation' },
  { label: 'one parameter of an operation', value: 'parameter' },
  { label: 'one header of the answers', value: 'header' },
  { label: 'one field of its line', value: 'field' },
]
const ofOperation = computed(() => ['operation', 'parameter', 'header'].includes(scope.value))
const listing = computed(() => ['parameter', 'header', 'field'].includes(scope.value))
const only = (asked: boolean, text: string) => (asked ? text : '')

const announce = () =>
  run(async () => {
    await ledger.deprecate({
      ref: `${props.name}@${chosen.value}`,
      line: scope.value !== 'version',
      operation: only(ofOperation.value, operation.value),
      parameter: only(scope.value === 'parameter', parameter.value),
      header: only(scope.value === 'header', header.value),
      field: only(scope.value === 'field', field.value),
      value: only(listing.value, value.value),
      ...words.value,
    })
    await router.push(`/apis/${props.name}`)
  })
</script>

<template>
  <div class="head"><div><h1>Deprecate</h1><p>A notice in the reference of {{ api?.title ?? name }}: what leaves, when, and what to use instead.</p></div></div>
  <form class="inner form" @submit.prevent="announce">
    <FaultLine :text="error" />
    <div class="one version">Version<NSelect aria-label="version" :value="chosen" :options="versions.map((v) => ({ label: v.number, value: v.number }))" @update:value="number = $event" /></div>
    <div class="one scope">What leaves<NSelect v-model:value="scope" :options="scopes" aria-label="what leaves" /></div>
    <label v-if="ofOperation">Operation, by its operationId or as POST /bookings<NInput v-model:value="operation" :input-props="{ id: 'operation' }" placeholder="" /></label>
    <label v-if="scope === 'parameter'">Parameter, by its name<NInput v-model:value="parameter" :input-props="{ id: 'parameter' }" placeholder="" /></label>
    <label v-if="scope === 'header'">Header, by its name<NInput v-model:value="header" :input-props="{ id: 'header' }" placeholder="" /></label>
    <label v-if="scope === 'field'">Field, as schema and property: Vessel.length<NInput v-model:value="field" :input-props="{ id: 'field' }" placeholder="" /></label>
    <label v-if="listing">Only this value of it, if it lists values<NInput v-model:value="value" :input-props="{ id: 'value' }" placeholder="" /></label>
    <NoticeFields v-model="words" :fault="fault" />
    <NButton type="primary" attr-type="submit" :loading="busy">Announce it</NButton>
  </form>
</template>

<style scoped>
.form { max-width: 560px; }
label, .one { display: block; margin: 10px 0; }
</style>
