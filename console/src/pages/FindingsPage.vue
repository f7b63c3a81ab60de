<script setup lang="ts">
// What is wrong with a version and what does not follow the house style, in the margin of its text.
import { NButton, NCheckbox } from 'naive-ui'
import { computed, ref } from 'vue'
import { useAct } from '../data/act'
import { score, sheets, weights } from '../data/findings'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import { useMay } from '../data/may'
import type { Finding } from '../data/types'
import FaultLine from '../parts/FaultLine.vue'
import GradeMark from '../parts/GradeMark.vue'
import HelpLink from '../parts/HelpLink.vue'

const props = defineProps<{ name: string; number: string }>()
const may = useMay(() => props.name)
const reference = computed(() => `${props.name}@${props.number}`)
const { value: found, error, again } = useLoading(() => ledger.findings(reference.value))
const { value: files, again: reread } = useLoading(() => ledger.files(reference.value))
const { value: api, again: renew } = useLoading(() => ledger.api(props.name))
const version = computed(() => api.value?.versions.find((v) => v.number === props.number))
const mendable = computed(() => version.value?.state === 'draft' && may.value('record'))

// The score of each version, the oldest first, so that one sees which way it goes.
const most = 8
const { value: scores, error: unscored } = useLoading(async () => {
  const versions = (await ledger.api(props.name)).versions.filter((v) => v.state !== 'retired').slice(-most)
  return Promise.all(versions.map(async (v) => ({ number: v.number, ...(await ledger.findings(`${props.name}@${v.number}`)) })))
})

const looks = { error: 'breaking', warning: 'hazard', hint: 'editorial' } as const
const fresh = ref(false)
const hidden = ref<string[]>([])
const whole = ref(false)
const turn = (severity: string, on: boolean) => (hidden.value = on ? hidden.value.filter((s) => s !== severity) : [...hidden.value, severity])
const counts = computed(() => ({ error: found.value?.errors ?? 0, warning: found.value?.warnings ?? 0, hint: found.value?.hints ?? 0 }))
const shown = computed(() => (found.value?.items ?? []).filter((f) => !hidden.value.includes(f.severity) && (!fresh.value || f.new)))
const pages = computed(() => sheets(files.value ?? [], shown.value, whole.value ? 1e9 : 2))
const fresher = computed(() => (found.value?.items ?? []).filter((f) => f.new && !f.let).length)
const fixable = computed(() => shown.value.filter((f) => f.mends && !f.let))
// What readers tell has a page of the manual, and a rule one of its own.
const pageOf = (f: Finding) => `/rules/${f.rule}?api=${props.name}`

const { busy, fault, run } = useAct()
const mended = ref('')
const mend = (ids: string[]) =>
  run(async () => {
    const { mended: n } = await ledger.mend(reference.value, version.value!.digest, ids)
    mended.value = n === 1 ? 'One is mended, and the draft recorded anew.' : `${n} are mended, and the draft recorded anew.`
    again()
    reread()
    renew()
  })
</script>

<template>
  <div class="head">
    <div><h1>House style of {{ reference }}</h1><p><template v-if="found?.style">Judged by {{ found.style }}.</template><template v-else>Judged by the rules as they come.</template> <HelpLink to="housestyle" about="house styles" /></p></div>
    <div class="do"><RouterLink :to="`/rules?api=${name}`">Rules</RouterLink><RouterLink :to="`/apis/${name}/style`">Style of {{ name }}</RouterLink><RouterLink v-if="version?.state === 'draft'" :to="`/apis/${name}/publish/${number}`">Publish …</RouterLink></div>
  </div>
  <div class="inner findings">
    <FaultLine :text="error || fault || unscored || (found?.fault ?? '')" />
    <template v-if="found">
      <p v-if="scores && scores.length > 1" class="scores"><span class="soft">Parts about which nothing is found:</span> <RouterLink v-for="s in scores" :key="s.number" :to="`/apis/${name}/findings/${s.number}`" :class="{ here: s.number === number }" :data-score="s.number"><span>{{ s.number }}</span><b>{{ score(s.parts, s.clean) }}</b><i :style="{ height: `${s.parts ? (34 * s.clean) / s.parts : 0}px` }"></i></RouterLink></p>
      <div class="filter">
        <NCheckbox v-for="w in weights" :key="w" :checked="!hidden.includes(w)" :data-weight="w" @update:checked="turn(w, $event)"><GradeMark :grade="looks[w]" :text="`${counts[w]} ${w}${counts[w] === 1 ? '' : 's'}`" /></NCheckbox>
        <NCheckbox v-if="fresher && fresher < found.items.length" v-model:checked="fresh" data-new>only the {{ fresher }} that the published version before has not</NCheckbox>
        <NCheckbox v-if="pages.length" v-model:checked="whole">all lines</NCheckbox>
        <NButton v-if="mendable && fixable.length" size="small" :loading="busy" data-mend-all @click="mend(fixable.map((f) => f.id))">Mend {{ fixable.length === 1 ? 'the one that needs' : `the ${fixable.length} that need` }} no thought</NButton>
      </div>
      <p v-if="mended" role="status" class="soft">{{ mended }}</p>
      <p v-if="!found.items.length">Nothing is wrong, and everything follows the style.</p>
      <section v-for="p in pages" :key="p.path">
        <h2><code>{{ p.path }}</code></h2>
        <div class="sheet-text">
          <template v-for="r in p.rows" :key="r.line">
            <div v-if="r.gap" class="gap soft">⋮</div>
            <div v-else class="row" :class="{ found: r.findings.length }" :data-line="r.line">
              <span class="number">{{ r.line }}</span><code>{{ r.text || ' ' }}</code>
              <div v-if="r.findings.length" class="notes">
                <div v-for="f in r.findings" :key="f.id" class="note" :class="{ stands: f.let }" :data-rule="f.rule">
                  <GradeMark :grade="f.let ? 'safe' : looks[f.severity]" :text="f.let ? 'may stand' : f.severity" /> <span v-if="f.new && !f.let" class="fresh">new</span>
                  {{ f.text }}<template v-if="f.right && !f.let">; <span class="soft">{{ f.right }}</span></template>
                  <template v-if="f.let">: <i>{{ f.let }}</i></template>
                  <RouterLink :to="pageOf(f)" class="rule">{{ f.rule }}</RouterLink>
                  <button v-if="f.mends && !f.let && mendable" type="button" class="link" :disabled="busy" :title="f.mends" data-mend @click="mend([f.id])">Mend it: {{ f.mends }}</button>
                </div>
              </div>
            </div>
          </template>
        </div>
      </section>
    </template>
  </div>
</template>

<style scoped>
.filter { display: flex; flex-wrap: wrap; gap: 6px 20px; align-items: center; margin: 4px 0 12px; }
.scores { display: flex; flex-wrap: wrap; gap: 4px 16px; align-items: end; margin: 0 0 12px; }
.scores a { display: grid; grid-template-columns: auto 10px; column-gap: 8px; align-items: end; line-height: 17px; font-size: 13px; text-decoration: none; border-bottom: 1px solid var(--rule); } .scores a b { grid-row: 2; } .scores a i { grid-row: 1 / 3; grid-column: 2; background: var(--safe); width: 10px; } .scores a.here { border-bottom-color: var(--ink); }
.sheet-text { background: var(--sheet); border: 1px solid var(--rule); padding: 6px 0; }
.row { display: grid; grid-template-columns: 52px minmax(0, 1fr) minmax(260px, 42%); align-items: start; } .row.found { border-top: 1px solid var(--rule); border-bottom: 1px solid var(--rule); }
.row code { white-space: pre-wrap; overflow-wrap: anywhere; } .number { color: var(--ink-soft); text-align: right; padding-right: 12px; font: 12px/21px var(--mono); } .gap { padding-left: 34px; line-height: 16px; }
.notes { border-left: 1px solid var(--rule-strong); } .note { padding: 2px 12px; font-size: 14px; line-height: 21px; } .note + .note { border-top: 1px solid var(--rule); } .rule { font: 12px/20px var(--mono); margin-left: 6px; } .note button { display: block; }
.fresh { font-size: 12px; border: 1px solid var(--rule-strong); padding: 0 4px; }
@media (max-width: 800px) { .row { grid-template-columns: 40px minmax(0, 1fr); } .notes { grid-column: 2; border-left: 0; border-top: 1px dashed var(--rule); } }
</style>
