<script setup lang="ts">
// How the reference of an API looks.
import { NButton, NCheckbox, NDynamicTags, NInput, NSelect } from 'naive-ui'
import { computed, ref } from 'vue'
import { useAct } from '../data/act'
import { faultOf } from '../data/fault'
import { ledger } from '../data/ledger'
import type { Looks } from '../data/types'
import { useUnsaved } from '../data/unsaved'
import FaultLine from '../parts/FaultLine.vue'
import HelpLink from '../parts/HelpLink.vue'
import Shots from '../parts/Shots.vue'

const props = defineProps<{ name: string }>()
const looks = ref<Looks>()
const error = ref('')
const kept = ref(false)
const house = computed(() => props.name === '_')
const asWas = ref('')
useUnsaved(() => !!looks.value && JSON.stringify(looks.value) !== asWas.value)
const { busy, fault, run } = useAct()
ledger.looks(props.name).then(
  (l) => { looks.value = { accent: '', font: '', landing: '', footer: '', logo: '', languages: [], parents: [], ...l }; asWas.value = JSON.stringify(looks.value) },
  (e) => { error.value = faultOf(e) },
)

const fonts = [
  { label: 'Literata and Plex, as the ledger is', value: '' },
  { label: 'Plex throughout', value: 'plex' },
  { label: "What the reader's system has", value: 'system' },
]
const languages = [
  ['curl', 'curl'], ['javascript', 'JavaScript with fetch'], ['javascript-axios', 'JavaScript with axios'], ['python', 'Python with requests'],
  ['python-httpx', 'Python with httpx'], ['go', 'Go'], ['java', 'Java with java.net.http'], ['java-okhttp', 'Java with OkHttp'], ['csharp', 'C#'],
].map(([value, label]) => ({ value, label }))
const template = (id: string) => looks.value?.languages?.find((l) => l.id === id)?.template
type LanguageId = NonNullable<Looks['languages']>[number]['id']
const choose = (ids: LanguageId[]) => { looks.value!.languages = ids.map((id) => ({ id, template: template(id) })) }

function picture(e: Event) {
  const file = (e.target as HTMLInputElement).files?.[0]
  if (!file) return
  const reader = new FileReader()
  reader.onload = () => { looks.value!.logo = reader.result as string }
  reader.readAsDataURL(file)
}

const keep = () =>
  run(async () => {
    kept.value = false
    const { madeBy, madeAt, ...asked } = looks.value!
    looks.value = { ...looks.value, ...(await ledger.putLooks(props.name, { ...asked, accentDark: '' })) }
    asWas.value = JSON.stringify(looks.value)
    kept.value = true
  })
</script>

<template>
  <div class="head">
    <div><h1><template v-if="house">How the shelf looks, and what has no looks of its own</template><template v-else>How the reference of {{ name }} looks</template></h1><p v-if="looks?.madeBy">As {{ looks.madeBy }} left it.</p></div>
    <div class="do"><RouterLink v-if="!house" to="/apis/_/looks">Those of the house</RouterLink><a :href="house ? '/reference/' : `/reference/${name}/`" target="_blank">Read it</a></div>
  </div>
  <div class="inner">
    <FaultLine :text="error" />
    <form v-if="looks" class="looks" @submit.prevent="keep">
      <label>Accent, for links and the margin's line<span class="accent"><input v-model="looks.accent" type="text" pattern="#[0-9a-fA-F]{6}" placeholder="#2b4a7e" id="accent" /><span class="swatch" :style="{ background: looks.accent || 'var(--link)' }"></span></span></label>
      <div class="one">Font <HelpLink to="reference#how-it-looks" about="looks" /><NSelect :value="looks.font ?? ''" :options="fonts" @update:value="looks.font = $event" /></div>
      <label>Logo, a PNG or SVG picture of at most 64 kB<br /><input type="file" accept="image/png,image/svg+xml" @change="picture" /></label>
      <p v-if="looks.logo" class="logo"><img :src="looks.logo" alt="the logo" height="28" /> <NButton text @click="looks.logo = ''">without it</NButton></p>
      <label>{{ house ? 'What greets on the shelf' : 'What greets on its first page' }}, in Markdown: what it is for, how to begin, whom to ask<NInput v-model:value="looks.landing" type="textarea" :autosize="{ minRows: 3 }" :input-props="{ id: 'landing' }" placeholder="" /></label>
      <label>Below every page, in Markdown<NInput v-model:value="looks.footer" type="textarea" :autosize="{ minRows: 2 }" :input-props="{ id: 'footer' }" placeholder="" /></label>
      <div class="one">Samples in these languages, in this order<NSelect multiple :value="looks.languages?.map((l) => l.id) ?? []" :options="languages" placeholder="all of them" @update:value="choose" /></div>
      <label v-for="l in looks.languages" :key="l.id">Template for {{ l.id }}<NInput v-model:value="l.template" type="textarea" :autosize="{ minRows: 1 }" placeholder="as it is: {{.Code}}" /></label>
      <div class="one">Sites whose pages may hold pages of the reference<NDynamicTags v-model:value="looks.parents"><template #trigger="{ activate }"><NButton size="small" dashed @click="activate()">Add a site</NButton></template></NDynamicTags></div>
      <div class="one"><NCheckbox v-model:checked="looks.unlisted">Ask search engines to stay away</NCheckbox></div>
      <FaultLine :text="fault" />
      <p v-if="kept" role="status">Kept; readers see it.</p>
      <NButton type="primary" attr-type="submit" :loading="busy">Keep</NButton>
    </form>
    <Shots v-if="looks" :name="name" />
  </div>
</template>

<style scoped>
.looks { margin-bottom: 34px; }
.looks { max-width: 620px; }
.looks label, .one { display: block; margin: 0 0 14px; color: var(--ink-soft); font-size: 14px; }
.looks input { font: inherit; color: inherit; }
.accent { display: flex; gap: 8px; align-items: center; }
.accent input { font: 14px/22px var(--mono); padding: 4px 8px; border: 1px solid var(--rule-strong); background: var(--sheet); width: 120px; }
.swatch { display: inline-block; width: 46px; height: 28px; border: 1px solid var(--rule-strong); }
.logo { display: flex; gap: 12px; align-items: center; }
</style>
