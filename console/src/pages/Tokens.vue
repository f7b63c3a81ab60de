<script setup lang="ts">
// Tokens: what pipelines act by. Each is shown once, does what its scopes say for a while, and can be taken back.
import { NButton, NInput } from 'naive-ui'
import { computed, ref } from 'vue'
import { useAct } from '../data/act'
import type { Question } from '../data/ask'
import { copyText } from '../data/copy'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import { useSession } from '../data/session'
import { useUnsaved } from '../data/unsaved'
import type { Scope, TokenEntry } from '../data/types'
import { day } from '../data/words'
import Ask from '../parts/Ask.vue'
import FaultLine from '../parts/FaultLine.vue'
import HelpLink from '../parts/HelpLink.vue'

const session = useSession()
const { value: tokens, error, again } = useLoading(ledger.tokens)
const { value: teams } = useLoading(ledger.teams)
const { busy, fault, run } = useAct()
const question = ref<Question | null>(null)
const revoke = (t: TokenEntry) =>
  (question.value = { title: `Take “${t.label}” back`, text: 'Whoever has it is nobody from then on.', yes: 'Take it back', act: () => ledger.dropToken(t.id) })

const scopes: Record<Scope, string> = { read: 'read what its teams have', record: 'record, word, take drafts away', publish: 'publish and announce', settle: 'promises, whose an API is, notice periods', tally: 'add what was called', administer: 'people, teams, members' }
const label = ref('')
const chosen = ref<Scope[]>(['read', 'record'])
const only = ref('')
const mine = computed(() => (teams.value ?? []).filter((t) => session.person?.role || session.person?.teams?.[t.name]))
const { value: apis } = useLoading(ledger.apis)
const reach = computed(() => (apis.value ?? []).filter((a) => a.may?.includes('read') && (!only.value || a.team === only.value)))
const alone = ref('')
const days = ref(90)
const made = ref('')
const said = ref('')
useUnsaved(() => !!label.value)
const mayAdminister = computed(() => session.may('members') || session.may('people'))
const make = () =>
  run(async () => {
    said.value = ''
    made.value = (await ledger.makeToken({ label: label.value.trim(), scopes: chosen.value, teams: only.value ? [only.value] : [], apis: alone.value ? [alone.value] : [], days: Number(days.value) })).token
    label.value = ''
    again()
  })
const copy = () => copyText(made.value).then(() => (said.value = 'Copied.'))
const ended = (t: TokenEntry) => !!t.endsAt && t.endsAt < new Date().toISOString()
</script>

<template>
  <div class="head"><div><h1>Tokens</h1><p>What pipelines act by: as you, in some scopes, for a while. <HelpLink to="people#tokens" about="tokens" /></p></div></div>
  <div class="inner">
    <FaultLine :text="error || fault" />
    <div v-if="made" class="made" role="status">
      <p>It is shown this once: put it where your pipeline finds it.</p>
      <p><code data-made>{{ made }}</code> <button type="button" class="link" @click="copy">copy it</button> {{ said }}</p>
    </div>
    <div v-if="tokens?.length" class="wide" tabindex="0">
      <table class="ruled">
        <thead><tr><th>what for</th><th>whose</th><th>may</th><th>for</th><th>ends</th><th>used</th><th><span class="unseen">acts</span></th></tr></thead>
        <tbody>
          <tr v-for="t in tokens" :key="t.id" :data-token="t.id">
            <td>{{ t.label }}</td><td>{{ t.person }}</td><td>{{ t.scopes.join(', ') }}</td><td>{{ t.apis.join(', ') || t.teams.join(', ') || 'all teams' }}</td>
            <td>{{ ended(t) ? 'ended ' : '' }}{{ t.endsAt ? day(t.endsAt) : 'never' }}</td><td>{{ t.usedAt ? day(t.usedAt) : 'never' }}</td>
            <td class="ways"><button type="button" class="link" :data-revoke="t.label" @click="revoke(t)">Take back …</button></td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-else-if="tokens" class="soft">There is none.</p>
    <form class="form" @submit.prevent="make">
      <h2>A new one</h2>
      <label>What it is for<NInput v-model:value="label" :input-props="{ id: 'label', maxlength: 100 }" placeholder="" /></label>
      <fieldset><legend>It may</legend>
        <template v-for="(text, s) in scopes" :key="s"><label v-if="s !== 'administer' || mayAdminister" class="choice"><input v-model="chosen" type="checkbox" :value="s" :disabled="s === 'read'" /> {{ s }}: {{ text }}</label></template>
      </fieldset>
      <label>For <select v-model="only"><option value="">all teams of mine</option><option v-for="t in mine" :key="t.name" :value="t.name">{{ t.name }}</option></select></label>
      <label>and of those <select v-model="alone" data-alone><option value="">all APIs</option><option v-for="a in reach" :key="a.name" :value="a.name">{{ a.name }} alone</option></select></label>
      <label>Days until it ends <input v-model="days" type="number" min="1" max="400" /></label>
      <NButton type="primary" attr-type="submit" :loading="busy" :disabled="!label.trim()" data-make>Make it</NButton>
    </form>
    <Ask :question="question" @close="question = null" @done="again" />
  </div>
</template>

<style scoped>
.made { border-left: 3px solid var(--ink); background: var(--sheet); padding: 8px 14px; margin-bottom: 14px; } .made p { margin: 0; overflow-wrap: anywhere; }
.wide { overflow-x: auto; } .form { max-width: 460px; margin-top: 24px; } .form > label { display: block; margin: 12px 0; }
fieldset { border: 1px solid var(--rule); padding: 6px 16px 10px; } fieldset label { display: block; } .choice input { accent-color: var(--ink); }
select, input[type='number'] { font: inherit; color: var(--ink); background: var(--sheet); border: 1px solid var(--rule-strong); padding: 2px 6px; }
input[type='number'] { width: 6em; }
</style>
