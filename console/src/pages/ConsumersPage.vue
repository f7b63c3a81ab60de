<script setup lang="ts">
// The consumers: applications that call APIs, whose they are, and when they called last.
import { NButton, NInput } from 'naive-ui'
import { computed, reactive, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useAct } from '../data/act'
import { faultOf } from '../data/fault'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import { useSession } from '../data/session'
import type { Consumer, ConsumerUse } from '../data/types'
import { useUnsaved } from '../data/unsaved'
import { number } from '../data/use'
import { day } from '../data/words'
import FaultLine from '../parts/FaultLine.vue'
import HelpLink from '../parts/HelpLink.vue'

const route = useRoute()
const router = useRouter()
const session = useSession()
const { value: teams } = useLoading(ledger.teams)
const mine = computed(() => (teams.value ?? []).filter((t) => t.may.includes('consumers')).map((t) => t.name))
const { busy, fault, run } = useAct()

// Where a page of calls leads here, it is known what the caller calls itself.
const agent = typeof route.query.agent === 'string' ? route.query.agent : ''
const making = ref(agent !== '')
const wish = reactive({ title: '', name: '', note: '', team: '', contact: '', agent: agent.includes('/') ? agent.slice(0, agent.indexOf('/') + 1) + '*' : agent })
useUnsaved(() => making.value && wish.title !== '')
const called = computed(() => wish.name || wish.title.toLowerCase().replace(/[^a-z0-9]+/g, '-').replace(/^[^a-z]+|-+$/g, '').slice(0, 63))
const make = () =>
  run(async () => {
    const team = wish.team || (mine.value.length === 1 ? mine.value[0] : '')
    await ledger.setConsumer(called.value, { title: wish.title.trim(), note: wish.note, ...(team && { team }), contacts: wish.contact.split(/[\s,]+/).filter(Boolean) })
    if (wish.agent.trim()) await ledger.setSigns(called.value, { team: team || undefined, knownBy: [{ kind: 'agent', value: wish.agent.trim() }] })
    making.value = false
    await router.push(`/consumers/${called.value}`)
  })

// The list comes in pages; who types asks for the last word alone.
const looked = ref('')
const atOnce = 25
const consumers = ref<Consumer[]>()
const more = ref(false)
const error = ref('')
let asking = 0
async function read(after = '') {
  const mine = ++asking
  try {
    const page = await ledger.consumers(looked.value.trim(), after, atOnce)
    if (mine !== asking) return
    consumers.value = after ? [...(consumers.value ?? []), ...page] : page
    more.value = page.length === atOnce
    error.value = ''
  } catch (e) {
    if (mine === asking) error.value = faultOf(e)
  }
}
watch(looked, () => read(), { immediate: true })
const few = 6
const mostCalled = (uses: ConsumerUse[]) => (uses.length > few ? [...uses].sort((a, b) => b.calls - a.calls).slice(0, few) : uses)
const last = (days: string[]) => days.reduce((a, b) => (a > b ? a : b), '')
</script>

<template>
  <div class="head">
    <div><h1>Consumers</h1><p>Applications that call the APIs: yours, your teams’, and those that call what your teams keep. <HelpLink to="consumers" about="consumers" /></p></div>
    <div class="do"><RouterLink to="/requests">Requests</RouterLink><RouterLink to="/logs">Logs and calls of nothing</RouterLink><NButton v-if="!making" type="primary" data-new @click="making = true">Make a consumer</NButton></div>
  </div>
  <div class="inner">
    <FaultLine :text="error || fault" />
    <form v-if="making" class="form" @submit.prevent="make">
      <h2>A new consumer</h2>
      <label>What people call it<NInput v-model:value="wish.title" :input-props="{ id: 'title', maxlength: 100 }" placeholder="Lockside Boards" /></label>
      <label>Its name in addresses<NInput v-model:value="wish.name" :input-props="{ id: 'name', maxlength: 63, pattern: '[a-z][a-z0-9-]*' }" :placeholder="called" /></label>
      <label>What it is for<NInput v-model:value="wish.note" :input-props="{ id: 'note', maxlength: 2000 }" placeholder="" /></label>
      <label>Who to ask: addresses<NInput v-model:value="wish.contact" :input-props="{ id: 'contact' }" placeholder="boards@saltmere.example" /></label>
      <label v-if="mine.length">Whose it is <select v-model="wish.team"><option v-if="mine.length > 1" value="">mine</option><option v-for="t in mine" :key="t" :value="mine.length > 1 ? t : ''">{{ t }}</option></select></label>
      <label v-if="mine.length">What its calls call themselves; a * stands for any text<NInput v-model:value="wish.agent" :input-props="{ id: 'agent', maxlength: 120 }" placeholder="LocksideBoards/*" /></label>
      <div class="do"><NButton type="primary" attr-type="submit" :loading="busy" :disabled="!wish.title.trim() || !called" data-make>Make it</NButton><NButton @click="making = false">Leave it</NButton></div>
    </form>
    <template v-if="consumers && (consumers.length || looked)">
      <label class="look"><span class="unseen">Find a consumer</span><NInput v-model:value="looked" :input-props="{ id: 'look', maxlength: 100 }" placeholder="Find a consumer" clearable /></label>
      <table class="ruled" tabindex="0">
        <thead><tr><th>consumer</th><th>whose</th><th>what it is for</th><th>calls</th><th>last</th></tr></thead>
        <tbody>
          <tr v-for="c in consumers" :key="c.name" :data-consumer="c.name">
            <td><RouterLink :to="`/consumers/${c.name}`">{{ c.title }}</RouterLink></td><td>{{ c.team || c.person }}</td><td class="soft why">{{ c.note }}</td>
            <td><template v-for="(u, i) in mostCalled(c.uses)" :key="u.api"><template v-if="i">, </template><RouterLink :to="{ path: `/apis/${u.api}/use`, query: { consumer: c.name, by: 'version' } }">{{ u.api }}</RouterLink> <span class="soft">{{ number(u.calls) }}</span></template><RouterLink v-if="c.uses.length > few" :to="`/consumers/${c.name}`"> and {{ c.uses.length - few }} more</RouterLink><span v-if="!c.uses.length" class="soft">no log tells of it</span></td>
            <td class="soft">{{ c.uses.length ? day(last(c.uses.map((u) => u.lastDay))) : '' }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="!consumers.length" class="soft">None is called that.</p>
      <NButton v-if="more" data-more @click="read(consumers[consumers.length - 1].name)">More consumers</NButton>
    </template>
    <p v-else-if="consumers && !making" class="soft">There is none that {{ session.person?.full }} may know of. Make one, say by what its calls are recognised, and <RouterLink to="/logs">add a log</RouterLink>.</p>
  </div>
</template>

<style scoped>
.look { display: block; max-width: 320px; margin-bottom: 12px; }
.form { max-width: 560px; margin-bottom: 26px; } .form label { display: block; margin: 10px 0; } .form .do { display: flex; gap: 10px; margin-top: 14px; }
select { font: inherit; color: inherit; background: var(--sheet); border: 1px solid var(--rule-strong); padding: 3px 8px; }
</style>
