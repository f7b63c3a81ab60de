<script setup lang="ts">
import type { Message, Step } from '../data/types'
import GradeMark from './GradeMark.vue'

defineProps<{ step: Step; from: string; to: string }>()

const text = (m: Message) => (m.value === undefined ? m.head : `${m.head}\n\n${JSON.stringify(m.value, null, 2)}`)
</script>

<template>
  <section class="step">
    <h3><GradeMark :grade="step.change.backward" /> {{ step.title }}</h3>
    <div>{{ step.text }}</div>
    <div v-if="step.operations.length" class="soft">Concerns {{ step.operations.slice(0, 4).join(', ') }}<template v-if="step.operations.length > 4"> and {{ step.operations.length - 4 }} more</template>.</div>
    <div v-if="step.before || step.after" class="two">
      <div v-if="step.before"><div class="soft">before, {{ from }}</div><pre class="slip" tabindex="0">{{ text(step.before) }}</pre></div>
      <div v-if="step.after"><div class="soft">after, {{ to }}</div><pre class="slip" tabindex="0">{{ text(step.after) }}</pre></div>
    </div>
  </section>
</template>

<style scoped>
.step { border-top: 1px solid var(--rule); padding: 12px 0 6px; }
.two { display: grid; grid-template-columns: minmax(0, 1fr) minmax(0, 1fr); gap: 18px; }
@media (max-width: 800px) { .two { grid-template-columns: minmax(0, 1fr); } }
</style>
