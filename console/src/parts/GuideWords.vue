<script setup lang="ts">
// What authors wrote at one place of a guide, and a way to write there.
import { NButton, NInput } from 'naive-ui'
import { ref } from 'vue'
import { useAct } from '../data/act'
import type { GuideText } from '../data/types'
import { useUnsaved } from '../data/unsaved'
import { day } from '../data/words'
import FaultLine from './FaultLine.vue'

const props = defineProps<{ words?: GuideText; anchor: string; invitation: string; write?: (anchor: string, text: string) => Promise<void> }>()
const open = ref(false)
const text = ref('')
const { busy, fault, run } = useAct()
useUnsaved(() => open.value && text.value !== (props.words?.text ?? ''))

function begin() {
  text.value = props.words?.text ?? ''
  open.value = true
}
const keep = (kept: string) =>
  run(async () => {
    await props.write!(props.anchor, kept)
    open.value = false
  })
</script>

<template>
  <div v-if="words && !open" class="words">
    <div class="said">{{ words.text }}</div>
    <div class="soft">{{ words.madeBy }}, {{ day(words.madeAt) }}<template v-if="write"> · <button type="button" class="quiet" @click="begin">Change it</button></template></div>
  </div>
  <form v-else-if="open" class="words" @submit.prevent="keep(text)">
    <label>{{ invitation }}, in Markdown<NInput v-model:value="text" type="textarea" :autosize="{ minRows: 3 }" :input-props="{ id: `words-${anchor}` }" placeholder="" /></label>
    <FaultLine :text="fault" />
    <div class="ways"><NButton type="primary" attr-type="submit" size="small" :loading="busy">Keep it</NButton><NButton size="small" @click="open = false">Leave it</NButton><NButton v-if="words" size="small" @click="keep('')">Take it away</NButton></div>
  </form>
  <button v-else-if="write" type="button" class="quiet" :data-write="anchor" @click="begin">{{ invitation }}</button>
</template>

<style scoped>
.words { border-left: 3px solid var(--rule-strong); padding: 2px 0 2px 14px; margin: 8px 0; }
.said { white-space: pre-wrap; }
.ways { display: flex; gap: 8px; margin-top: 8px; }
.quiet { font: inherit; font-size: 14px; color: var(--link); background: none; border: 0; padding: 0; text-decoration: underline; cursor: pointer; }
</style>
