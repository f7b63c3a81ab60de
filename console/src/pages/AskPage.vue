<script setup lang="ts">
// Ask for the use of APIs, for an application of one's own or a new one: each at a plan, with the purpose in one's words.
import { NButton, NInput } from 'naive-ui'
import { computed, reactive, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useAct } from '../data/act'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import type { Plan } from '../data/types'
import { useUnsaved } from '../data/unsaved'
import { number } from '../data/use'
import FaultLine from '../parts/FaultLine.vue'
import HelpLink from '../parts/HelpLink.vue'

const route = useRoute()
const router = useRouter()
const text = (name: string) => (typeof route.query[name] === 'string' ? route.query[name] : '')
const { value: apis, error } = useLoading(ledger.apis)
const { value: consumers } = useLoading(() => ledger.consumers())
const mine = computed(() => (consumers.value ?? []).filter((c) => c.mine))

interface Item { api: string; line: string; plan: string; answers: string[] }
const items = ref<Item[]>([{ api: text('api'), line: text('line'), plan: '', answers: [] }])
const wish = reactive({ consumer: '', title: '', purpose: '' })
const plans = ref<Record<string, Plan[]>>({})
const linesOf = (name: string) => [...new Set((apis.value?.find((a) => a.name === name)?.versions ?? []).filter((v) => v.state === 'published' || v.state === 'deprecated').map((v) => v.line))].reverse()
const leaves = (name: string, line: string) => (apis.value?.find((a) => a.name === name)?.versions ?? []).some((v) => v.line === line && v.state === 'deprecated')
const planOf = (i: Item) => plans.value[i.api]?.find((p) => p.name === i.plan)
const { busy, fault, run } = useAct()
watch([items, apis], () =>
  run(async () => {
    for (const i of items.value) {
      if (!i.api || !apis.value) continue
      plans.value[i.api] ??= await ledger.plans(i.api)
      if (!plans.value[i.api].some((p) => p.name === i.plan)) i.plan = plans.value[i.api][0]?.name ?? ''
      if (!linesOf(i.api).includes(i.line)) i.line = linesOf(i.api)[0] ?? ''
    }
  }), { deep: true, immediate: true })
watch(mine, (m) => (wish.consumer ||= m.length === 1 ? m[0].name : ''))
const called = computed(() => wish.title.toLowerCase().replace(/[^a-z0-9]+/g, '-').replace(/^[^a-z]+|-+$/g, '').slice(0, 63))
const ready = computed(() => (wish.consumer || called.value) && wish.purpose.trim() && items.value.every((i) => i.api && i.line && i.plan && (planOf(i)?.asks ?? []).every((_, n) => i.answers[n]?.trim())))
const done = ref(false)
useUnsaved(() => !done.value && wish.purpose !== '')
const ask = () =>
  run(async () => {
    await ledger.ask({
      consumer: wish.consumer || called.value,
      ...(wish.consumer ? {} : { title: wish.title.trim() }),
      purpose: wish.purpose,
      items: items.value.map((i) => ({ api: i.api, line: i.line, plan: i.plan, answers: (planOf(i)?.asks ?? []).map((_, n) => i.answers[n]) })),
    })
    done.value = true
    await router.push('/requests')
  })
const quota = (p: Plan) => (p.quota ? `${number(p.quota)} calls a ${p.per}` : 'as many calls as one likes')
</script>

<template>
  <div class="head">
    <div><h1>Use an API</h1><p>Its team approves what you ask for, or says why not. <HelpLink to="consumers#who-may-use-an-api" about="asking for the use of APIs" /></p></div>
    <div class="do"><RouterLink to="/requests">What was asked for</RouterLink></div>
  </div>
  <div class="inner">
    <FaultLine :text="error || fault" />
    <form class="form" @submit.prevent="ask">
      <h2>For which application</h2>
      <label v-if="mine.length">Application <select v-model="wish.consumer" data-consumer><option value="">a new one</option><option v-for="c in mine" :key="c.name" :value="c.name">{{ c.title }}</option></select></label>
      <label v-if="!wish.consumer">What people call it<NInput v-model:value="wish.title" :input-props="{ id: 'title', maxlength: 100 }" placeholder="Skerry Planner" /></label>
      <label>What it is for<NInput v-model:value="wish.purpose" type="textarea" :autosize="{ minRows: 2, maxRows: 6 }" :input-props="{ id: 'purpose', maxlength: 2000 }" placeholder="Sailors find a berth for the night." /></label>
      <h2>Which APIs</h2>
      <fieldset v-for="(i, n) in items" :key="n" class="item">
        <legend class="unseen">API {{ n + 1 }}</legend>
        <label>API <select v-model="i.api" :data-api="n"><option value="" disabled>choose</option><option v-for="a in apis ?? []" :key="a.name" :value="a.name">{{ a.title }}</option></select></label>
        <label v-if="i.api">line <select v-model="i.line" :data-line="n"><option v-for="l in linesOf(i.api)" :key="l" :value="l">{{ l }}{{ leaves(i.api, l) ? ', which leaves' : '' }}</option></select></label>
        <button v-if="items.length > 1" type="button" class="link" @click="items.splice(n, 1)">Take it out</button>
        <p v-if="i.api && plans[i.api] && !plans[i.api].length" class="soft">It has no plan for which you may ask.</p>
        <template v-else-if="plans[i.api]">
          <label v-for="p in plans[i.api]" :key="p.name" class="plan"><input v-model="i.plan" type="radio" :name="`plan-${n}`" :value="p.name" /> <b>{{ p.name }}</b> {{ quota(p) }}<template v-if="p.issues">; with a credential of the ledger</template></label>
          <details v-if="planOf(i)?.terms"><summary>Its terms</summary><!-- made safe by the service --><div class="terms" v-html="planOf(i)!.rendered" /></details>
          <label v-for="(q, k) in planOf(i)?.asks ?? []" :key="q">{{ q }}<NInput v-model:value="i.answers[k]" :input-props="{ id: `answer-${n}-${k}`, maxlength: 2000 }" placeholder="" /></label>
        </template>
      </fieldset>
      <button type="button" class="link" data-more @click="items.push({ api: '', line: '', plan: '', answers: [] })">One more API</button>
      <div class="do"><NButton type="primary" attr-type="submit" :loading="busy" :disabled="!ready" data-ask>Ask for it</NButton></div>
    </form>
  </div>
</template>

<style scoped>
.form { max-width: 640px; } .form > label, .item label { display: block; margin: 8px 0; } .form .do { margin-top: 16px; }
.item { border: 1px solid var(--rule); padding: 6px 16px 12px; margin: 8px 0; } .plan b { margin-right: 6px; } .terms { max-width: 60ch; }
select { font: inherit; color: inherit; background: var(--sheet); border: 1px solid var(--rule-strong); padding: 3px 8px; }
</style>
