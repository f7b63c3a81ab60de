<script setup lang="ts">
import { NButton, NConfigProvider, NModal, darkTheme } from 'naive-ui'
import { computed, defineAsyncComponent, onMounted, onUnmounted, ref, type Component } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { expired, resume } from './data/expired'
import { unexpected } from './data/fault'
import { useKeys } from './data/keys'
import { ledger } from './data/ledger'
import { useSession } from './data/session'
import { leaving } from './data/unsaved'
import FaultLine from './parts/FaultLine.vue'
import SignInForm from './parts/SignInForm.vue'
import { theme } from './theme'

const Palette = defineAsyncComponent<Component>(() => import('./parts/Palette.vue') as Promise<Component>)

const session = useSession()
const route = useRoute()
const router = useRouter()
const night = window.matchMedia('(prefers-color-scheme: dark)')
const dark = ref(night.matches)
const overrides = ref(theme())
const follow = () => ([dark.value, overrides.value] = [night.matches, theme()])
night.addEventListener('change', follow)
onUnmounted(() => night.removeEventListener('change', follow))

const palette = ref(false)
const keys = ref(false)
function call(e: KeyboardEvent) {
  if (!(e.ctrlKey || e.metaKey) || e.key.toLowerCase() !== 'k' || !session.person) return
  e.preventDefault()
  palette.value = !palette.value
}
onMounted(() => addEventListener('keydown', call))
onUnmounted(() => removeEventListener('keydown', call))
useKeys({ '?': () => (keys.value = true), '/': () => (palette.value = !!session.person) })

const help = computed(() => '/manual/' + (typeof route.meta.help === 'string' ? route.meta.help : ''))

async function leave() {
  await session.signOut()
  await router.push('/sign-in')
}

// Whoever looks as another sees their console; nobody, and who has a link, has none.
const outside = computed(() => {
  const as = session.person?.seeing ?? ''
  if (as === 'nobody') return '/reference/'
  return as.startsWith('link ') ? `/reference/${as.slice(5)}/` : ''
})
async function myself() {
  await ledger.seeNoMore()
  location.reload()
}
</script>

<template>
  <NConfigProvider :theme="dark ? darkTheme : null" :theme-overrides="overrides">
    <header class="top">
      <RouterLink class="name" to="/">Old Ledger</RouterLink>
      <template v-if="session.person">
        <RouterLink to="/">Shelf</RouterLink>
        <RouterLink to="/consumers">Consumers</RouterLink>
        <RouterLink to="/journal">Journal</RouterLink>
        <RouterLink to="/people">People</RouterLink>
        <RouterLink to="/rules">Rules</RouterLink>
        <a href="/reference/">Reference</a>
        <a :href="help" target="_blank" data-help>Help</a>
        <button type="button" class="find" data-palette @click="palette = true">Go to … <kbd>Ctrl K</kbd></button>
        <span class="push soft"><RouterLink to="/account">{{ session.person.full }}</RouterLink><template v-if="session.person.role">, {{ session.person.role }}</template></span>
        <a href="#" @click.prevent="leave">Sign out</a>
      </template>
    </header>
    <div v-if="unexpected" class="unexpected"><FaultLine :text="unexpected" /><button type="button" @click="unexpected = ''">Close</button></div>
    <div v-if="session.person?.seeing" class="seeing" role="status">You look as {{ session.person.seeing }}, and change nothing meanwhile. <button type="button" class="link" data-myself @click="myself">Look as yourself again</button></div>
    <main id="content">
      <div v-if="outside" class="inner"><p>The console is for those who are signed in. What {{ session.person?.seeing }} sees is <a :href="outside">the reference</a>.</p></div>
      <RouterView v-else :key="$route.path" />
    </main>
    <Palette v-if="palette" @close="palette = false" />
    <NModal v-model:show="keys">
      <div class="ask" role="dialog" aria-labelledby="keys">
        <h2 id="keys">Keys</h2>
        <table class="keys">
          <tbody>
            <tr><td><kbd>Ctrl K</kbd> or <kbd>/</kbd></td><td>go somewhere, do something</td></tr>
            <tr><td><kbd>j</kbd> <kbd>k</kbd></td><td>the next and the previous row of the shelf, change of a spread</td></tr>
            <tr><td><kbd>↓</kbd> <kbd>↑</kbd></td><td>likewise in a spread</td></tr>
            <tr><td><kbd>w</kbd></td><td>in a spread: the whole file, or one change</td></tr>
            <tr><td><kbd>+</kbd> <kbd>−</kbd> <kbd>←</kbd> <kbd>→</kbd> <kbd>0</kbd></td><td>on a time line: nearer, further away, earlier, later, all of it</td></tr>
            <tr><td><kbd>?</kbd></td><td>this list</td></tr>
          </tbody>
        </table>
      </div>
    </NModal>
    <NModal :show="!!leaving" :mask-closable="false" :close-on-esc="false">
      <div class="ask" role="dialog" aria-labelledby="leaving">
        <h2 id="leaving">What you wrote is not kept</h2>
        <p>It is lost when you leave this page.</p>
        <div class="do"><NButton data-leave @click="leaving?.(true)">Leave without it</NButton><NButton type="primary" data-stay @click="leaving?.(false)">Stay</NButton></div>
      </div>
    </NModal>
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
.find { all: unset; cursor: pointer; color: var(--ink-soft); border: 1px solid var(--rule-strong); padding: 0 10px; font-size: 14px; line-height: 24px; background: var(--sheet); }
.find:focus-visible { outline: 2px solid var(--link); outline-offset: 2px; }
.find kbd { font: 12px var(--mono); margin-left: 12px; }
.seeing { padding: 4px 32px; background: var(--ink); color: var(--paper); font-size: 14px; } .seeing button { color: inherit; }
.unexpected { display: flex; gap: 14px; align-items: baseline; padding: 4px 32px; border-bottom: 1px solid var(--rule-strong); }
.again { width: min(440px, calc(100vw - 32px)); padding: 8px 28px 26px; background: var(--paper); border: 1px solid var(--rule-strong); }
.keys td { padding: 2px 14px 2px 0; font-size: 14px; vertical-align: top; } .keys td:first-child { white-space: nowrap; }
.keys kbd { font: 12px var(--mono); border: 1px solid var(--rule-strong); padding: 0 5px; }
@media (max-width: 800px) { .top { padding: 11px 16px 9px; } .push { margin-left: 0; } .find kbd { display: none; } }
</style>
