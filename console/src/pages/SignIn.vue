<script setup lang="ts">
import { useRoute, useRouter } from 'vue-router'
import { computed } from 'vue'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import FaultLine from '../parts/FaultLine.vue'
import SignInForm from '../parts/SignInForm.vue'

const route = useRoute()
const router = useRouter()

const { value: provider } = useLoading(ledger.provider)
const to = computed(() => String(route.query.to ?? '/'))
const outside = (path: string) => path.startsWith('/reference/') || path.startsWith('/shelves/')
const away = computed(() => '/sign-in/provider?' + new URLSearchParams({ to: outside(to.value) ? to.value : '/console' + to.value }).toString())

function go() {
  const to = String(route.query.to ?? '/')
  if (outside(to)) return location.assign(to)
  void router.push(to.startsWith('/') && !to.startsWith('//') ? to : '/')
}
</script>

<template>
  <div class="inner form">
    <h1>Sign in</h1>
    <p class="soft">To record, compare and publish, and to read what is not for everyone. <a href="/reference/">The reference</a> has what is.</p>
    <FaultLine :text="route.query.why ? String(route.query.why) : ''" />
    <p v-if="provider" class="by"><a :href="away" data-provider>Sign in by {{ provider }}</a></p>
    <SignInForm @done="go" />
  </div>
</template>

<style scoped>
.form { max-width: 460px; } .by { margin: 18px 0; font-weight: 600; }
</style>
