<script setup lang="ts">
// One thing that is wrong with a description: what, where, and what would be right.
import { computed } from 'vue'
import type { Diagnostic } from '../data/types'
import GradeMark from './GradeMark.vue'

const props = defineProps<{ diagnostic: Diagnostic; file?: boolean }>()
const looks = { error: 'breaking', warning: 'hazard', hint: 'editorial' } as const
const place = computed(() => (props.file ? `${props.diagnostic.file}, ` : '') + `line ${props.diagnostic.line}, column ${props.diagnostic.column}`)
</script>

<template>
  <div class="diagnostic">
    <GradeMark :grade="looks[diagnostic.severity]" :text="diagnostic.severity" />
    <div>{{ place }}: {{ diagnostic.text }}<template v-if="diagnostic.right">; <span class="right">{{ diagnostic.right }}</span></template></div>
  </div>
</template>

<style scoped>
.diagnostic { display: grid; grid-template-columns: 92px 1fr; gap: 10px; padding: 3px 0; }
.diagnostic > .grade { justify-self: start; align-self: start; }
</style>
