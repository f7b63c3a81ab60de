<script setup lang="ts">
// A comparison as a spread: the old page left, the new page right, the grade in the gutter.
import { NButton, NCheckbox } from 'naive-ui'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { groupsOf, sorted, type Direction, type Grouping } from '../data/changes'
import { copyText } from '../data/copy'
import { useKeys } from '../data/keys'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import type { Change, Grade } from '../data/types'
import { day, grades, sentence } from '../data/words'
import ChangeList from '../parts/ChangeList.vue'
import FaultLine from '../parts/FaultLine.vue'
import HelpLink from '../parts/HelpLink.vue'
import GradeMark from '../parts/GradeMark.vue'
import Pages from '../parts/Pages.vue'
import Touched from '../parts/Touched.vue'

const props = defineProps<{ name: string; old: string; now: string }>()
const route = useRoute()
const router = useRouter()
const { value: c, error } = useLoading(() => ledger.compare(`${props.name}@${props.old}`, `${props.name}@${props.now}`))
const { value: left, error: noLeft } = useLoading(() => ledger.files(`${props.name}@${props.old}`))
const { value: right, error: noRight } = useLoading(() => ledger.files(`${props.name}@${props.now}`))

// Whom it touches is told beside it; without that, the comparison stands all the same.
const { value: impact } = useLoading(() => ledger.impact(`${props.name}@${props.old}`, `${props.name}@${props.now}`))

// What was let through when the new version was published says so, with its reason.
const { value: version, error: noVersion } = useLoading(() => ledger.version(`${props.name}@${props.now}`))
const waiver = computed(() => version.value?.waivers?.find((w) => w.change === change.value?.id))

// How it is read is in the address, so that it can be passed on.
const asked = (name: string, known: string[]) => known.find((k) => k === route.query[name]) ?? known[0]
const direction = ref(asked('for', ['backward', 'forward']) as Direction)
const grouping = ref(asked('by', ['none', 'operation', 'component']) as Grouping)
const whole = ref(route.query.text === 'whole')
const hidden = ref<Grade[]>([])
const chosen = ref(String(route.query.change ?? ''))

const gradeOf = (ch: Change) => ch[direction.value]
const counts = computed(() => Object.fromEntries(grades.map((g) => [g, (c.value?.changes ?? []).filter((ch) => gradeOf(ch) === g).length])) as Record<Grade, number>)
const groups = computed(() => groupsOf(sorted((c.value?.changes ?? []).filter((ch) => !hidden.value.includes(gradeOf(ch))), direction.value), grouping.value, c.value?.paths))
const shown = computed(() => groups.value.flatMap((g) => g.changes))
const change = computed(() => shown.value.find((ch) => ch.id === chosen.value) ?? shown.value[0])
const reach = computed(() => (change.value?.reach ?? []).map((op) => c.value?.paths?.[op] ?? op))
const witnesses = computed(() => (change.value?.witnesses ?? [change.value?.witness]).filter((w) => w?.value !== undefined))

function note() {
  const query: Record<string, string> = { change: change.value?.id ?? '' }
  if (direction.value !== 'backward') query.for = direction.value
  if (grouping.value !== 'none') query.by = grouping.value
  if (whole.value) query.text = 'whole'
  return router.replace({ query })
}
function choose(id: string) {
  chosen.value = id
  void note()
}
function go(by: number) {
  const at = shown.value.findIndex((ch) => ch.id === change.value?.id)
  const to = shown.value[Math.min(Math.max(at + by, 0), shown.value.length - 1)]
  if (!to) return
  choose(to.id)
  document.querySelector(`[data-item="${to.id}"]`)?.scrollIntoView({ block: 'nearest' })
}
function turn() {
  whole.value = !whole.value
  void note()
}
useKeys({ j: () => go(1), k: () => go(-1), ArrowDown: () => go(1), ArrowUp: () => go(-1), w: turn })

function show(grade: Grade, on: boolean) {
  hidden.value = on ? hidden.value.filter((g) => g !== grade) : [...hidden.value, grade]
}
const copied = ref('')
async function copy() {
  await note()
  await copyText(location.href)
  copied.value = change.value?.id ?? ''
}
</script>

<template>
  <div v-if="error || noLeft || noRight || noVersion" class="inner"><FaultLine :text="error || noLeft || noRight || noVersion" /></div>
  <template v-if="c">
    <div class="head">
      <div>
        <h1>{{ c.new.title }}, from {{ c.old.version }} to {{ c.new.version }}</h1>
        <p>{{ sentence(c.verdict ?? '') }}. <span class="soft">Read {{ c.reading }}, undeclared input {{ c.undeclared }}.</span></p>
      </div>
      <div class="do"><NButton @click="router.push(`/apis/${name}/guide/${old}..${now}`)">Guide</NButton></div>
    </div>
    <div class="tools">
      <label>What it does to <select v-model="direction" @change="note"><option value="backward">those who stay behind</option><option value="forward">those who moved, after a rollback</option></select></label><HelpLink to="comparing#two-directions" about="the two directions" />
      <label>grouped <select v-model="grouping" @change="note"><option value="none">by nothing</option><option value="operation">by operation</option><option value="component">by component</option></select></label>
      <span role="group" aria-label="Show grades" class="grades">
        <NCheckbox v-for="g in grades.filter((g) => counts[g])" :key="g" :checked="!hidden.includes(g)" @update:checked="show(g, $event)"><GradeMark :grade="g" :n="counts[g]" /></NCheckbox>
      </span>
    </div>
    <div class="wrap">
      <div class="list">
        <template v-for="g in groups" :key="g.title">
          <h2 v-if="g.title" class="group">{{ g.title }}</h2>
          <ChangeList :changes="g.changes" :chosen="change?.id" :removed="c?.removed" :grade-of="gradeOf" @choose="choose" />
        </template>
      </div>
      <section v-if="change" class="spread" :data-change="change.id">
        <div class="why">
          <h2>{{ change.title }}</h2>
          <p>
            <GradeMark :grade="gradeOf(change)" /> <template v-if="change.why">{{ change.why }}</template><template v-if="change.undecided"> (undecided)</template>
            <span class="soft"><br /><template v-if="change.at">{{ change.at }} · </template><code>{{ change.kind }}</code> · <template v-if="direction === 'backward'">a rollback: {{ change.forward }}</template><template v-else>those who stay behind: {{ change.backward }}</template></span>
          </p>
          <p v-if="direction === 'backward' && change.backward !== 'editorial' && impact"><Touched :impact="impact" :change="change.id" :name="name" /></p>
          <p v-if="waiver"><GradeMark grade="hazard" text="let through" /> {{ waiver.reason }} <span class="soft">{{ waiver.madeBy }}, {{ day(waiver.madeAt) }}</span></p>
          <details v-if="change.reach.length > 3" class="soft"><summary>reaches {{ reach.slice(0, 3).join(', ') }} and {{ reach.length - 3 }} more</summary>{{ reach.slice(3).join(', ') }}</details>
          <p v-else-if="reach.length" class="soft">reaches {{ reach.join(', ') }}</p>
          <p class="turns"><button type="button" data-whole :aria-pressed="whole" @click="turn">{{ whole ? 'Only this change' : 'The whole file' }}</button><button type="button" @click="copy">{{ copied === change.id ? 'Copied' : 'Copy a link to this change' }}</button><button type="button" @click="go(-1)">Previous</button><button type="button" @click="go(1)">Next</button></p>
        </div>
        <Pages :left="left ?? []" :right="right ?? []" :versions="[c.old.version, c.new.version]" :change="change" :changes="shown" :grade-of="gradeOf" :whole="whole" @choose="choose" />
        <div class="two">
          <div v-if="witnesses.length">
            <template v-for="w in witnesses" :key="w!.direction">
              <h3>{{ w!.direction === 'backward' ? 'A message that shows it' : 'And on the way back' }}</h3>
              <div class="soft small">{{ w!.written || w!.operation }}, {{ w!.position }}: {{ w!.refuser }} refuses</div>
              <pre class="slip" tabindex="0">{{ JSON.stringify(w!.value, null, 2) }}</pre>
            </template>
          </div>
          <div v-if="change.advice.length">
            <h3>Ways out</h3>
            <ul><li v-for="a in change.advice" :key="a">{{ a }}</li></ul>
            <details v-if="change.backward === 'breaking' && c.waysOut" class="soft"><summary>All ways, in the order to weigh them</summary><ol><li v-for="w in c.waysOut" :key="w">{{ w }}</li></ol></details>
          </div>
        </div>
      </section>
      <section v-else class="spread"><div class="why"><p>{{ c.changes.length ? 'No change of these grades.' : 'Nothing changed.' }}</p></div></section>
    </div>
  </template>
</template>

<style scoped>
.tools { display: flex; flex-wrap: wrap; gap: 6px 22px; align-items: center; padding: 7px 32px; border-bottom: 1px solid var(--rule-strong); font-size: 14px; color: var(--ink-soft); }
.tools select { font: inherit; color: var(--ink); background: var(--sheet); border: 1px solid var(--rule-strong); padding: 1px 4px; max-width: 100%; }
.grades { display: flex; flex-wrap: wrap; gap: 4px 14px; margin-left: auto; }
.wrap { display: grid; grid-template-columns: 300px minmax(0, 1fr); min-height: calc(100vh - 200px); }
.list { border-right: 1px solid var(--rule-strong); max-height: calc(100vh - 40px); overflow-y: auto; position: sticky; top: 0; align-self: start; }
.group { font-size: 14px; line-height: 22px; padding: 10px 16px 4px; border-bottom: 1px solid var(--rule); overflow-wrap: anywhere; }
.spread { background: var(--sheet); padding-bottom: 30px; min-width: 0; }
.why { padding: 14px 30px 4px; }
.why h2 { font-size: 20px; }
.why p, .why details { margin: 4px 0 0; font-size: 14.5px; line-height: 24px; }
.why .turns { display: flex; flex-wrap: wrap; gap: 2px 18px; margin-top: 8px; }
.turns button { all: unset; cursor: pointer; color: var(--link); text-decoration: underline; text-underline-offset: 3px; font-size: 14px; }
.turns button:focus-visible { outline: 2px solid var(--link); outline-offset: 2px; }
.two { display: grid; grid-template-columns: minmax(0, 1fr) minmax(0, 1fr); gap: 24px; padding: 4px 30px; }
.two ul { margin: 2px 0; padding-left: 18px; font-size: 14.5px; line-height: 24px; }
.small { font-size: 13px; line-height: 20px; }
@media (max-width: 800px) { .tools { padding: 7px 16px; } .grades { margin-left: 0; } .wrap, .two { grid-template-columns: minmax(0, 1fr); } .list { border-right: 0; border-bottom: 1px solid var(--rule-strong); max-height: 42vh; position: static; } .why { padding: 12px 16px; } .two { margin: 8px 16px; padding: 0; } }
</style>
