<script setup lang="ts">
// A name and a password, until they fit; or, in place, the provider of identities in another tab.
import { NButton, NInput } from 'naive-ui'
import { ref } from 'vue'
import { useAct } from '../data/act'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import { useSession } from '../data/session'
import FaultLine from './FaultLine.vue'

const props = defineProps<{ name?: string }>()
const emit = defineEmits<{ done: [] }>()
const session = useSession()
const name = ref(props.name ?? '')
const password = ref('')
const { busy, fault, run } = useAct()

const { value: provider } = useLoading(async () => (props.name ? await ledger.provider() : ''))
const arrived = () =>
  run(async () => {
    session.person = await ledger.me()
    emit('done')
  })
const enter = () =>
  run(async () => {
    await session.signIn(name.value.trim(), password.value)
    emit('done')
  })
</script>

<template>
  <form @submit.prevent="enter">
    <label>Name<NInput v-model:value="name" :input-props="{ id: 'name', autocomplete: 'username', autofocus: !props.name }" placeholder="" /></label>
    <label>Password<NInput v-model:value="password" type="password" :input-props="{ id: 'password', autocomplete: 'current-password', autofocus: !!props.name }" placeholder="" /></label>
    <p v-if="provider">Or <a href="/sign-in/provider" target="_blank" rel="opener">sign in by {{ provider }}</a> in another tab, and <button type="button" class="link" data-arrived @click="arrived">go on here</button>.</p>
    <FaultLine :text="fault" />
    <NButton type="primary" attr-type="submit" :loading="busy">Sign in</NButton>
  </form>
</template>

<style scoped>
label { display: block; margin: 12px 0; }
</style>
