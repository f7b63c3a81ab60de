<script setup lang="ts">
// Where to go and what to do, by a few letters: a field and what it finds (a combobox, WAI-ARIA 1.2).
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { tell } from '../data/fault'
import { ledger } from '../data/ledger'
import { found, placesOf, type Placement } from '../data/places'
import { useSession } from '../data/session'
import type { Api } from '../data/types'

const emit = defineEmits<{ close: [] }>()
const session = useSession()
const route = useRoute()
const router = useRouter()
const apis = ref<Api[]>([])
const manual = ref<{ title: string; in?: string; address: string }[]>([])
const elsewhere = ref<Placement[]>([])
const question = ref('')
const at = ref(0)
const field = ref<HTMLInputElement>()
const before = document.activeElement as HTMLElement | null

onMounted(() => {
  field.value?.focus()
  ledger.apis().then((all) => (apis.value = all), tell)
  ledger.manual().then((all) => (manual.value = all), tell)
})

const all = computed(() => placesOf({ apis: apis.value, api: route.params.name as string | undefined, may: session.may, manual: manual.value }))
const places = computed(() => [...found(all.value, question.value, 9), ...elsewhere.value])
watch(question, async (asked) => {
  at.value = 0
  elsewhere.value = []
  if (asked.trim().length < 3) return
  const hits = await ledger.find(asked).catch(() => []) // what is published is an addition here; its own search says what is wrong
  if (asked === question.value) elsewhere.value = hits.slice(0, 5).map((h) => ({ title: h.title, where: [h.kind, h.where].filter(Boolean).join(', '), to: h.page, outside: true }))
})

function move(by: number) {
  at.value = (at.value + by + places.value.length) % Math.max(1, places.value.length)
  void nextTick(() => document.getElementById(`place-${at.value}`)?.scrollIntoView({ block: 'nearest' }))
}
function close() {
  emit('close')
  before?.focus()
}
function go(p?: Placement) {
  if (!p) return
  emit('close')
  if (p.outside) location.href = p.to
  else void router.push(p.to)
}
</script>

<template>
  <div class="over" @mousedown.self="close">
    <div class="palette" role="dialog" aria-modal="true" aria-label="Go somewhere or do something">
      <input ref="field" v-model="question" role="combobox" aria-label="Where to, or what to do" aria-expanded="true" aria-controls="places" :aria-activedescendant="places.length ? `place-${at}` : undefined" placeholder="Where to, or what to do" autocomplete="off" spellcheck="false" @keydown.down.prevent="move(1)" @keydown.up.prevent="move(-1)" @keydown.enter.prevent="go(places[at])" @keydown.esc.prevent="close" @keydown.tab.prevent />
      <ul id="places" role="listbox" aria-label="Places">
        <li v-for="(p, i) in places" :id="`place-${i}`" :key="p.to + p.title" role="option" :aria-selected="i === at" @mousemove="at = i" @click="go(p)">{{ p.title }} <small>{{ p.where }}</small></li>
        <li v-if="question && !places.length" role="option" aria-disabled="true" aria-selected="false" class="soft">Nothing here has these words.</li>
      </ul>
      <p class="soft hint"><kbd>↑</kbd> <kbd>↓</kbd> choose, <kbd>Enter</kbd> goes there, <kbd>Esc</kbd> closes</p>
    </div>
  </div>
</template>

<style scoped>
.over { position: fixed; inset: 0; z-index: 3000; background: rgb(20 24 32 / 32%); padding: 9vh 16px 0; }
.palette { width: min(640px, 100%); margin: 0 auto; background: var(--sheet); border: 1px solid var(--rule-strong); box-shadow: 0 10px 34px rgb(20 24 32 / 26%); }
input { box-sizing: border-box; width: 100%; font: 17px/28px var(--sans); padding: 12px 20px; border: 0; border-bottom: 3px double var(--rule-strong); background: none; color: var(--ink); outline: 0; }
input::placeholder { color: var(--ink-faint); }
ul { list-style: none; margin: 0; padding: 4px 0; max-height: 52vh; overflow-y: auto; }
li { padding: 5px 20px; cursor: pointer; font-size: 14.5px; line-height: 23px; overflow-wrap: anywhere; }
li[aria-selected='true'] { background: var(--slip); box-shadow: inset 3px 0 0 var(--ink); }
small { color: var(--ink-soft); font: italic 13px var(--serif); margin-left: 6px; }
.hint { margin: 0; padding: 5px 20px 7px; font-size: 12.5px; border-top: 1px solid var(--rule); }
kbd { font: 12px var(--mono); border: 1px solid var(--rule-strong); padding: 0 4px; }
</style>
