<script setup lang="ts">
// How the reference of a version reads: descriptions, examples, groups, order, what is hidden. The description itself is never touched.
import { NAutoComplete, NButton, NCheckbox, NInput, NSelect } from 'naive-ui'
import { computed, onUnmounted, ref, watch } from 'vue'
import { useAct } from '../data/act'
import { faultOf } from '../data/fault'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import { edit, emptyOverlay, operationsOf, textsOf, type OverlayDocument } from '../data/overlay'
import type { Json } from '../data/json'
import type { Overlay } from '../data/types'
import { useUnsaved } from '../data/unsaved'
import { day } from '../data/words'
import FaultLine from '../parts/FaultLine.vue'
import HelpLink from '../parts/HelpLink.vue'

const props = defineProps<{ name: string; number: string }>()
const reference = computed(() => `${props.name}@${props.number}`)

const overlay = ref<Overlay>()
const document = ref<OverlayDocument>()
const worded = ref<Record<string, Json>>({})
const showing = ref('')
const loads = ref(0)
const error = ref('')
const { busy, fault, run } = useAct()

async function load() {
  const [o, w] = await Promise.all([ledger.overlay(reference.value), ledger.wording(reference.value)])
  overlay.value = o
  document.value = o.document ? structuredClone(o.document as unknown as OverlayDocument) : emptyOverlay(reference.value)
  worded.value = w.worded
  loads.value++
}
load().catch((e) => { error.value = faultOf(e) })

// A preview is an act of its own: it makes an address that holds for a while, and the journal says so.
const preview = () => run(async () => { showing.value = (await ledger.show(reference.value)).path ?? ''; again() })
const { value: previews, again } = useLoading(() => ledger.previews(reference.value))
const withdraw = (id: string) => run(async () => { await ledger.withdraw(reference.value, id); again() })

const operations = computed(() => operationsOf(worded.value))
const texts = computed(() => textsOf(worded.value))
const groups = computed(() => [...new Set(operations.value.map((o) => o.group))])
const options = computed(() => [
  { type: 'group', label: 'Operations', key: 'operations', children: operations.value.map((o) => ({ label: (o.summary || o.key) + (o.hidden ? ' (hidden)' : ''), value: o.target })) },
  { type: 'group', label: 'Everything else', key: 'texts', children: texts.value.map((t) => ({ label: t.label, value: t.target })) },
])
const chosen = ref<string | null>(null)
const operation = computed(() => operations.value.find((o) => o.target === chosen.value))
const other = computed(() => texts.value.find((t) => t.target === chosen.value))

// What stands in the form, until it is kept.
const summary = ref('')
const description = ref('')
const group = ref('')
const order = ref('0')
const hidden = ref(false)
const examples = ref<string[]>([])
watch([operation, other], () => {
  summary.value = operation.value?.summary ?? ''
  description.value = (operation.value ?? other.value)?.description ?? ''
  group.value = operation.value?.group ?? ''
  order.value = String(operation.value?.order ?? 0)
  hidden.value = operation.value?.hidden ?? false
  examples.value = operation.value?.examples.map((e) => e.example) ?? []
})

const page = computed(() => {
  if (!showing.value) return ''
  return showing.value + (operation.value && !operation.value.hidden && operation.value.slug ? 'operations/' + encodeURIComponent(operation.value.slug) : '')
})

// The actions for what was changed in the form.
const edited = () =>
  edit(document.value!.actions, operation.value, other.value, {
    summary: summary.value, description: description.value, group: group.value, order: Number(order.value), hidden: hidden.value, examples: examples.value,
  })

// What stands in the form and is not kept is asked about, and stands in the preview while one types: only the sheet is put in, so that the
// page stays where it is.
const touched = computed(() => {
  const of = operation.value ?? other.value
  if (!of) return false
  if (description.value !== of.description) return true
  const op = operation.value
  return !!op && (summary.value !== op.summary || group.value !== op.group || Number(order.value) !== op.order || hidden.value !== op.hidden || op.examples.some((e, i) => examples.value[i] !== e.example))
})
useUnsaved(() => touched.value)
const frame = ref<HTMLIFrameElement>()
const sketchFault = ref('')
let timer: ReturnType<typeof setTimeout> | undefined
let sketches = 0
let drawn = '' // the page that shows what is not kept
async function sketch() {
  const mine = ++sketches
  const at = page.value
  if (!at || (!touched.value && drawn !== at)) return
  try {
    const html = await ledger.sketch(at, touched.value ? { ...document.value!, actions: edited() } : null)
    const sheet = new DOMParser().parseFromString(html, 'text/html').querySelector('main')
    const shown = frame.value?.contentDocument?.querySelector('main')
    if (mine !== sketches || at !== page.value || !sheet || !shown) return
    shown.replaceChildren(...sheet.childNodes)
    drawn = touched.value ? at : ''
    sketchFault.value = ''
  } catch (e) {
    if (mine === sketches) sketchFault.value = faultOf(e)
  }
}
watch([summary, description, group, order, hidden, examples], () => {
  clearTimeout(timer)
  timer = setTimeout(() => void sketch(), 250)
}, { deep: true })
onUnmounted(() => clearTimeout(timer))

const keep = () =>
  run(async () => {
    const actions = edited()
    if (actions.length === 0) throw new Error('Nothing was changed.')
    await ledger.putOverlay(reference.value, { ...document.value!, actions }, overlay.value!.digest)
    await load()
  })
const show = () => run(async () => { await ledger.showOverlay(reference.value); await load() })
const drop = () => run(async () => { await ledger.dropOverlay(reference.value); await load() })
const without = (i: number) =>
  run(async () => {
    const actions = document.value!.actions.filter((_, at) => at !== i)
    if (actions.length > 0) await ledger.putOverlay(reference.value, { ...document.value!, actions }, overlay.value!.digest)
    else await ledger.dropOverlay(reference.value)
    await load()
  })
</script>

<template>
  <div class="head">
    <div>
      <h1>How {{ reference }} reads</h1>
      <p v-if="overlay?.state === 'draft'">A draft by {{ overlay.madeBy }}, {{ day(overlay.madeAt!) }}. Readers do not see it yet.</p>
      <p v-else-if="overlay?.state === 'shown'">Readers see this, by {{ overlay.madeBy }}, {{ day(overlay.madeAt!) }}.</p>
      <p v-else-if="overlay?.from">Carried over from {{ overlay.from }}; what you keep here belongs to {{ reference }}.</p>
      <p v-else>As its description has it.</p>
    </div>
    <div class="do">
      <a v-if="showing" :href="showing" target="_blank">Preview for others</a>
      <NButton v-else :disabled="busy" data-preview @click="preview">Show a preview</NButton>
      <NButton v-if="overlay?.state === 'draft'" :disabled="busy" @click="drop">Drop the draft</NButton>
      <NButton v-if="overlay?.state === 'draft'" type="primary" :loading="busy" @click="show">Show it to readers</NButton>
    </div>
  </div>
  <div v-if="error" class="inner"><FaultLine :text="error" /></div>
  <div v-if="overlay" class="desk">
    <section class="form" aria-label="Wording">
      <div class="field">What to word <HelpLink to="reference#how-it-reads-overlays" about="wording" /><NSelect v-model:value="chosen" filterable :options="options as any" :input-props="{ id: 'chosen', 'aria-label': 'What to word' }" placeholder="An operation, a group, a schema or a field" /></div>
      <template v-if="operation">
        <p class="soft"><code>{{ operation.key }}</code></p>
        <label class="field">Title<NInput v-model:value="summary" :input-props="{ id: 'summary' }" placeholder="" /></label>
      </template>
      <label v-if="operation || other" class="field">Description, in Markdown<NInput v-model:value="description" type="textarea" :autosize="{ minRows: 4, maxRows: 14 }" :input-props="{ id: 'description' }" placeholder="" /></label>
      <template v-if="operation">
        <div class="pair">
          <label class="field">Group<NAutoComplete v-model:value="group" :options="groups" :input-props="{ id: 'group' }" placeholder="" /></label>
          <label class="field narrow">Order<NInput v-model:value="order" :input-props="{ id: 'order', inputmode: 'numeric' }" placeholder="" /></label>
        </div>
        <NCheckbox v-model:checked="hidden">Hide it from readers</NCheckbox>
        <label v-for="(e, i) in operation.examples" :key="e.target" class="field">Example: {{ e.label }}<NInput v-model:value="examples[i]" type="textarea" :autosize="{ minRows: 2, maxRows: 12 }" :input-props="{ id: `example-${i}`, class: 'mono' }" placeholder="" /></label>
      </template>
      <p v-if="sketchFault" class="soft" role="status">The preview does not show it yet: {{ sketchFault }}</p>
      <FaultLine :text="fault" />
      <NButton v-if="operation || other" type="primary" :loading="busy" @click="keep">Keep as a draft</NButton>

      <template v-if="document && document.actions.length">
        <h2>What was worded</h2>
        <ul class="actions">
          <li v-for="(a, i) in document.actions" :key="i" :class="{ lost: overlay.outcomes[i]?.matched === 0 }">
            <code>{{ a.target }}</code>
            <span class="soft">{{ a.remove ? 'taken out' : Object.keys((a.update as object) ?? {}).join(', ') }}</span>
            <b v-if="overlay.outcomes[i]?.matched === 0">finds nothing here any more</b>
            <NButton text :disabled="busy" @click="without(i)">undo</NButton>
          </li>
        </ul>
      </template>
      <template v-if="previews?.length">
        <h2>Previews that others may read</h2>
        <ul class="actions">
          <li v-for="p in previews" :key="p.id"><span>by {{ p.madeBy }}, {{ day(p.madeAt) }}, until {{ day(p.expiresAt) }}</span> <button type="button" class="link" :data-withdraw="p.id" :disabled="busy" @click="withdraw(p.id)">withdraw</button></li>
        </ul>
      </template>
    </section>
    <iframe v-if="page" ref="frame" :key="loads" :src="page" @load="sketch" title="Preview of the reference" class="preview"></iframe>
  </div>
</template>

<style scoped>
.desk { display: grid; grid-template-columns: minmax(0, 430px) minmax(0, 1fr); gap: 0; border-top: 1px solid var(--rule); }
.form { padding: 14px 24px 40px 32px; }
.field { display: block; margin: 0 0 12px; font-size: 14px; color: var(--ink-soft); }
.pair { display: grid; grid-template-columns: minmax(0, 1fr) 90px; gap: 12px; }
.preview { width: 100%; height: calc(100vh - 150px); min-height: 560px; border: 0; border-left: 1px solid var(--rule); background: var(--paper); }
.actions { list-style: none; margin: 6px 0 0; padding: 0; font-size: 13.5px; }
.actions li { border-top: 1px solid var(--rule); padding: 5px 0; display: flex; flex-wrap: wrap; gap: 2px 10px; }
.actions code { overflow-wrap: anywhere; }
.lost b { color: var(--hazard); font: 600 13px/21px var(--serif); }
@media (max-width: 900px) { .desk { grid-template-columns: minmax(0, 1fr); } .form { padding: 14px 16px; } }
</style>
