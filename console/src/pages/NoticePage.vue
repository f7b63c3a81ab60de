<script setup lang="ts">
// A notice that was made, to be changed.
import { NButton } from 'naive-ui'
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { useAct } from '../data/act'
import { faultOf } from '../data/fault'
import { ledger } from '../data/ledger'
import type { Notice } from '../data/types'
import { day } from '../data/words'
import { useUnsaved } from '../data/unsaved'
import FaultLine from '../parts/FaultLine.vue'
import NoticeFields from '../parts/NoticeFields.vue'

const props = defineProps<{ name: string; id: string }>()
const router = useRouter()
const notice = ref<Notice>()
const error = ref('')
const words = ref({ sunset: '', replacedBy: '', reason: '', guide: '', sooner: '' })
const { busy, fault, run } = useAct()
ledger.api(props.name).then(
  (api) => {
    const found = api.notices.find((n) => String(n.id) === props.id)
    if (!found) return (error.value = `There is no notice ${props.id} of ${props.name}.`)
    notice.value = found
    const { sunset = '', replacedBy = '', reason, guide = '' } = found
    words.value = { sunset, replacedBy, reason, guide, sooner: '' }
  },
  (e) => { error.value = faultOf(e) },
)

const done = ref(false)
useUnsaved(() => {
  if (!notice.value || done.value) return false
  const { sunset = '', replacedBy = '', reason, guide = '' } = notice.value
  const w = words.value
  return w.sunset !== sunset || w.replacedBy !== replacedBy || w.reason !== reason || w.guide !== guide
})

const keep = () =>
  run(async () => {
    await ledger.amend(notice.value!.id, words.value)
    done.value = true
    await router.push(`/apis/${props.name}`)
  })
</script>

<template>
  <div class="head"><div><h1>Notice {{ id }}<template v-if="notice">: {{ notice.subject }}</template></h1><p v-if="notice">Deprecated since {{ day(notice.since) }}, by {{ notice.madeBy }}. Readers see a change in the feed; the journal keeps what it said before.</p></div></div>
  <form class="inner form" @submit.prevent="keep">
    <FaultLine :text="error" />
    <template v-if="notice">
      <NoticeFields v-model="words" :fault="fault" />
      <NButton type="primary" attr-type="submit" :loading="busy">Change it</NButton>
    </template>
  </form>
</template>

<style scoped>
.form { max-width: 560px; }
</style>
