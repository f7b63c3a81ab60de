<script setup lang="ts">
// What a notice says, whether it is being made or changed.
import { NInput } from 'naive-ui'
import type { NoticeWords } from '../data/json'
import FaultLine from './FaultLine.vue'

const words = defineModel<NoticeWords>({ required: true })
defineProps<{ fault: string }>()
</script>

<template>
  <label>Leaves on<input id="sunset" v-model="words.sunset" type="date" class="date" /></label>
  <label>Use instead<NInput v-model:value="words.replacedBy" :input-props="{ id: 'instead' }" placeholder="" /></label>
  <label>Why<NInput v-model:value="words.reason" type="textarea" :input-props="{ id: 'reason' }" placeholder="" /></label>
  <label>The guide to follow, if there is one: 1.2.0..2.0.0<NInput v-model:value="words.guide" :input-props="{ id: 'guide' }" placeholder="" /></label>
  <label v-if="fault">Why it may come sooner than the notice period allows<NInput v-model:value="words.sooner" :input-props="{ id: 'sooner' }" placeholder="" /></label>
  <FaultLine :text="fault" />
</template>

<style scoped>
label { display: block; margin: 10px 0; }
.date { display: block; font: 14px var(--sans); padding: 5px 10px; border: 1px solid var(--rule-strong); background: var(--sheet); color: var(--ink); border-radius: 2px; }
</style>
