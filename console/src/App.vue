<script setup lang="ts">
import { NConfigProvider, NModal, darkTheme } from 'naive-ui'
import { onUnmounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { expired, resume } from './data/expired'
import { unexpected } from './data/fault'
import { useSession } from './data/session'
import FaultLine from './parts/FaultLine.vue'
import SignInForm from './parts/SignInForm.vue'
import { theme } from './theme'

const session = useSession()
const router = useRouter()
const night = window.matchMedia('(prefers-color-scheme: dark)')
const dark = ref(night.matches)
const overrides = ref(theme())
const follow = () => ([dark.value, overrides.value] = [night.matches, theme()])
night.addEventListener('change', follow)
onUnmounted(() => night.removeEventListener('change', follow))

async function leave() {
  await session.signOut()
  await router.push('/sign-in')
}
</script>

<template>
  <NConfigProvider :theme="dark ? darkTheme : null" :theme-overrides="overrides">
    <header class="top">
      <RouterLink class="name" to="/">Old Ledger</RouterLink>
      <template v-if="session.person">
        <RouterLink to="/">Shelf</RouterLink>
        <RouterLink to="/journal">Journal</RouterLink>
        <a href="/reference/">Reference</a>
        <span class="push soft">{{ session.person.full }}, {{ session.person.role }}</span>
        <a href="#" @click.prevent="leave">Sign out</a>
      </template>
    </header>
    <div v-if="unexpected" class="unexpected"><FaultLine :text="unexpected" /><button type="button" @click="unexpected = ''">Close</button></div>
    <main id="content"><RouterView :key="$route.path" /></main>
    <NModal :show="expired" :mask-closable="false" :close-on-esc="false">
      <div class="again" role="dialog" aria-labelledby="again">
        <h2 id="again">Your session has ended</h2>
        <p class="soft">Sign in again; what you were doing goes on, and nothing is lost.</p>
        <SignInForm :name="session.person?.name" @done="resume" />
      </div>
    </NModal>
  </NConfigProvider>
</template>

<style scoped>
.top { display: flex; flex-wrap: wrap; align-items: baseline; gap: 4px 22px; padding: 13px 32px 11px; border-bottom: 3px double var(--rule-strong); }
.name { font: 600 17px var(--serif); color: inherit; text-decoration: none; }
.push { margin-left: auto; }
.unexpected { display: flex; gap: 14px; align-items: baseline; padding: 4px 32px; border-bottom: 1px solid var(--rule-strong); }
.again { width: min(440px, calc(100vw - 32px)); padding: 8px 28px 26px; background: var(--paper); border: 1px solid var(--rule-strong); }
@media (max-width: 800px) { .top { padding: 11px 16px 9px; } .push { margin-left: 0; } }
</style>
