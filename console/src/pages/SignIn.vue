<script setup lang="ts">
import { NButton, NInput } from 'naive-ui'
import { ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useAct } from '../data/act'
import { useSession } from '../data/session'

const session = useSession()
const route = useRoute()
const router = useRouter()
const name = ref('')
const password = ref('')
const { busy, fault, run } = useAct()

const enter = () =>
  run(async () => {
    await session.signIn(name.value.trim(), password.value)
    const to = String(route.query.to ?? '/')
    router.push(to.startsWith('/') && !to.startsWith('//') ? to : '/')
  })
</script>

<template>
  <form class="inner form" @submit.prevent="enter">
    <h1>Sign in</h1>
    <p class="soft">To record, compare and publish. Reading <a href="/reference/">the reference</a> needs no sign-in.</p>
    <label>Name<NInput v-model:value="name" :input-props="{ id: 'name', autocomplete: 'username', autofocus: true }" placeholder="" /></label>
    <label>Password<NInput v-model:value="password" type="password" :input-props="{ id: 'password', autocomplete: 'current-password' }" placeholder="" /></label>
    <p v-if="fault" class="fault" role="alert">{{ fault }}</p>
    <NButton type="primary" attr-type="submit" :loading="busy">Sign in</NButton>
  </form>
</template>

<style scoped>
.form { max-width: 460px; }
label { display: block; margin: 12px 0; }
</style>
