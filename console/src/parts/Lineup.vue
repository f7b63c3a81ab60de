<script setup lang="ts">
// Which version can replace which, as a picture: a row is a version that clients were built for, a column the version that answers
// them. Above the diagonal is the way forward, below it the way back.
import { useRouter } from 'vue-router'
import type { Lineup, LineupClient } from '../data/types'
import { marks } from '../data/words'

const props = defineProps<{ name: string; lineup: Lineup; clients: LineupClient[] }>()
const router = useRouter()

const words = { breaking: 'fail', hazard: 'go on, with hazards', safe: 'go on', editorial: 'go on' }

function say(i: number, j: number) {
  const [from, to] = [props.lineup.versions[i].version, props.lineup.versions[j].version]
  return `clients of ${from} ${words[props.lineup.cells[i][j].grade]} when ${to} answers`
}

// The spread of two versions reads from the older to the newer one.
function open(i: number, j: number) {
  const at = (k: number) => props.lineup.versions[k].version
  void router.push(`/apis/${props.name}/compare/${at(Math.min(i, j))}..${at(Math.max(i, j))}`)
}
</script>

<template>
  <div class="scroll">
    <table>
      <thead>
        <tr><td></td><th :colspan="lineup.versions.length" class="axis">answered by</th></tr>
        <tr><th class="axis">clients of</th><th v-for="v in lineup.versions" :key="v.name" scope="col">{{ v.version }}</th></tr>
      </thead>
      <tbody>
        <tr v-for="(v, i) in lineup.versions" :key="v.name">
          <th scope="row">{{ v.version }}</th>
          <td v-for="(w, j) in lineup.versions" :key="w.name">
            <span v-if="i === j" class="self" aria-hidden="true"></span>
            <button v-else type="button" :class="[lineup.cells[i][j].grade, { back: j < i }]" :title="say(i, j)" :aria-label="say(i, j)" @click="open(i, j)">{{ marks[lineup.cells[i][j].grade] }}</button>
          </td>
        </tr>
        <tr v-if="clients.length"><th class="axis">recorded by</th></tr>
        <tr v-for="c in clients" :key="c.consumer" :data-client="c.consumer">
          <th scope="row"><RouterLink :to="`/consumers/${c.consumer}/replay/${name}`">{{ c.consumer }}</RouterLink></th>
          <td v-for="(p, j) in c.cells" :key="j"><span v-if="p.passed < 0" class="cell" title="nobody looked yet; look again">…</span><span v-else class="cell" :class="p.passed < c.exchanges ? 'breaking' : 'safe'" :title="`${lineup.versions[j].version} answers ${p.passed} of ${c.exchanges} recorded exchanges`">{{ p.passed }} of {{ c.exchanges }}</span></td>
        </tr>
      </tbody>
    </table>
    <p class="soft">
      <b class="ink-safe">✓ ·</b> clients go on &ensp; <b class="ink-hazard">!</b> go on, with hazards &ensp; <b class="ink-breaking">✕</b> fail<br />
      above the diagonal a newer version answers; below it, hatched, an older one: a rollback
    </p>
  </div>
</template>

<style scoped>
.scroll { overflow-x: auto; display: flex; flex-wrap: wrap; gap: 12px 36px; align-items: center; }
table { border-collapse: separate; border-spacing: 3px; }
th { font: 600 13px var(--mono); padding: 2px 8px; text-align: center; white-space: nowrap; }
tbody th { text-align: right; }
.axis { font: italic 13px var(--serif); color: var(--ink-soft); }
thead .axis:first-child { text-align: right; }
td { padding: 0; }
button, .self { all: unset; box-sizing: border-box; display: block; width: 62px; height: 34px; text-align: center; font: 700 16px/34px var(--sans); border-radius: 2px; }
.cell { display: block; width: 62px; height: 34px; text-align: center; font: 600 13px/34px var(--sans); border-radius: 2px; }
button { cursor: pointer; }
button:hover { box-shadow: inset 0 0 0 1px currentColor; }
button:focus-visible { outline: 2px solid var(--link); outline-offset: 1px; }
.self { background: linear-gradient(to top right, transparent calc(50% - 1px), var(--rule-strong) 50%, transparent calc(50% + 1px)); }
.breaking { color: var(--breaking); background-color: var(--breaking-wash); } .hazard { color: var(--hazard); background-color: var(--hazard-wash); }
.safe { color: var(--safe); background-color: var(--safe-wash); } .editorial { color: var(--editorial); background-color: var(--editorial-wash); }
.back { background-image: repeating-linear-gradient(135deg, transparent 0 6px, color-mix(in srgb, currentColor 12%, transparent) 6px 7px); }
p { margin: 0; font-size: 13.5px; line-height: 24px; }
.ink-breaking { color: var(--breaking); } .ink-hazard { color: var(--hazard); } .ink-safe { color: var(--safe); }
</style>
