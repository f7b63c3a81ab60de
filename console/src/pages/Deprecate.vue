<script setup lang="ts">
import { NButton, NSelect } from 'naive-ui'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { useAct } from '../data/act'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import type { JsonObject } from '../data/json'
import { choicesOf, fieldsOf, headersOf, parametersOf, valuesOf } from '../data/parts'
import { useUnsaved } from '../data/unsaved'
import FaultLine from '../parts/FaultLine.vue'
import HelpLink from '../parts/HelpLink.vue'
import NoticeFields from '../parts/NoticeFields.vue'

const props = defineProps<{ name: string }>()
const router = useRouter()
const { value: api, error } = useLoading(() => ledger.api(props.name))
const versions = computed(() => (api.value?.versions ?? []).filter((v) => v.state !== 'draft').reverse())

const number = ref<string | null>(null)
const scope = ref('version')
const operation = ref<string | null>(null)
const parameter = ref<string | null>(null)
const header = ref<string | null>(null)
const field = ref<string | null>(null)
const value = ref<string | null>(null)
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
const only = (asked: boolean, text: string | null) => (asked ? (text ?? '') : '')

// What the version has to choose from. What is not among it can be written: the ledger says what it does not find.
const root = ref<JsonObject>({})
watch(chosen, async (n) => {
  if (!n) return
  const got = await ledger.wording(`${props.name}@${n}`).catch(() => ({ written: {} })) // without it, names are written
  root.value = got.written
}, { immediate: true })
const operations = computed(() => choicesOf(root.value))
const parameters = computed(() => parametersOf(root.value, operation.value ?? ''))
const headers = computed(() => headersOf(root.value, operation.value ?? ''))
const fields = computed(() => fieldsOf(root.value))
const values = computed(() => valuesOf(root.value, { operation: operation.value ?? '', parameter: only(scope.value === 'parameter', parameter.value), field: only(scope.value === 'field', field.value) }))

const done = ref(false)
useUnsaved(() => !done.value && !!(words.value.reason || words.value.replacedBy || words.value.sunset))

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
    done.value = true
    await router.push(`/apis/${props.name}`)
  })
</script>

<template>
  <div class="head"><div><h1>Deprecate</h1><p>A notice in the reference of {{ api?.title ?? name }}: what leaves, when, and what to use instead. <HelpLink to="notices" about="notices" /></p></div></div>
  <form class="inner form" @submit.prevent="announce">
    <FaultLine :text="error" />
    <div class="one version">Version<NSelect aria-label="version" :value="chosen" :options="versions.map((v) => ({ label: v.number, value: v.number }))" @update:value="number = $event" /></div>
    <div class="one scope">What leaves<NSelect v-model:value="scope" :options="scopes" aria-label="what leaves" /></div>
    <div v-if="ofOperation" class="one operation">Operation<NSelect v-model:value="operation" filterable tag :options="operations" :input-props="{ id: 'operation', 'aria-label': 'operation' }" placeholder="choose one, or write its operationId or POST /bookings" @update:value="[parameter, header, value] = [null, null, null]" /></div>
    <div v-if="scope === 'parameter'" class="one parameter">Parameter<NSelect v-model:value="parameter" filterable tag :options="parameters" :input-props="{ id: 'parameter', 'aria-label': 'parameter' }" placeholder="" /></div>
    <div v-if="scope === 'header'" class="one header">Header<NSelect v-model:value="header" filterable tag :options="headers" :input-props="{ id: 'header', 'aria-label': 'header' }" placeholder="" /></div>
    <div v-if="scope === 'field'" class="one field">Field, as schema and property<NSelect v-model:value="field" filterable tag :options="fields" :input-props="{ id: 'field', 'aria-label': 'field' }" placeholder="Vessel.length" /></div>
    <div v-if="listing" class="one value">Only this value of it, if it lists values<NSelect v-model:value="value" filterable tag clearable :options="values" :input-props="{ id: 'value', 'aria-label': 'value' }" placeholder="all of it" /></div>
    <NoticeFields v-model="words" :fault="fault" />
    <NButton type="primary" attr-type="submit" :loading="busy">Announce it</NButton>
  </form>
</template>

<style scoped>
.form { max-width: 560px; }
label, .one { display: block; margin: 10px 0; }
</style>
