<script setup lang="ts">
// What a gateway sends with the answers of a version: for each operation of which something leaves.
import { ref } from 'vue'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import type { Version } from '../data/types'
import FaultLine from './FaultLine.vue'

const props = defineProps<{ versions: Version[] }>()
const chosen = ref(props.versions[0]?.number ?? '')
const { value: all, error } = useLoading(() => ledger.headers(`${props.versions[0].api}@${chosen.value}`))
</script>

<template>
  <details class="headers">
    <summary>What a gateway sends with it</summary>
    <p><label>Answers of <select v-model="chosen"><option v-for="v in versions" :key="v.number">{{ v.number }}</option></select></label> <span class="soft">as configuration: <code>oldledger headers {{ versions[0].api }}@{{ chosen }} --format nginx</code></span></p>
    <FaultLine :text="error" />
    <p v-if="all && !all.length" class="soft">Nothing of it leaves.</p>
    <table v-else-if="all" class="ruled" tabindex="0">
      <thead><tr><th>operation</th><th>Deprecation</th><th>Sunset</th><th>by</th></tr></thead>
      <tbody><tr v-for="h in all" :key="h.method + h.path"><td>{{ h.method }} <code>{{ h.path }}</code></td><td><code>{{ h.deprecation }}</code></td><td>{{ h.sunset }}</td><td class="soft">{{ h.by }}</td></tr></tbody>
    </table>
  </details>
</template>

<style scoped>
.headers { margin-top: 14px; } summary { cursor: pointer; font: 600 15px var(--serif); }
select { font: inherit; color: var(--ink); background: var(--sheet); border: 1px solid var(--rule-strong); padding: 1px 4px; }
</style>
