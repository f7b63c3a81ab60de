<script setup lang="ts">
// A mark beside what is asked that leads to the page of the manual which explains it.
defineProps<{ to: string; about: string }>()
</script>

<template>
  <a class="help" :href="`/manual/${to}`" target="_blank" :aria-label="`? about ${about}, in the manual`" :title="`about ${about}, in the manual`">?</a>
</template>

<style>
a.help { display: inline-block; width: 24px; height: 24px; box-sizing: border-box; border: 1px solid var(--rule-strong); border-radius: 50%; font: 600 13px/22px var(--serif); text-align: center; text-decoration: none; color: var(--ink-soft); vertical-align: middle; margin-left: 4px; }
a.help:hover { color: var(--link); border-color: currentColor; }
</style>
