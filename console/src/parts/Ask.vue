<script setup lang="ts">
// A question before something is done: with its reason where one is asked for.
import { NButton, NInput, NModal } from 'naive-ui'
import { computed, ref, watch } from 'vue'
import { useAct } from '../data/act'
import type { Question } from '../data/ask'
import FaultLine from './FaultLine.vue'

const props = defineProps<{ question: Question | null }>()
const emit = defineEmits<{ done: []; close: [] }>()
const reason = ref('')
const { busy, fault, run } = useAct()
watch(() => props.question, () => ([reason.value, fault.value] = ['', '']))
const shown = ref(props.question) // goes on being read while it fades
watch(() => props.question, (q) => { if (q) shown.value = q })
const ready = computed(() => !props.question?.reason || reason.value.trim() !== '')
const yes = () =>
  run(async () => {
    await props.question!.act(reason.value)
    emit('done')
    emit('close')
  })
</script>

<template>
  <NModal :show="!!question" @update:show="emit('close')">
    <form v-if="shown" class="ask" role="dialog" aria-labelledby="ask-title" @submit.prevent="ready && yes()">
      <h2 id="ask-title">{{ shown.title }}</h2>
      <p>{{ shown.text }}</p>
      <label v-if="shown.reason">Why<NInput v-model:value="reason" type="textarea" :input-props="{ id: 'ask-reason' }" placeholder="" /></label>
      <FaultLine :text="fault" />
      <div class="do"><NButton attr-type="button" @click="emit('close')">Leave it</NButton><NButton type="primary" attr-type="submit" data-yes :loading="busy" :disabled="!ready">{{ shown.yes }}</NButton></div>
    </form>
  </NModal>
</template>
