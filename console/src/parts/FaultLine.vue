<script setup lang="ts">
// What went wrong, where it went wrong; nothing where nothing did.
defineProps<{ text: string }>()
</script>

<template>
  <p v-if="text" class="fault" role="alert">{{ text }}</p>
</template>
