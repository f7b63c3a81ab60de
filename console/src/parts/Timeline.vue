<script setup lang="ts">
// The versions of an API on a time line, a row for each line, with what leaves. It can be drawn nearer and moved; versions that cannot be told
// apart are one mark, which opens them.
import { computed, onMounted, onUnmounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { labelOf, marksOf, moved, ticksOf, zoomed } from '../data/timeline'
import type { Api, Release, Version } from '../data/types'
import { count, day } from '../data/words'

const props = defineProps<{ api: Api; history: Release[] }>()
const router = useRouter()

const frame = ref<HTMLElement>()
const width = ref(1216)
const watcher = new ResizeObserver(([e]) => (width.value = Math.max(320, e.contentRect.width)))
onMounted(() => watcher.observe(frame.value!))
onUnmounted(() => watcher.disconnect())

const left = 64
const narrow = computed(() => width.value < 600)
const right = computed(() => (narrow.value ? 20 : 150))
const row = 96
const now = Date.now()

const stamp = (s: string) => new Date(s.length === 10 ? s + 'T00:00:00Z' : s).getTime()
const moment = (v: Version) => stamp(v.publishedAt ?? v.recordedAt)
const sunsets = computed(() => props.api.versions.flatMap((v) => (v.sunset ? [stamp(v.sunset)] : [])))
const bounds = computed<[number, number]>(() => {
  const first = Math.min(...props.api.versions.map(moment), now - 7 * 864e5)
  const last = Math.max(now, ...sunsets.value)
  const air = (last - first) / 40
  return [first - air, last + air]
})
const range = ref<[number, number] | null>(null)
const seen = computed(() => range.value ?? bounds.value)
const inner = computed(() => width.value - left - right.value)
const x = (t: number) => left + ((t - seen.value[0]) / (seen.value[1] - seen.value[0])) * inner.value
const clip = (t: number) => Math.min(Math.max(x(t), left), left + inner.value)
const near = computed(() => seen.value[1] - seen.value[0] < (bounds.value[1] - bounds.value[0]) * 0.98)

const lines = computed(() => {
  const names = [...new Set(props.api.versions.map((v) => v.line))]
  return names.map((name, i) => {
    const versions = props.api.versions.filter((v) => v.line === name).sort((a, b) => moment(a) - moment(b))
    const sunset = versions.map((v) => v.sunset).find((s) => s)
    const moments = versions.map((v) => ({ at: moment(v), label: v.number + (v.state === 'draft' ? ' draft' : '') }))
    const marks = marksOf(moments, x, width.value).filter((m) => m.x >= left - 1 && m.x <= left + inner.value + 1)
    const free = [-Infinity, sunset && narrow.value ? Infinity : -Infinity] // there, it says when it leaves
    const points = marks.map((m) => {
      const of = versions.slice(m.first, m.first + m.count)
      const { note, bad } = noteOf(of)
      const lower = note ? free.findIndex((end) => end <= m.x - 8) : -1
      if (lower >= 0) free[lower] = m.x + note.length * 6.6 + 8
      return { m, of, label: labelOf(moments, m), note: lower >= 0 ? note : '', lower, bad, draft: of.every((v) => v.state === 'draft') }
    })
    const begin = moment(versions[0])
    const end = sunset ? stamp(sunset) : now
    return { name, y: 62 + i * row, points, sunset, begin, end, turn: Math.min(Math.max(now, begin), end) }
  })
})

function noteOf(of: Version[]) {
  const sum = (grade: 'breaking' | 'hazard' | 'safe') => of.reduce((n, v) => n + (props.history.find((r) => r.version.number === v.number)?.changes?.counts[grade] ?? 0), 0)
  if (sum('breaking')) return { note: `✕ ${sum('breaking')} breaking`, bad: true }
  if (sum('hazard')) return { note: `! ${count(sum('hazard'), 'hazard')}`, bad: false }
  return { note: sum('safe') ? `✓ ${count(sum('safe'), 'addition')}` : '', bad: false }
}

const height = computed(() => 40 + lines.value.length * row + 14)
const ticks = computed(() => ticksOf(seen.value, inner.value))

// A mark of one version leads to what it changed; one of several draws nearer, or lists them where that tells nothing apart.
const list = ref<{ title: string; of: Version[] } | null>(null)
function open(of: Version[]) {
  if (of.length === 1) return lead(of[0])
  const [first, last] = [moment(of[0]), moment(of[of.length - 1])]
  if (last - first < 3600e3) {
    list.value = { title: `${of.length} versions of ${day(new Date(first).toISOString())}`, of }
    return
  }
  list.value = null
  const air = (last - first) / 8
  range.value = zoomed([first - air, last + air], (first + last) / 2, 1, bounds.value)
}
function lead(v: Version) {
  const before = props.history.find((r) => r.version.number === v.number)?.before
  void router.push(before ? `/apis/${props.api.name}/compare/${before}..${v.number}` : `/apis/${props.api.name}`)
}

const timeAt = (px: number) => seen.value[0] + ((px - left) / inner.value) * (seen.value[1] - seen.value[0])
const zoom = (factor: number, around = (seen.value[0] + seen.value[1]) / 2) => (range.value = zoomed(seen.value, around, factor, bounds.value))
const move = (share: number) => (range.value = moved(seen.value, share * (seen.value[1] - seen.value[0]), bounds.value))
function wheel(e: WheelEvent) {
  if (!e.ctrlKey && !e.metaKey) return
  e.preventDefault()
  zoom(e.deltaY > 0 ? 1.25 : 0.8, timeAt(e.clientX - frame.value!.getBoundingClientRect().left))
}
const dragged = ref<{ x: number; seen: [number, number] } | null>(null)
function drag(e: PointerEvent) {
  if (!dragged.value || !near.value) return
  const by = ((dragged.value.x - e.clientX) / inner.value) * (seen.value[1] - seen.value[0])
  range.value = moved(dragged.value.seen, by, bounds.value)
}
function key(e: KeyboardEvent) {
  const act = { '+': () => zoom(0.6), '=': () => zoom(0.6), '-': () => zoom(1.6), '0': () => (range.value = null), ArrowLeft: () => move(-0.2), ArrowRight: () => move(0.2) }[e.key]
  if (!act || e.ctrlKey || e.metaKey) return
  e.preventDefault()
  act()
}
</script>

<template>
  <div ref="frame" class="frame">
    <div class="zoom" role="group" aria-label="The time that is shown">
      <button type="button" aria-label="draw nearer" title="draw nearer (+)" @click="zoom(0.6)">+</button>
      <button type="button" aria-label="draw further away" title="further away (−)" :disabled="!near" @click="zoom(1.6)">−</button>
      <button type="button" :disabled="!near" aria-label="earlier" @click="move(-0.3)">←</button>
      <button type="button" :disabled="!near" aria-label="later" @click="move(0.3)">→</button>
      <button v-if="near" type="button" @click="range = null">all of it</button>
    </div>
    <div class="drawn" tabindex="0" role="group" :aria-label="`The versions of ${api.title} over time; plus and minus draw it nearer and further away, arrows move it`" :class="{ near }" @keydown="key" @wheel="wheel" @pointerdown="dragged = { x: $event.clientX, seen }" @pointermove="drag" @pointerup="dragged = null" @pointerleave="dragged = null">
      <svg :viewBox="`0 0 ${width} ${height}`" :width="width" :height="height">
        <g v-for="t in ticks" :key="t.at">
          <path :d="`M${x(t.at)} 8V${height - 24}`" class="grid" />
          <text v-if="x(t.at) < left + inner - 40 || !narrow" :x="x(t.at) + 4" :y="height - 8" class="soft">{{ t.text }}</text>
        </g>
        <g v-for="l in lines" :key="l.name">
          <text x="0" :y="l.y + 5">line {{ l.name }}</text>
          <path v-if="clip(l.turn) > clip(l.begin)" :d="`M${clip(l.begin)} ${l.y}H${clip(l.turn)}`" class="live" />
          <template v-if="l.sunset && x(l.end) >= left">
            <path :d="`M${clip(l.turn)} ${l.y}H${clip(l.end)}`" class="leaving" />
            <path v-if="x(l.end) <= left + inner + 1" :d="`M${x(l.end)} ${l.y - 10}V${l.y + 10}`" class="stop" />
            <text v-if="!narrow" :x="clip(l.end) + 10" :y="l.y + 5" class="it out">leaves {{ day(l.sunset) }}</text>
            <text v-else :x="clip(l.end)" :y="l.y + 44" text-anchor="end" class="it out">leaves {{ day(l.sunset) }}</text>
          </template>
        </g>
        <template v-if="x(now) >= left && x(now) <= left + inner + 1">
          <path :d="`M${x(now)} 4V${height - 22}`" class="today" />
          <text :x="x(now) + 6" y="14" class="it today-text">today</text>
        </template>
        <g v-for="l in lines" :key="l.name">
          <a v-for="p in l.points" :key="p.label" :href="`#${p.label}`" class="mark" :class="{ draft: p.draft }" :aria-label="p.of.length > 1 ? `${p.of.length} versions, ${p.label}` : `${p.label}${p.note ? ', ' + p.note : ''}`" @click.prevent="open(p.of)">
            <path v-if="p.m.labelled && p.m.above > 0" :d="`M${p.m.x} ${l.y - 7}V${l.y - 10 - 15 * p.m.above}`" class="stem" />
            <circle :cx="p.m.x" :cy="l.y" :r="p.of.length > 1 ? 8 : 6" />
            <text v-if="p.of.length > 1" :x="p.m.x" :y="l.y + 4" text-anchor="middle" class="many">{{ p.of.length }}</text>
            <text v-if="p.m.labelled" :x="p.m.x" :y="l.y - 14 - 15 * p.m.above" text-anchor="middle" class="label" :class="{ soft: p.draft }">{{ p.label }}</text>
            <text v-if="p.note" :x="p.m.x - 8" :y="l.y + 27 + 16 * p.lower" class="it" :class="{ bad: p.bad }">{{ p.note }}</text>
            <title>{{ p.label }}</title>
          </a>
        </g>
      </svg>
    </div>
    <div v-if="list" class="several">
      <b>{{ list.title }}</b> <button v-for="v in list.of" :key="v.number" type="button" @click="lead(v)">{{ v.number }}</button> <button type="button" @click="list = null">close</button>
    </div>
  </div>
</template>

<style scoped>
.frame { position: relative; min-width: 0; }
.zoom { position: absolute; right: 0; top: -34px; display: flex; gap: 4px; }
.zoom button { all: unset; box-sizing: border-box; min-width: 28px; height: 26px; padding: 0 7px; text-align: center; font: 14px/24px var(--sans); border: 1px solid var(--rule-strong); cursor: pointer; color: var(--ink); }
.zoom button:disabled { color: var(--ink-faint); cursor: default; } .zoom button:focus-visible, .several button:focus-visible { outline: 2px solid var(--link); outline-offset: 1px; }
.drawn { touch-action: pan-y; } .drawn.near { cursor: grab; }
svg { display: block; }
text { font: 13px var(--sans); fill: var(--ink); }
.label { font-size: 12.5px; paint-order: stroke; stroke: var(--sheet); stroke-width: 3px; }
.soft { font-size: 12px; fill: var(--ink-soft); }
.many { font: 600 10.5px var(--sans); }
.it { font: italic 12.5px var(--serif); fill: var(--ink-soft); paint-order: stroke; stroke: var(--sheet); stroke-width: 3px; }
.bad { fill: var(--breaking); }
.out { fill: var(--hazard); }
.grid { stroke: var(--rule); }
.live { stroke: var(--ink); stroke-width: 2; }
.leaving { stroke: var(--hazard); stroke-width: 2; stroke-dasharray: 5 4; }
.stop { stroke: var(--hazard); stroke-width: 3; }
.stem { stroke: var(--rule-strong); }
.mark { cursor: pointer; } .mark:focus-visible { outline: 2px solid var(--link); }
circle { fill: var(--sheet); stroke: var(--ink); stroke-width: 2; }
.mark:hover circle { stroke: var(--link); }
.draft circle { stroke: var(--ink-faint); stroke-dasharray: 3 2; }
.today { stroke: var(--margin-line); }
.today-text { fill: var(--margin-line); }
.several { display: flex; flex-wrap: wrap; gap: 2px 14px; font-size: 14px; max-height: 160px; overflow-y: auto; }
.several button { all: unset; cursor: pointer; color: var(--link); text-decoration: underline; }
@media (max-width: 800px) { .zoom { position: static; margin-bottom: 6px; } }
</style>
