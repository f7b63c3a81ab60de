<script setup lang="ts">
import { useRoute, useRouter } from 'vue-router'
import SignInForm from '../parts/SignInForm.vue'

const route = useRoute()
const router = useRouter()

function go() {
  const to = String(route.query.to ?? '/')
  void router.push(to.startsWith('/') && !to.startsWith('//') ? to : '/')
}
</script>

<template>
  <div class="inner form">
    <h1>Sign in</h1>
    <p class="soft">To record, compare and publish. Reading <a href="/reference/">the reference</a> needs no sign-in.</p>
    <SignInForm @done="go" />
  </div>
</template>

<style scoped>
.form { max-width: 460px; }
</style>
