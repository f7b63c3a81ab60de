<script setup lang="ts">
import type { GuideMessage, Impact, Step } from '../data/types'
import GradeMark from './GradeMark.vue'
import GuideWords from './GuideWords.vue'
import Touched from './Touched.vue'

defineProps<{ step: Step; api: string; from: string; to: string; impact: Impact | null; write?: (anchor: string, text: string) => Promise<void> }>()

const text = (m: GuideMessage) => [m.head, ...(m.lines ?? [])].join('\n') + (m.value === undefined ? '' : '\n\n' + JSON.stringify(m.value, null, 2))
</script>

<template>
  <section :id="step.change.id" class="step">
    <h3><GradeMark :grade="step.change.backward" /> {{ step.title }}</h3>
    <div>{{ step.text }}</div>
    <div class="soft">
      <template v-if="step.place">In {{ step.place }}. </template><template v-if="step.operations.length">Concerns {{ step.operations.slice(0, 4).join(', ') }}<template v-if="step.operations.length > 4"> and {{ step.operations.length - 4 }} more</template>. </template>
      <template v-if="step.came.length">Came in {{ step.came.map((o) => o.version).join(', ') }}. </template>
      <RouterLink :to="`/apis/${api}/compare/${from}..${to}?change=${step.change.id}`">The change</RouterLink>
    </div>
    <div v-if="impact"><Touched :impact="impact" :change="step.change.id" :name="api" /></div>
    <GuideWords :words="step.words" :anchor="step.change.id" invitation="Write to this step" :write="write" />
    <div v-if="step.before || step.after" class="two">
      <div v-if="step.before"><div class="soft">before, {{ from }}</div><pre class="slip" tabindex="0">{{ text(step.before) }}</pre></div>
      <div v-if="step.after"><div class="soft">after, {{ to }}</div><pre class="slip" tabindex="0">{{ text(step.after) }}</pre></div>
    </div>
    <details v-for="c in step.code ?? []" :key="c.language">
      <summary>The call in {{ c.name }}</summary>
      <div class="two"><pre class="slip" tabindex="0">{{ c.before }}</pre><pre v-if="c.after" class="slip" tabindex="0">{{ c.after }}</pre></div>
    </details>
  </section>
</template>

<style scoped>
.step { border-top: 1px solid var(--rule); padding: 12px 0 6px; }
.two { display: grid; grid-template-columns: minmax(0, 1fr) minmax(0, 1fr); gap: 18px; }
@media (max-width: 800px) { .two { grid-template-columns: minmax(0, 1fr); } }
</style>
