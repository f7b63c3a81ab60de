<script setup lang="ts">
import { count, marks } from '../data/words'
import type { Change, Grade, Removal } from '../data/types'

const props = defineProps<{ changes: Change[]; chosen?: string; removed?: Record<string, Removal>; gradeOf?: (c: Change) => Grade }>()
const grade = (c: Change) => props.gradeOf?.(c) ?? c.backward
defineEmits<{ choose: [id: string] }>()

function where(c: Change) {
  const shared = c.new?.component ?? c.old?.component
  if (shared) return `${shared} · ${count(c.reach.length, 'operation')}`
  return c.reach.length > 1 ? count(c.reach.length, 'operation') : c.written || (c.reach[0] ?? c.at)
}
</script>

<template>
  <ol class="changes">
    <li v-for="c in changes" :key="c.id" :class="{ on: c.id === chosen }" :data-item="c.id">
      <button type="button" :aria-current="c.id === chosen" @click="$emit('choose', c.id)">
        <i :class="'ink-' + grade(c)" :aria-label="grade(c)" role="img">{{ marks[grade(c)] }}</i>{{ c.title }}<small>{{ where(c) }}</small><small v-if="removed?.[c.id]" class="said">{{ removed[c.id].text }}</small>
      </button>
    </li>
  </ol>
</template>

<style scoped>
.changes { list-style: none; margin: 0; padding: 0; font-size: 14px; line-height: 21px; }
li { border-bottom: 1px solid var(--rule); }
li.on { background: var(--sheet); box-shadow: inset 3px 0 0 var(--ink); }
button { all: unset; display: block; width: 100%; box-sizing: border-box; padding: 9px 16px 9px 32px; position: relative; cursor: pointer; overflow-wrap: anywhere; }
button:focus-visible { outline: 2px solid var(--link); outline-offset: -2px; }
i { position: absolute; left: 14px; font-style: normal; font-weight: 700; }
small.said { font-family: var(--sans); }
small { display: block; color: var(--ink-soft); font: 12.5px/18px var(--mono); }
.ink-breaking { color: var(--breaking); } .ink-hazard { color: var(--hazard); } .ink-safe { color: var(--safe); } .ink-editorial { color: var(--editorial); }
</style>
