<script setup lang="ts">
// The house style of the house, a team or an API: its file, its versions, and what is in force.
import { NButton, NInput } from 'naive-ui'
import { computed, ref, watch } from 'vue'
import { useAct } from '../data/act'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import { useMay } from '../data/may'
import { useSession } from '../data/session'
import { useUnsaved } from '../data/unsaved'
import { day } from '../data/words'
import FaultLine from '../parts/FaultLine.vue'
import HelpLink from '../parts/HelpLink.vue'

const props = defineProps<{ name?: string; team?: string }>()
const session = useSession()
const mayAPI = useMay(() => props.name ?? '')
const of = computed(() => (props.name ? `/apis/${encodeURIComponent(props.name)}` : props.team ? `/teams/${encodeURIComponent(props.team)}` : ''))
const whose = computed(() => props.name ?? (props.team ? `the team ${props.team}` : 'the house'))
const { value: style, error, again } = useLoading(() => ledger.style(of.value))
const may = computed(() => (props.name ? mayAPI.value('style') : props.team ? session.may('style') : session.may('house')))
const begun = computed(() => `house-style: ${props.name ?? props.team ?? 'Our house'}\nsays: What the style is for.\nchange:\n  # field-told: {weight: warning, because: …}\nrules:\n  # a-rule-of-ours: {about: field, must: …, says: …}\n`)
const text = ref('')
const reason = ref('')
const before = ref('')
watch(style, (s) => {
  if (s && text.value === before.value) text.value = before.value = s.text
})
useUnsaved(() => text.value !== before.value)
const { busy, fault, run } = useAct()
const keep = (to: string) =>
  run(async () => {
    await ledger.putStyle(of.value, { text: to, reason: reason.value, version: style.value!.version })
    text.value = before.value = to
    reason.value = ''
    again()
  })
</script>

<template>
  <div class="head">
    <div><h1>{{ name || team ? `House style of ${whose}` : 'The house style' }}</h1><p>{{ style?.name ? `In force here: ${style.name}` : 'In force here: the rules as they come' }}. <HelpLink to="housestyle#a-style-of-your-own" about="house styles" /></p></div>
    <div class="do"><RouterLink :to="name ? `/rules?api=${name}` : '/rules'">Rules</RouterLink></div>
  </div>
  <div class="inner style">
    <FaultLine :text="error || (style?.fault ?? '')" />
    <template v-if="style">
      <form v-if="may" @submit.prevent="keep(text)">
        <p v-if="!style.text && !text" class="soft">No style is kept here. <button type="button" class="link" data-begin @click="text = begun">Begin one</button></p>
        <label v-else>The style file<NInput v-model:value="text" type="textarea" class="code" :autosize="{ minRows: 12, maxRows: 40 }" :input-props="{ id: 'text', spellcheck: false, maxlength: 262144 }" placeholder="" /></label>
        <FaultLine :text="fault" class="told" />
        <label v-if="text !== before">Why<NInput v-model:value="reason" :input-props="{ id: 'reason', maxlength: 2000 }" placeholder="" /></label>
        <p class="do"><NButton type="primary" attr-type="submit" :loading="busy" :disabled="text === before || !text.trim()" data-keep>Keep it: it is in force at once</NButton><button v-if="style.text" type="button" class="link" :disabled="busy" data-drop @click="keep('')">Take it away</button></p>
      </form>
      <pre v-else-if="style.text" class="slip" tabindex="0">{{ style.text }}</pre>
      <p v-else class="soft">No style is kept here.</p>
      <template v-if="style.history.length">
        <h2>Versions</h2>
        <table class="ruled"><tbody><tr v-for="v in style.history" :key="v.version"><td>{{ v.version }}</td><td>{{ day(v.madeAt) }}</td><td>{{ v.madeBy }}</td><td>{{ v.reason }}</td><td><details><summary>{{ v.text ? 'its text' : 'taken away' }}</summary><pre v-if="v.text" class="slip" tabindex="0">{{ v.text }}</pre></details></td></tr></tbody></table>
      </template>
      <template v-if="style.parts.length > (style.text ? 1 : 0)">
        <h2>What it builds on</h2>
        <details v-for="p in style.parts.filter((o) => o.text !== style!.text)" :key="p.of"><summary>The style of {{ p.of }}, version {{ p.version }}</summary><pre class="slip" tabindex="0">{{ p.text }}</pre></details>
      </template>
    </template>
  </div>
</template>

<style scoped>
.style { max-width: 1000px; } label { display: block; margin: 10px 0; } .code :deep(textarea) { font: 13px/20px var(--mono); } .told { white-space: pre-line; } .do { display: flex; gap: 18px; align-items: center; }
</style>
