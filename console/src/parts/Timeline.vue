<script setup lang="ts">
// The versions of an API on a time line, a row for each line, with what leaves.
import { computed } from 'vue'
import type { Api, Release } from '../data/types'
import { count, day } from '../data/words'

const props = defineProps<{ api: Api; history: Release[] }>()

const width = 1216
const left = 70
const right = 150
const row = 84
const now = Date.now()

const stamp = (s: string) => new Date(s.length === 10 ? s + 'T00:00:00Z' : s).getTime()
const moment = (v: { publishedAt?: string; recordedAt: string }) => stamp(v.publishedAt ?? v.recordedAt)

const sunsets = computed(() => props.api.versions.flatMap((v) => (v.sunset ? [stamp(v.sunset)] : [])))
const from = computed(() => Math.min(...props.api.versions.map(moment)))
const to = computed(() => Math.max(now, ...sunsets.value) + 20 * 864e5)
const x = (t: number) => left + ((t - from.value) / (to.value - from.value)) * (width - left - right)

const lines = computed(() => {
  const names = [...new Set(props.api.versions.map((v) => v.line))]
  return names.map((name, i) => {
    const versions = props.api.versions.filter((v) => v.line === name)
    const sunset = versions.map((v) => v.sunset).find((s) => s)
    const points = versions.map((v) => {
      const release = props.history.find((r) => r.version.number === v.number)
      const c = release?.changes?.counts
      let note = ''
      if (c?.breaking) note = `✕ ${c.breaking} breaking`
      else if (c?.hazard) note = `! ${count(c.hazard, 'hazard')}`
      else if (c?.safe) note = `✓ ${count(c.safe, 'addition')}`
      return { v, x: x(moment(v)), note, bad: !!c?.breaking, lower: 0 }
    })
    // Notes of neighbours that would run into one another stand below one another.
    for (let k = 1; k < points.length; k++) {
      if (points[k].x - points[k - 1].x < 110) points[k].lower = points[k - 1].lower ? 0 : 17
    }
    const end = sunset ? x(stamp(sunset)) : x(now)
    return { name, y: 48 + i * row, points, sunset, begin: points[0].x, end, turn: Math.min(x(now), end) }
  })
})

const height = computed(() => 30 + lines.value.length * row + 24)

const months = computed(() => {
  const out = []
  const d = new Date(from.value)
  const step = (to.value - from.value) / 864e5 > 500 ? 6 : 3
  for (let t = Date.UTC(d.getUTCFullYear(), d.getUTCMonth() + 1, 1); t < to.value; ) {
    const m = new Date(t)
    out.push({ x: x(t), text: m.toLocaleDateString('en-GB', { month: 'short', year: m.getUTCMonth() < step ? 'numeric' : undefined, timeZone: 'UTC' }) })
    t = Date.UTC(m.getUTCFullYear(), m.getUTCMonth() + step, 1)
  }
  return out
})
</script>

<template>
  <svg :viewBox="`0 0 ${width} ${height}`" role="img" :aria-label="`The versions of ${api.title} over time`">
    <g v-for="m in months" :key="m.x">
      <path :d="`M${m.x} 8V${height - 24}`" class="grid" />
      <text :x="m.x + 4" :y="height - 8" class="soft">{{ m.text }}</text>
    </g>
    <g v-for="l in lines" :key="l.name">
      <text x="0" :y="l.y + 5">line {{ l.name }}</text>
      <path :d="`M${l.begin} ${l.y}H${l.turn}`" class="live" />
      <template v-if="l.sunset">
        <path :d="`M${l.turn} ${l.y}H${l.end}`" class="leaving" />
        <path :d="`M${l.end} ${l.y - 10}V${l.y + 10}`" class="stop" />
        <text :x="l.end + 10" :y="l.y + 5" class="it out">leaves {{ day(l.sunset) }}</text>
      </template>
      <g v-for="p in l.points" :key="p.v.number">
        <circle :cx="p.x" :cy="l.y" r="6" :class="p.v.state" />
        <text :x="p.x" :y="l.y - 14" text-anchor="middle" :class="{ soft: p.v.state === 'draft' }">{{ p.v.number }}{{ p.v.state === 'draft' ? ' draft' : '' }}</text>
        <text :x="p.x - 8" :y="l.y + 27 + p.lower" class="it" :class="{ bad: p.bad }">{{ p.note }}</text>
      </g>
    </g>
    <path :d="`M${x(now)} 4V${height - 22}`" class="today" />
    <text :x="x(now) + 6" y="14" class="it today-text">today</text>
  </svg>
</template>

<style scoped>
svg { width: 100%; min-width: 720px; height: auto; display: block; }
text { font: 13px var(--sans); fill: var(--ink); }
.soft { font-size: 12px; fill: var(--ink-soft); }
.it { font: italic 12.5px var(--serif); fill: var(--ink-soft); }
.bad { fill: var(--breaking); }
.out { fill: var(--hazard); }
.grid { stroke: var(--rule); }
.live { stroke: var(--ink); stroke-width: 2; }
.leaving { stroke: var(--hazard); stroke-width: 2; stroke-dasharray: 5 4; }
.stop { stroke: var(--hazard); stroke-width: 3; }
circle { fill: var(--sheet); stroke: var(--ink); stroke-width: 2; }
circle.draft { stroke: var(--ink-faint); stroke-dasharray: 3 2; }
.today { stroke: var(--margin-line); }
.today-text { fill: var(--margin-line); }
</style>
