<script setup lang="ts">
// Who can sign in, who is in which team, and what each team keeps.
import { NButton, NInput } from 'naive-ui'
import { computed, ref } from 'vue'
import { useAct } from '../data/act'
import type { Question } from '../data/ask'
import { copyText } from '../data/copy'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import { useSession } from '../data/session'
import { useUnsaved } from '../data/unsaved'
import type { Invitation, Person, Team } from '../data/types'
import { day } from '../data/words'
import Ask from '../parts/Ask.vue'
import FaultLine from '../parts/FaultLine.vue'
import HelpLink from '../parts/HelpLink.vue'

const session = useSession()
const { value: teams, error, again: readTeams } = useLoading(ledger.teams)
const { value: people, error: unread, again: readPeople } = useLoading(ledger.people)
const { busy, fault, run } = useAct()
function read() {
  readTeams()
  readPeople()
}
const change = (act: () => Promise<unknown>) => run(act).then(read)

const roles = ['lead', 'publisher', 'editor', 'reviewer', 'reader']
const everywhere = ['', 'admin', 'auditor', ...roles]
const others = (t: Team) => (people.value ?? []).filter((p) => !t.members.some((m) => m.name === p.name))
const joining = ref<Record<string, string>>({})
const question = ref<Question | null>(null)
const asks = {
  out: (t: Team, name: string) => ({ title: `Take ${name} out of ${t.name}`, text: 'They no longer see what it has not published.', yes: 'Take them out', act: () => ledger.dropMember(t.name, name) }),
  dissolve: (t: Team) => ({ title: `Dissolve ${t.name}`, text: 'Its members are in it no longer.', yes: 'Dissolve it', act: () => ledger.dropTeam(t.name) }),
  leaves: (p: Person) => ({ title: `Let ${p.full} go`, text: 'Their sessions and tokens act for nobody from then on. What they did stays, and nobody else gets their name.', yes: 'Let them go', act: () => ledger.dropPerson(p.name) }),
}

const mayAdd = computed(() => session.may('people'))
const name = ref('')
const fresh = ref({ name: '', full: '', role: '' })
// An invitation is shown once: whoever made it hands it on.
const invitation = ref<Invitation | null>(null)
const copied = ref('')
const copy = () => copyText(invitation.value!.address).then(() => (copied.value = 'Copied.'))
async function invite(person: string) {
  copied.value = ''
  invitation.value = await ledger.invite(person)
}
useUnsaved(() => !!(name.value || fresh.value.name || fresh.value.full))
const addTeam = () => change(async () => {
  await ledger.addTeam(name.value.trim())
  name.value = ''
})
const addPerson = () => change(async () => {
  const p = await ledger.addPerson({ ...fresh.value, full: fresh.value.full.trim() })
  fresh.value = { name: '', full: '', role: '' }
  await invite(p.name)
})
</script>

<template>
  <div class="head"><div><h1>People and teams</h1><p>A team keeps APIs: what it has not published is its members’ own to see. <RouterLink to="/readers">Who may read</RouterLink> what is. <HelpLink to="people" about="teams and roles" /></p></div></div>
  <div class="inner">
    <FaultLine :text="error || unread || fault" />
    <section v-for="t in teams ?? []" :key="t.name" :data-name="t.name">
      <h2>{{ t.name }}</h2>
      <p v-if="t.apis.length" class="soft">keeps <template v-for="(a, i) in t.apis" :key="a"><template v-if="i">, </template><RouterLink :to="`/apis/${a}`">{{ a }}</RouterLink></template></p>
      <p v-for="a in t.offers" :key="a" class="offer">It is offered <code>{{ a }}</code>. <button v-if="t.may.includes('move')" type="button" class="link" :data-take="a" @click="change(() => ledger.set(a, { team: t.name }))">Take it</button></p>
      <table v-if="t.members.length" class="ruled">
        <thead><tr><th>who</th><th>role</th><th><span class="unseen">acts</span></th></tr></thead>
        <tbody>
          <tr v-for="m in t.members" :key="m.name">
            <td>{{ m.full }} <code class="soft">{{ m.name }}</code></td>
            <td>
              <select v-if="t.may.includes('members')" :value="m.role" :aria-label="`role of ${m.full} in ${t.name}`" :disabled="busy" @change="change(() => ledger.putMember(t.name, m.name, ($event.target as HTMLSelectElement).value))"><option v-for="r in roles" :key="r">{{ r }}</option></select>
              <template v-else>{{ m.role }}</template>
            </td>
            <td class="ways"><button v-if="t.may.includes('members')" type="button" class="link" :data-out="m.name" @click="question = asks.out(t, m.name)">Take out …</button></td>
          </tr>
        </tbody>
      </table>
      <p v-else class="soft">nobody is in it</p>
      <p v-if="t.may.includes('members') && others(t).length" class="more">
        <label>Add <select v-model="joining[t.name]" data-join><option :value="undefined" disabled>somebody …</option><option v-for="p in others(t)" :key="p.name" :value="p.name">{{ p.full }}</option></select></label>
        <template v-if="joining[t.name]"> as <button v-for="r in roles" :key="r" type="button" class="link" :data-as="r" :disabled="busy" @click="change(() => ledger.putMember(t.name, joining[t.name], r).then(() => delete joining[t.name]))">{{ r }}</button></template>
        <button v-if="t.may.includes('teams') && !t.apis.length" type="button" class="link end" data-dissolve @click="question = asks.dissolve(t)">Dissolve {{ t.name }} …</button>
      </p>
    </section>
    <p v-if="teams && !teams.length" class="soft">There is no team yet. What no team keeps is for those who have a role in all teams.</p>
    <form v-if="session.may('teams')" class="line" @submit.prevent="addTeam"><label>A new team <NInput v-model:value="name" :input-props="{ id: 'team', maxlength: 100 }" placeholder="" /></label><NButton attr-type="submit" :disabled="busy || !name.trim()" data-new-team>Make it</NButton></form>

    <h2 class="second">Who can sign in</h2>
    <div v-if="invitation" class="made" role="status">
      <p>Hand this address to {{ invitation.person }}: there they choose a password, until {{ day(invitation.endsAt) }}. It is shown this once.</p>
      <p><code data-invitation>{{ invitation.address }}</code> <button type="button" class="link" @click="copy">copy it</button> {{ copied }}</p>
    </div>
    <div class="wide" tabindex="0">
      <table class="ruled">
        <thead><tr><th>who</th><th>in all teams</th><th>teams</th><th><span class="unseen">acts</span></th></tr></thead>
        <tbody>
          <tr v-for="p in people ?? []" :key="p.name" :data-person="p.name">
            <td>{{ p.full }} <code class="soft">{{ p.name }}</code></td>
            <td>
              <select v-if="mayAdd" :value="p.role" :aria-label="`role of ${p.full} in all teams`" :disabled="busy" @change="change(() => ledger.setRole(p.name, ($event.target as HTMLSelectElement).value))"><option v-for="r in everywhere" :key="r" :value="r">{{ r || 'nothing' }}</option></select>
              <template v-else>{{ p.role || '–' }}</template>
            </td>
            <td class="soft">{{ Object.entries(p.teams ?? {}).map(([t, r]) => `${r} of ${t}`).join(', ') }}</td>
            <td class="ways"><button v-if="mayAdd" type="button" class="link" :data-invite="p.name" title="to choose a password" @click="change(() => invite(p.name))">Invite</button>&ensp;<button v-if="mayAdd" type="button" class="link" :data-leaves="p.name" @click="question = asks.leaves(p)">Let go …</button></td>
          </tr>
        </tbody>
      </table>
    </div>
    <form v-if="mayAdd" class="add" @submit.prevent="addPerson">
      <h3>Add somebody</h3>
      <label>Sign-in name<NInput v-model:value="fresh.name" :input-props="{ id: 'new-name', maxlength: 40, autocomplete: 'off' }" placeholder="" /></label>
      <label>What they are called<NInput v-model:value="fresh.full" :input-props="{ id: 'new-full', maxlength: 100 }" placeholder="" /></label>
      <label>In all teams<select v-model="fresh.role"><option v-for="r in everywhere" :key="r" :value="r">{{ r || 'nothing' }}</option></select></label>
      <NButton type="primary" attr-type="submit" :disabled="busy || !fresh.name || !fresh.full.trim()" data-add>Add them</NButton>
    </form>
    <Ask :question="question" @close="question = null" @done="read" />
  </div>
</template>

<style scoped>
section { border-top: 1px solid var(--rule); padding: 14px 0 10px; } section:first-of-type { border-top: 0; padding-top: 0; }
section p { margin: 2px 0 6px; } .more { display: flex; flex-wrap: wrap; gap: 4px 12px; align-items: baseline; } .more .end { margin-left: auto; }
.offer { border-left: 3px solid var(--hazard); padding-left: 10px; }
.second { margin-top: 30px; border-top: 3px double var(--rule-strong); padding-top: 18px; }
table { max-width: 860px; } section table { table-layout: fixed; } section th:first-child { width: 50%; } section th:nth-child(2) { width: 25%; } select { font: inherit; color: var(--ink); background: var(--sheet); border: 1px solid var(--rule-strong); padding: 1px 4px; max-width: 100%; }
.wide { overflow-x: auto; } .made { border-left: 3px solid var(--ink); background: var(--sheet); padding: 8px 14px; margin: 10px 0; } .made p { margin: 0; overflow-wrap: anywhere; } .line { display: flex; gap: 10px; align-items: end; max-width: 460px; margin-top: 10px; } .line label { flex: 1; }
.add { max-width: 460px; margin-top: 22px; } .add label { display: block; margin: 10px 0; } .add select { display: block; } h3 { margin: 0; }
</style>
