<script setup lang="ts">
// How callers choose the version of an API, and what of that does not go together.
import { NInput } from 'naive-ui'
import { watch } from 'vue'
import { ledger } from '../data/ledger'
import { useLoading } from '../data/loading'
import FaultLine from './FaultLine.vue'
import HelpLink from './HelpLink.vue'

const props = defineProps<{ name: string; kept: string; may: boolean }>()
const scheme = defineModel<string>('scheme', { required: true })
const undeclared = defineModel<string>('undeclared', { required: true })
const { value: calling, error, again } = useLoading(() => ledger.calling(props.name))
watch(() => props.kept, again)
</script>

<template>
  <fieldset id="calling">
    <legend>How it is called <HelpLink to="ledger#how-an-api-is-called" about="how callers choose a version" /></legend>
    <p v-if="!may">{{ scheme ? `Callers choose the version by ${scheme}` : 'Nobody said how callers choose the version' }}; {{ undeclared ? `input that is not declared is ${undeclared}` : 'nobody knows what is done with input that is not declared' }}.</p>
    <label v-if="may">Callers choose the version by<NInput v-model:value="scheme" :input-props="{ id: 'scheme', maxlength: 300, spellcheck: false }" placeholder="path /v{line}" /></label>
    <label v-if="may">Input that is not declared is <select id="undeclared" v-model="undeclared"><option value="">nobody knows what</option><option value="ignored">ignored</option><option value="refused">refused</option></select></label>
    <FaultLine :text="error" />
    <ul v-if="calling?.versions.some((v) => v.says)" class="said">
      <li v-for="v in calling.versions" :key="v.ref"><b>{{ v.ref }}</b> {{ v.says }}<template v-if="v.usual">, or by saying nothing</template>
        <div v-for="f in v.faults" :key="f.pointer + f.text" class="odd" data-fault>{{ f.text }} <span class="soft">{{ f.file }}:{{ f.line }}<template v-if="f.more"> and {{ f.more }} more</template></span></div>
        <div v-for="o in v.clashes" :key="o.api + o.number" class="odd" data-clash>A call of {{ o.own }} is one of {{ o.api }}@{{ o.number }}, too: <code>{{ o.host }}{{ o.otherPath }}</code><template v-if="o.more"> and {{ o.more }} more</template></div>
      </li>
    </ul>
  </fieldset>
</template>

<style scoped>
fieldset { border: 1px solid var(--rule); margin: 14px 0; padding: 6px 16px 12px; } legend { font: 600 15px var(--serif); padding: 0 6px; }
label { display: block; margin: 6px 0; } select { font: inherit; color: var(--ink); background: var(--sheet); border: 1px solid var(--rule-strong); padding: 2px 6px; }
.said { list-style: none; padding: 0; margin: 10px 0 0; } .odd { color: var(--breaking); padding-left: 14px; overflow-wrap: anywhere; }
</style>
