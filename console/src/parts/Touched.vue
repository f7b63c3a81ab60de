<script setup lang="ts">
// Whom a change touches, as far as logs tell.
import { computed } from 'vue'
import type { Impact } from '../data/types'
import { number } from '../data/use'
import { count, day } from '../data/words'

const props = defineProps<{ impact: Impact | null; change: string; name: string }>()
const t = computed(() => props.impact?.changes.find((ch) => ch.id === props.change))
const title = (consumer: string) => props.impact?.users.find((u) => u.consumer === consumer)?.title || consumer
const names = (all: string[]) => all.map(title).join(', ')
const others = computed(() => [t.value?.hidden && `${count(t.value.hidden, 'consumer')} of whom ${props.impact?.team || 'an admin'} knows`, t.value?.unknown && count(t.value.unknown, 'unknown caller')].filter(Boolean))
</script>

<template>
  <span v-if="t" class="touched" :data-touched="t.users.length + t.hidden + t.unknown">
    <template v-if="t.says">{{ t.says.charAt(0).toUpperCase() + t.says.slice(1) }}.</template>
    <template v-else>Touches <template v-for="(u, i) in t.users" :key="u"><template v-if="i">, </template><RouterLink :to="`/consumers/${u}`">{{ title(u) }}</RouterLink></template><template v-if="others.length"><template v-if="t.users.length"> and </template>{{ others.join(' and ') }}</template><template v-if="t.calls">: {{ number(t.calls) }} calls in {{ impact!.evidence.days }} days, the last on {{ day(t.lastDay!) }}</template>.</template>
    <template v-if="t.relies.length"> {{ names(t.relies) }} {{ t.relies.length === 1 ? 'relies' : 'rely' }} on it<b v-if="t.breaks.length">: it breaks {{ t.breaks.length === t.relies.length ? (t.breaks.length === 1 ? 'it' : 'them') : names(t.breaks) }}</b>.</template>
    <template v-if="t.spared.length"> {{ names(t.spared) }} {{ t.spared.length === 1 ? 'calls it and relies' : 'call it and rely' }} on nothing of it.</template>
  </span>
</template>
