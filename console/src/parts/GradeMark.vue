<script setup lang="ts">
import { marks } from '../data/words'
import type { Grade } from '../data/types'

defineProps<{ grade: Grade; n?: number; text?: string }>()
</script>

<template>
  <span class="grade" :class="grade">{{ marks[grade] }} {{ n === undefined ? '' : `${n} ` }}{{ text ?? grade }}</span>
</template>

<style>
.grade { font: 600 12.5px/20px var(--sans); padding: 1px 8px 2px; border-radius: 2px; white-space: nowrap; }
.breaking { color: var(--breaking); background: var(--breaking-wash); }
.hazard { color: var(--hazard); background: var(--hazard-wash); }
.safe { color: var(--safe); background: var(--safe-wash); }
.editorial { color: var(--editorial); background: var(--editorial-wash); }
</style>
