<script setup lang="ts">
import { NButton } from 'naive-ui'
import { ref } from 'vue'
import { useAct } from '../data/act'
import { ledger } from '../data/ledger'
import type { Entry } from '../data/types'
import FaultLine from '../parts/FaultLine.vue'

const atOnce = 100
const entries = ref<Entry[]>([])
const more = ref(true)
const verdict = ref('')
const { busy, fault, run } = useAct()

const older = () =>
  run(async () => {
    const next = await ledger.journal(entries.value.at(-1)?.seq ?? 0, atOnce)
    entries.value.push(...next)
    more.value = next.length === atOnce
  })
void older()

const verify = () => run(async () => {
  const v = await ledger.verifyJournal()
  verdict.value = v.intact ? `${v.entries} entries and ${v.contents} contents, all as they were written. The head: ${v.head}` : `The journal does not hold: ${v.why}`
})
</script>

<template>
  <div class="head">
    <div><h1>Journal</h1><p>{{ verdict || 'Every act, each entry chained to the one before it.' }}</p></div>
    <div class="do"><NButton :disabled="busy" data-verify @click="verify">Verify</NButton></div>
  </div>
  <div class="inner">
    <FaultLine :text="fault" />
    <table v-if="entries.length" class="ruled">
      <thead><tr><th>when</th><th>who</th><th>act</th><th>what</th></tr></thead>
      <tbody><tr v-for="e in entries" :key="e.seq"><td class="soft">{{ e.at.slice(0, 16).replace('T', ' ') }}</td><td>{{ e.actor || 'the ledger' }}</td><td>{{ e.act }}</td><td>{{ e.subject }}</td></tr></tbody>
    </table>
    <p v-if="entries.length && more"><NButton :disabled="busy" data-older @click="older">Older acts</NButton></p>
  </div>
</template>
