<script setup lang="ts">
// A name and a password, until they fit.
import { NButton, NInput } from 'naive-ui'
import { ref } from 'vue'
import { useAct } from '../data/act'
import { useSession } from '../data/session'
import FaultLine from './FaultLine.vue'

const props = defineProps<{ name?: string }>()
const emit = defineEmits<{ done: [] }>()
const session = useSession()
const name = ref(props.name ?? '')
const password = ref('')
const { busy, fault, run } = useAct()

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
    <FaultLine :text="fault" />
    <NButton type="primary" attr-type="submit" :loading="busy">Sign in</NButton>
  </form>
</template>

<style scoped>
label { display: block; margin: 12px 0; }
</style>
