<script setup lang="ts">
// A notice that was made, to be changed.
import { NButton, NInput } from 'naive-ui'
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { useAct } from '../data/act'
import { ledger } from '../data/ledger'
import type { Notice } from '../data/types'
import { day, subject } from '../data/words'

const props = defineProps<{ name: string; id: string }>()
const router = useRouter()
const notice = ref<Notice>()
const error = ref('')
const sunset = ref('')
const instead = ref('')
const reason = ref('')
const guide = ref('')
const sooner = ref('')
const { busy, fault, run } = useAct()
ledger.api(props.name).then(
  (api) => {
    const found = api.notices.find((n) => String(n.id) === props.id)
    if (!found) return (error.value = `There is no notice ${props.id} of ${props.name}.`)
    notice.value = found
    sunset.value = found.sunset ?? ''
    instead.value = found.replacedBy ?? ''
    reason.value = found.reason
    guide.value = found.guide ?? ''
  },
  (e) => { error.value = String(e.message ?? e) },
)

const keep = () =>
  run(async () => {
    await ledger.amend(notice.value!.id, { sunset: sunset.value, replacedBy: instead.value, reason: reason.value, guide: guide.value, sooner: sooner.value })
    router.push(`/apis/${props.name}`)
  })
</script>

<template>
  <div class="head"><div><h1>Notice {{ id }}<template v-if="notice">: {{ subject(notice) }}</template></h1><p v-if="notice">Deprecated since {{ day(notice.since) }}, by {{ notice.madeBy }}. Readers see a change in the feed; the journal keeps what it said before.</p></div></div>
  <form class="inner form" @submit.prevent="keep">
    <p v-if="error" class="fault">{{ error }}</p>
    <template v-if="notice">
      <label>Leaves on<input id="sunset" v-model="sunset" type="date" class="date" /></label>
      <label>Use instead<NInput v-model:value="instead" :input-props="{ id: 'instead' }" placeholder="" /></label>
      <label>Why<NInput v-model:value="reason" type="textarea" :input-props="{ id: 'reason' }" placeholder="" /></label>
      <label>The guide to follow: 1.2.0..2.0.0<NInput v-model:value="guide" :input-props="{ id: 'guide' }" placeholder="" /></label>
      <label v-if="fault">Why it may come sooner than the notice period allows<NInput v-model:value="sooner" :input-props="{ id: 'sooner' }" placeholder="" /></label>
      <p v-if="fault" class="fault" role="alert">{{ fault }}</p>
      <NButton type="primary" attr-type="submit" :loading="busy">Change it</NButton>
    </template>
  </form>
</template>

<style scoped>
.form { max-width: 560px; }
label { display: block; margin: 10px 0; }
.date { display: block; font: 14px var(--sans); padding: 5px 10px; border: 1px solid var(--rule-strong); background: var(--sheet); color: var(--ink); border-radius: 2px; }
</style>
