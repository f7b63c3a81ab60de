<script setup lang="ts">
// Who asks for the use of APIs: what one asked for, and what one decides.
import { computed, ref } from 'vue'
import { useAct } from '../data/act'
import type { Question } from '../data/ask'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import type { Request, RequestItem } from '../data/types'
import { day } from '../data/words'
import Ask from '../parts/Ask.vue'
import FaultLine from '../parts/FaultLine.vue'
import HelpLink from '../parts/HelpLink.vue'

const { value: requests, error, again } = useLoading(ledger.requests)
const { busy, fault, run } = useAct()
const question = ref<Question | null>(null)
const decide = (r: Request, i: RequestItem, state: 'approved' | 'refused' | 'withdrawn', reason = '') => ledger.decide(r.id, { api: i.api, line: i.line, state, reason })
const approve = (r: Request, i: RequestItem) => run(async () => { await decide(r, i, 'approved'); again() })
const refuse = (r: Request, i: RequestItem) => (question.value = { title: `Refuse ${i.api}, line ${i.line}, to ${r.title}`, text: 'Whoever asked reads why.', yes: 'Refuse it', reason: true, act: (reason) => decide(r, i, 'refused', reason) })
const withdraw = (r: Request, i: RequestItem) => run(async () => { await decide(r, i, 'withdrawn'); again() })
const sorted = computed(() => [...(requests.value ?? [])].sort((a, b) => Number(b.items.some((i) => i.decides)) - Number(a.items.some((i) => i.decides))))
</script>

<template>
  <div class="head">
    <div><h1>Requests</h1><p>What you asked for, and what your teams are asked for. <HelpLink to="consumers#who-may-use-an-api" about="requests" /></p></div>
    <div class="do"><RouterLink to="/ask">Use an API</RouterLink></div>
  </div>
  <div class="inner">
    <FaultLine :text="error || fault" />
    <p v-if="requests && !requests.length" class="soft">Nothing was asked for.</p>
    <section v-for="r in sorted" :key="r.id" class="request" :data-request="r.id">
      <h2><RouterLink :to="`/consumers/${r.consumer}`">{{ r.title || r.consumer }}</RouterLink> <span class="soft">asked by {{ r.askedBy }} on {{ day(r.askedAt) }}</span></h2>
      <p class="purpose">{{ r.purpose }}</p>
      <div v-for="i in r.items" :key="`${i.api} ${i.line}`" class="of" :data-of="i.api">
        <b><RouterLink :to="`/apis/${i.api}`">{{ i.api }}</RouterLink>, line {{ i.line }}</b>, plan {{ i.plan }}:
        <span :class="{ yes: i.state === 'approved', no: i.state === 'refused' }">{{ i.state === 'asked' ? 'waits for its team' : i.state }}</span><span v-if="i.decidedBy" class="soft"> by {{ i.decidedBy }} on {{ day(i.decidedAt!) }}</span><template v-if="i.reason">: {{ i.reason }}</template>
        <span class="ways"><template v-if="i.decides"><button type="button" class="link" :disabled="busy" data-approve @click="approve(r, i)">Approve</button> <button type="button" class="link" data-refuse @click="refuse(r, i)">Refuse …</button></template><button v-if="r.mine && i.state === 'asked'" type="button" class="link" :disabled="busy" data-withdraw @click="withdraw(r, i)">Withdraw</button></span>
        <dl v-if="i.answers.length"><template v-for="a in i.answers" :key="a.question"><dt>{{ a.question }}</dt><dd>{{ a.answer }}</dd></template></dl>
      </div>
    </section>
    <Ask :question="question" @close="question = null" @done="again" />
  </div>
</template>

<style scoped>
.request { border-top: 1px solid var(--rule); padding: 8px 0 14px; } .request h2 .soft { font: 14px/24px var(--sans); } .purpose { margin: 0 0 6px; max-width: 80ch; overflow-wrap: anywhere; }
.of { padding-left: 14px; border-left: 2px solid var(--rule-strong); margin: 6px 0; } .ways { margin-left: 16px; } .ways > * { margin-right: 12px; }
dl { margin: 2px 0; font-size: 14px; } dt { color: var(--ink-soft); } dd { margin: 0 0 4px; overflow-wrap: anywhere; }
.yes { color: var(--safe); } .no { color: var(--breaking); }
</style>
