<script setup lang="ts">
import { NConfigProvider, darkTheme } from 'naive-ui'
import { onUnmounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useSession } from './data/session'
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
  router.push('/sign-in')
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
    <main id="content"><RouterView :key="$route.path" /></main>
  </NConfigProvider>
</template>

<style scoped>
.top { display: flex; flex-wrap: wrap; align-items: baseline; gap: 4px 22px; padding: 13px 32px 11px; border-bottom: 3px double var(--rule-strong); }
.name { font: 600 17px var(--serif); color: inherit; text-decoration: none; }
.push { margin-left: auto; }
@media (max-width: 800px) { .top { padding: 11px 16px 9px; } .push { margin-left: 0; } }
</style>
