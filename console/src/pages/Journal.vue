<script setup lang="ts">
import { NButton } from 'naive-ui'
import { ref } from 'vue'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'

const { value: entries, error } = useLoading(() => ledger.journal(0))
const verdict = ref('')

async function verify() {
  const v = await ledger.verifyJournal()
  verdict.value = v.intact ? `${v.entries} entries and ${v.contents} contents, all as they were written. The head: ${v.head}` : `The journal does not hold: ${v.why}`
}
</script>

<template>
  <div class="head">
    <div><h1>Journal</h1><p>{{ verdict || 'Every act, each entry chained to the one before it.' }}</p></div>
    <div class="do"><NButton @click="verify">Verify</NButton></div>
  </div>
  <div class="inner">
    <p v-if="error" class="fault">{{ error }}</p>
    <table v-if="entries" class="ruled">
      <thead><tr><th>when</th><th>who</th><th>act</th><th>what</th></tr></thead>
      <tbody><tr v-for="e in [...entries].reverse()" :key="e.seq"><td class="soft">{{ e.at.slice(0, 16).replace('T', ' ') }}</td><td>{{ e.actor || 'the ledger' }}</td><td>{{ e.act }}</td><td>{{ e.subject }}</td></tr></tbody>
    </table>
  </div>
</template>
