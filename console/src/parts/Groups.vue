<script setup lang="ts">
// Groups of readers, to be ticked. Everyone holds all others, and whoever is signed in all teams.
import { computed } from 'vue'

const props = defineProps<{ legend: string; holder: string; teams: string[]; own?: string; always?: string; without?: string[] }>()
const groups = defineModel<string[]>({ required: true })

const choices = computed(() =>
  [
    { group: 'everyone', text: 'everyone' },
    { group: 'signed-in', text: 'whoever is signed in' },
    ...props.teams.filter((t) => t !== props.own).map((t) => ({ group: 'team ' + t, text: t })),
    { group: 'link', text: props.holder },
  ].filter((c) => !props.without?.includes(c.group)),
)
const has = (g: string) => groups.value.includes(g)
const held = (g: string) => g !== 'everyone' && (has('everyone') || (g.startsWith('team ') && has('signed-in')))
function tick(g: string, on: boolean) {
  groups.value = on ? [...groups.value, g] : groups.value.filter((o) => o !== g)
}
</script>

<template>
  <fieldset>
    <legend>{{ legend }}</legend>
    <label><input type="checkbox" checked disabled /> {{ always ?? `${own || 'its team'}, who keeps it` }}</label>
    <label v-for="c in choices" :key="c.group"><input type="checkbox" :data-group="c.group" :checked="has(c.group) || held(c.group)" :disabled="held(c.group)" @change="tick(c.group, ($event.target as HTMLInputElement).checked)" /> {{ c.text }}</label>
  </fieldset>
</template>

<style scoped>
fieldset { border: 1px solid var(--rule); margin: 14px 0; padding: 6px 16px 12px; } legend { font: 600 15px var(--serif); padding: 0 6px; }
label { display: block; } input { accent-color: var(--ink); }
</style>
