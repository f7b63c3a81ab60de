<script setup lang="ts">
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import GuideStep from '../parts/GuideStep.vue'

const props = defineProps<{ name: string; old: string; now: string }>()
const { value: guide, error } = useLoading(() => ledger.guide(`${props.name}@${props.old}`, `${props.name}@${props.now}`))
</script>

<template>
  <p v-if="error" class="inner"><span class="fault">{{ error }}</span></p>
  <template v-if="guide">
    <div class="head">
      <div><h1>{{ guide.title }}, from {{ guide.from }} to {{ guide.to }}</h1><p>{{ guide.verdict }}</p></div>
      <div class="do"><RouterLink :to="`/apis/${name}/compare/${old}..${now}`">The spread</RouterLink></div>
    </div>
    <div class="inner">
      <template v-if="guide.must.length"><h2>What you must do</h2><GuideStep v-for="s in guide.must" :key="s.change.id" :step="s" :from="guide.from" :to="guide.to" /></template>
      <template v-if="guide.renames.length">
        <h2>New names</h2>
        <table class="ruled">
          <thead><tr><th>where</th><th>was</th><th>is</th></tr></thead>
          <tbody><tr v-for="r in guide.renames" :key="r.from"><td>{{ r.where }}</td><td><code>{{ r.from }}</code></td><td><code>{{ r.to }}</code></td></tr></tbody>
        </table>
      </template>
      <template v-if="guide.check.length"><h2>What you should test</h2><GuideStep v-for="s in guide.check" :key="s.change.id" :step="s" :from="guide.from" :to="guide.to" /></template>
      <template v-if="guide.adopt.length"><h2>What is new</h2><ul><li v-for="s in guide.adopt" :key="s.change.id">{{ s.title }}</li></ul></template>
      <template v-if="guide.rollback.length"><h2>The way back</h2><p>A client of {{ guide.to }} fails on {{ guide.from }} because of:</p><ul><li v-for="r in guide.rollback" :key="r">{{ r }}</li></ul></template>
    </div>
  </template>
</template>
