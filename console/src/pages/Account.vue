<script setup lang="ts">
// Oneself: the password, and where one is signed in.
import { NButton, NInput } from 'naive-ui'
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { useAct } from '../data/act'
import { copyText } from '../data/copy'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import { useSession } from '../data/session'
import type { NewFeed } from '../data/types'
import { useUnsaved } from '../data/unsaved'
import { day } from '../data/words'
import FaultLine from '../parts/FaultLine.vue'
import HelpLink from '../parts/HelpLink.vue'

const session = useSession()
const router = useRouter()
const { value: sessions, error } = useLoading(ledger.sessions)
const { busy, fault, run } = useAct()
const old = ref('')
const fresh = ref('')
const again = ref('')
const said = ref('')
useUnsaved(() => !!(old.value || fresh.value || again.value))
const change = () =>
  run(async () => {
    await ledger.changePassword(old.value, fresh.value)
    await session.signIn(session.person!.name, fresh.value)
    old.value = fresh.value = again.value = ''
    said.value = 'It is another from now on. Elsewhere you are signed out.'
  })
const everywhere = () =>
  run(async () => {
    await ledger.endSessions()
    session.person = null
    await router.push('/sign-in')
  })
const { value: feed, again: readFeed } = useLoading(ledger.feed)
const made = ref<NewFeed | null>(null)
const copied = ref('')
const copy = (text: string) => copyText(text).then(() => (copied.value = 'Copied.'))
const makeFeed = () =>
  run(async () => {
    copied.value = ''
    made.value = await ledger.makeFeed()
    readFeed()
  })
const endFeed = () =>
  run(async () => {
    await ledger.dropFeed()
    made.value = null
    readFeed()
  })
</script>

<template>
  <div class="head"><div><h1>{{ session.person?.full }}</h1><p><code>{{ session.person?.name }}</code><template v-if="session.person?.role">, {{ session.person.role }} in all teams</template><template v-for="(r, t) in session.person?.teams" :key="t">, {{ r }} of {{ t }}</template> <HelpLink to="people#people" about="people" /></p></div><div class="do"><RouterLink to="/tokens">Tokens</RouterLink></div></div>
  <div class="inner form">
    <FaultLine :text="error || fault" />
    <form @submit.prevent="change">
      <h2>Another password</h2>
      <input type="hidden" name="username" autocomplete="username" :value="session.person?.name" />
      <label>The one that you have<NInput v-model:value="old" type="password" :input-props="{ id: 'old', autocomplete: 'current-password', maxlength: 200 }" placeholder="" /></label>
      <label>Another, of ten characters at least<NInput v-model:value="fresh" type="password" :input-props="{ id: 'new', autocomplete: 'new-password', maxlength: 200 }" placeholder="" /></label>
      <label>The same again<NInput v-model:value="again" type="password" :input-props="{ id: 'again', autocomplete: 'new-password', maxlength: 200 }" placeholder="" /></label>
      <p v-if="said" role="status">{{ said }}</p>
      <NButton type="primary" attr-type="submit" data-change :loading="busy" :disabled="!old || fresh.length < 10 || again !== fresh">Change it</NButton>
    </form>
    <h2 class="second">Where you are signed in</h2>
    <ul v-if="sessions"><li v-for="(s, i) in sessions" :key="i">{{ s.madeAt ? `since ${day(s.madeAt)}, ${s.madeAt.slice(11, 16)}` : 'since before' }}, until {{ day(s.endsAt) }}, {{ s.endsAt.slice(11, 16) }} (UTC)</li></ul>
    <NButton data-everywhere :loading="busy" @click="everywhere">Sign out everywhere</NButton>
    <h2 class="second">Feeds and calendars</h2>
    <p class="soft">A feed reader and a calendar cannot sign in: at a secret address they read what you read.</p>
    <div v-if="made" role="status" class="made">
      <p>Both are shown this once.</p>
      <p><code data-feed>{{ made.feed }}</code> <button type="button" class="link" @click="copy(made.feed)">copy it</button></p>
      <p><code>{{ made.calendar }}</code> <button type="button" class="link" @click="copy(made.calendar)">copy it</button> {{ copied }}</p>
    </div>
    <p v-else-if="feed">You have one since {{ day(feed) }}.</p>
    <NButton data-make-feed :loading="busy" @click="makeFeed">{{ feed ? 'Make another in its place' : 'Make one' }}</NButton>&ensp;<NButton v-if="feed" data-end-feed :loading="busy" @click="endFeed">End it</NButton>
  </div>
</template>

<style scoped>
.form { max-width: 520px; } label { display: block; margin: 12px 0; } .second { margin-top: 28px; }
.made { border: 1px solid var(--rule-strong); padding: 8px 14px; margin: 10px 0; overflow-wrap: anywhere; }
</style>
