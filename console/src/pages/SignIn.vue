<script setup lang="ts">
import { useRoute, useRouter } from 'vue-router'
import SignInForm from '../parts/SignInForm.vue'

const route = useRoute()
const router = useRouter()

function go() {
  const to = String(route.query.to ?? '/')
  if (to.startsWith('/reference/')) return location.assign(to)
  void router.push(to.startsWith('/') && !to.startsWith('//') ? to : '/')
}
</script>

<template>
  <div class="inner form">
    <h1>Sign in</h1>
    <p class="soft">To record, compare and publish, and to read what is not for everyone. <a href="/reference/">The reference</a> has what is.</p>
    <SignInForm @done="go" />
  </div>
</template>

<style scoped>
.form { max-width: 460px; }
</style>
