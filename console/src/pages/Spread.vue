<script setup lang="ts">
// A comparison as a spread: the old page left, the new page right, the grade in the gutter.
import { NButton, NCheckbox } from 'naive-ui'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import type { Grade } from '../data/types'
import { grades, marks, sentence } from '../data/words'
import ChangeList from '../parts/ChangeList.vue'
import Excerpt from '../parts/Excerpt.vue'
import FaultLine from '../parts/FaultLine.vue'
import GradeMark from '../parts/GradeMark.vue'

const props = defineProps<{ name: string; old: string; now: string }>()
const route = useRoute()
const router = useRouter()
const { value: c, error } = useLoading(() => ledger.compare(`${props.name}@${props.old}`, `${props.name}@${props.now}`))
const { value: left } = useLoading(() => ledger.files(`${props.name}@${props.old}`))
const { value: right } = useLoading(() => ledger.files(`${props.name}@${props.now}`))

const hidden = ref<Grade[]>([])
const chosen = ref(String(route.query.change ?? ''))
const shown = computed(() => (c.value?.changes ?? []).filter((ch) => !hidden.value.includes(ch.backward)))
const change = computed(() => shown.value.find((ch) => ch.id === chosen.value) ?? shown.value[0])
const reach = computed(() => (change.value?.reach ?? []).map((op) => c.value?.paths?.[op] ?? op))
const witnesses = computed(() => (change.value?.witnesses ?? [change.value?.witness]).filter((w) => w?.value !== undefined))

// The address names the chosen change, so that it can be passed on.
function choose(id: string) {
  chosen.value = id
  void router.replace({ query: { change: id } })
}

function show(grade: Grade, on: boolean) {
  hidden.value = on ? hidden.value.filter((g) => g !== grade) : [...hidden.value, grade]
}
</script>

<template>
  <div v-if="error" class="inner"><FaultLine :text="error" /></div>
  <template v-if="c">
    <div class="head">
      <div>
        <h1>{{ c.new.title }}, from {{ c.old.version }} to {{ c.new.version }}</h1>
        <p>{{ sentence(c.verdict ?? '') }}. <span class="soft">Read {{ c.reading }}, undeclared input {{ c.undeclared }}.</span></p>
      </div>
      <div class="do" role="group" aria-label="Show grades">
        <NCheckbox v-for="g in grades.filter((g) => c!.counts[g])" :key="g" :checked="!hidden.includes(g)" @update:checked="show(g, $event)"><GradeMark :grade="g" :n="c.counts[g]" /></NCheckbox>
        <NButton @click="router.push(`/apis/${name}/guide/${old}..${now}`)">Guide</NButton>
      </div>
    </div>
    <div class="wrap">
      <ChangeList :changes="shown" :chosen="change?.id" :removed="c?.removed" @choose="choose" />
      <section v-if="change" class="spread" :data-change="change.id">
        <div class="why">
          <h2>{{ change.title }}</h2>
          <p>
            <GradeMark :grade="change.backward" /> <template v-if="change.why">{{ change.why }}</template><template v-if="change.undecided"> (undecided)</template>
            <span class="soft"><br />{{ change.at }} · <code>{{ change.kind }}</code> · a rollback: {{ change.forward }}</span>
          </p>
          <details v-if="change.reach.length > 3" class="soft"><summary>reaches {{ reach.slice(0, 3).join(', ') }} and {{ reach.length - 3 }} more</summary>{{ reach.slice(3).join(', ') }}</details>
          <p v-else-if="reach.length" class="soft">reaches {{ reach.join(', ') }}</p>
        </div>
        <div class="pages">
          <Excerpt :files="left ?? []" :place="change.old" :version="c.old.version" side="old" :touched="change.backward !== 'safe' || !change.new" />
          <div class="gut" :class="'ink-' + change.backward">{{ marks[change.backward] }}</div>
          <Excerpt :files="right ?? []" :place="change.new" :version="c.new.version" side="new" :touched="true" />
        </div>
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
.wrap { display: grid; grid-template-columns: 300px minmax(0, 1fr); min-height: calc(100vh - 160px); }
.wrap > ol { border-right: 1px solid var(--rule-strong); max-height: calc(100vh - 150px); overflow-y: auto; }
.spread { background: var(--sheet); padding-bottom: 30px; min-width: 0; }
.why { padding: 14px 30px 8px; }
.why h2 { font-size: 20px; }
.why p, .why details { margin: 4px 0 0; font-size: 14.5px; line-height: 24px; }
.pages { display: grid; grid-template-columns: minmax(0, 1fr) 54px minmax(0, 1fr); margin: 10px 30px; border: 1px solid var(--rule-strong); }
.gut { border-left: 1px solid var(--rule); border-right: 1px solid var(--rule); text-align: center; padding-top: 78px; font: 700 20px var(--sans); }
.two { display: grid; grid-template-columns: minmax(0, 1fr) minmax(0, 1fr); gap: 24px; padding: 4px 30px; }
.two ul { margin: 2px 0; padding-left: 18px; font-size: 14.5px; line-height: 24px; }
.small { font-size: 13px; line-height: 20px; }
.ink-breaking { color: var(--breaking); } .ink-hazard { color: var(--hazard); } .ink-safe { color: var(--safe); } .ink-editorial { color: var(--editorial); }
@media (max-width: 800px) { .wrap, .pages, .two { grid-template-columns: minmax(0, 1fr); } .wrap > ol { border-right: 0; max-height: none; } .gut { padding: 4px; } .why { padding: 12px 16px; } .pages, .two { margin: 8px 16px; padding: 0; } }
</style>
