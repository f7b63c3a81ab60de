<script setup lang="ts">
// Somebody who was invited chooses a password. The key stands behind the # of the address: no log has it.
import { NButton, NInput } from 'naive-ui'
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { useAct } from '../data/act'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import { useSession } from '../data/session'
import FaultLine from '../parts/FaultLine.vue'

const router = useRouter()
const session = useSession()
const key = location.hash.slice(1)
const { value: person, error } = useLoading(() => ledger.invited(key))
const password = ref('')
const again = ref('')
const { busy, fault, run } = useAct()
const take = () =>
  run(async () => {
    const p = await ledger.invited(key, password.value)
    await session.signIn(p.name, password.value)
    await router.replace('/')
  })
</script>

<template>
  <div class="inner form">
    <h1>Choose a password</h1>
    <FaultLine :text="error || fault" />
    <form v-if="person" @submit.prevent="take">
      <p>For {{ person.full }}, who signs in as <code>{{ person.name }}</code>. Sessions that you have elsewhere end.</p>
      <input type="hidden" name="username" autocomplete="username" :value="person.name" />
      <label>Password, of ten characters at least<NInput v-model:value="password" type="password" :input-props="{ id: 'new', autocomplete: 'new-password', maxlength: 200 }" placeholder="" /></label>
      <label>The same again<NInput v-model:value="again" type="password" :input-props="{ id: 'again', autocomplete: 'new-password', maxlength: 200 }" placeholder="" /></label>
      <NButton type="primary" attr-type="submit" data-take :loading="busy" :disabled="password.length < 10 || again !== password">Sign in with it</NButton>
    </form>
  </div>
</template>

<style scoped>
.form { max-width: 460px; } label { display: block; margin: 12px 0; }
</style>
