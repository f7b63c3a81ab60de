<script setup lang="ts">
// Calls day by day, stacked, with what no log tells left open, marks of days that matter, and when they end at this pace.
import { computed, ref } from 'vue'
import type { DaySpan } from '../data/types'
import { type Band, dayAfter, daysBetween, edgesOf, gapsOf, levelsOf, number, pngOf } from '../data/use'
import { useWidth } from '../data/width'
import { day } from '../data/words'

const props = defineProps<{ from: string; bands: Band[]; missing: DaySpan[]; label: string; marks?: { day: string; text: string }[]; ends?: { early: string; late?: string; now: number } }>()

const width = useWidth('frame')
const svg = ref<SVGSVGElement>()
defineExpose({ picture: () => pngOf(svg.value!) })

const height = 230
const [left, top, bottom] = [58, 22, 30]
const narrow = computed(() => width.value < 640)
const right = computed(() => (narrow.value ? 12 : 150))
const days = computed(() => props.bands[0]?.days.length ?? 1)
// Where calls are to end, or something leaves, the picture goes on until then, for a while.
const beyond = computed(() => {
  const ahead = [props.ends?.early, props.ends?.late, ...(props.marks ?? []).map((m) => m.day)].map((d) => (d ? daysBetween(props.from, d) + 4 - days.value : 0)).filter((n) => n > 0)
  return narrow.value || !ahead.length ? 0 : Math.min(Math.ceil(days.value * 1.2), Math.max(...ahead))
})
const edges = computed(() => edgesOf(props.bands))
const most = computed(() => Math.max(0, ...(edges.value.at(-1) ?? [])))
const levels = computed(() => levelsOf(most.value))
const x = (i: number) => left + (i / Math.max(1, days.value + beyond.value - 1)) * (width.value - left - right.value)
const y = (n: number) => height - bottom - (n / Math.max(1, levels.value.at(-1)!)) * (height - top - bottom)
const gaps = computed(() => gapsOf(props.from, props.missing))
// The spans of days of which logs tell: only they are drawn.
const told = computed(() => {
  const spans: [number, number][] = []
  let at = 0
  for (const [from, until] of [...gaps.value, [days.value, days.value] as [number, number]]) {
    if (from > at) spans.push([at, from])
    at = until
  }
  return spans
})
const areas = computed(() =>
  props.bands.map((b, n) => ({
    b,
    n,
    d: told.value
      .map(([from, until]) => {
        // A single day is as wide as half a day to each side.
        const points = Array.from({ length: until - from }, (_, i) => from + i)
        const at = points.length > 1 ? points.map((i) => [x(i), i]) : [[x(from) - 2, from], [x(from) + 2, from]]
        const upper = at.map(([px, i]) => `${px.toFixed(1)} ${y(edges.value[n][i]).toFixed(1)}`)
        const lower = at.map(([px, i]) => `${px.toFixed(1)} ${y(n ? edges.value[n - 1][i] : 0).toFixed(1)}`).reverse()
        return `M${upper.join('L')}L${lower.join('L')}Z`
      })
      .join(''),
  })),
)
// Names stand where their bands end, where there is room, and never over one another.
const names = computed(() => {
  if (narrow.value) return []
  const last = (told.value.at(-1)?.[1] ?? 1) - 1
  const placed: { text: string; y: number; n: number }[] = []
  for (const { b, n } of areas.value) {
    const middle = y((edges.value[n][last] + (n ? edges.value[n - 1][last] : 0)) / 2)
    placed.push({ text: b.title.length > 20 ? b.title.slice(0, 19) + '…' : b.title, y: middle + 4, n })
  }
  for (let i = 1; i < placed.length; i++) placed[i].y = Math.min(placed[i].y, placed[i - 1].y - 15)
  return placed
})
const months = computed(() => {
  const all = days.value + beyond.value
  const step = Math.ceil(all / (narrow.value ? 3 : 8))
  return Array.from({ length: Math.ceil(all / step) }, (_, i) => i * step).map((i) => ({ i, text: new Date(dayAfter(props.from, i) + 'T00:00:00Z').toLocaleDateString('en-GB', { day: 'numeric', month: 'short', timeZone: 'UTC' }) }))
})
const shownMarks = computed(() => (props.marks ?? []).map((m) => ({ ...m, i: daysBetween(props.from, m.day) })).filter((m) => m.i >= 0 && m.i < days.value + beyond.value))
// From the last day of which logs tell to the days on which calls end, as far as the picture goes.
const pace = computed(() => {
  if (!props.ends || narrow.value) return null
  const last = (told.value.at(-1)?.[1] ?? 1) - 1
  const { early, late, now } = props.ends
  const edge = days.value + beyond.value - 1
  const towards = (end?: string) => {
    const i = end ? daysBetween(props.from, end) : Infinity
    const at = Math.min(i, edge)
    return [x(at), y(i === Infinity ? now : now * (1 - (at - last) / Math.max(1, i - last)))]
  }
  return `M${x(last)} ${y(now)}L${towards(early).join(' ')}L${towards(late).join(' ')}Z`
})

const at = ref(-1)
const point = (e: PointerEvent) => {
  const box = svg.value!.getBoundingClientRect()
  at.value = Math.min(days.value - 1, Math.max(0, Math.round(((e.clientX - box.left - left) / (width.value - left - right.value)) * (days.value + beyond.value - 1))))
}
const said = computed(() => {
  if (at.value < 0) return ''
  const date = dayAfter(props.from, at.value)
  if (gaps.value.some(([from, until]) => at.value >= from && at.value < until)) return `${day(date)}: no log tells`
  return `${day(date)}: ${props.bands.filter((b) => b.days[at.value]).map((b) => `${b.title} ${number(b.days[at.value])}`).join(', ') || 'no calls'}`
})
</script>

<template>
  <figure ref="frame">
    <svg ref="svg" :viewBox="`0 0 ${width} ${height}`" :width="width" :height="height" role="img" :aria-label="label" @pointermove="point" @pointerleave="at = -1">
      <g class="rules"><path v-for="l in levels" :key="l" :d="`M${left} ${y(l)}H${width - right}`" /></g>
      <g class="scale"><text v-for="l in levels" :key="l" :x="left - 8" :y="y(l) + 4" text-anchor="end">{{ number(l) }}</text></g>
      <rect v-for="[from, until] in gaps" :key="from" class="gap" :x="x(from) - 1" :y="top" :width="Math.max(2, x(Math.min(until, days - 1)) - x(from))" :height="height - top - bottom"><title>no log tells of these days</title></rect>
      <path v-for="a in areas" :key="a.n" :d="a.d" :class="`band band-${a.n % 7}`" :data-band="a.b.title"><title>{{ a.b.title }}: {{ number(a.b.calls) }} calls</title></path>
      <path v-if="pace" class="pace" :d="pace"><title>at this pace</title></path>
      <g v-for="m in shownMarks" :key="m.day + m.text" class="mark"><path :d="`M${x(m.i)} ${top - 8}V${height - bottom}`" /><text :x="x(m.i) + (x(m.i) > width - right - 120 ? -5 : 5)" :y="top - 8" :text-anchor="x(m.i) > width - right - 120 ? 'end' : 'start'">{{ m.text }}</text></g>
      <g class="scale"><text v-for="m in months" :key="m.i" :x="x(m.i)" :y="height - 10" :text-anchor="m.i ? 'middle' : 'start'">{{ m.text }}</text></g>
      <g class="names"><text v-for="n in names" :key="n.n" :x="width - right + 10" :y="n.y">{{ n.text }}</text></g>
      <path v-if="at >= 0" class="here" :d="`M${x(at)} ${top}V${height - bottom}`" />
    </svg>
    <figcaption class="soft"><template v-if="said">{{ said }}</template><template v-else><span v-for="a in areas" :key="a.n" class="key"><i :class="`swatch band-${a.n % 7}`" />{{ a.b.title }}</span></template></figcaption>
  </figure>
</template>

<style scoped>
figure { margin: 0; }
svg { display: block; max-width: 100%; touch-action: pan-y; }
svg text { font: 12.5px var(--sans); fill: var(--ink-soft); }
.rules path { stroke: var(--rule); fill: none; }
.gap { fill: var(--slip); }
.band { fill-opacity: 0.9; stroke: var(--sheet); stroke-width: 0.7; }
.band-0 { fill: var(--band-0); background: var(--band-0); } .band-1 { fill: var(--band-1); background: var(--band-1); } .band-2 { fill: var(--band-2); background: var(--band-2); } .band-3 { fill: var(--band-3); background: var(--band-3); } .band-4 { fill: var(--band-4); background: var(--band-4); } .band-5 { fill: var(--band-5); background: var(--band-5); } .band-6 { fill: var(--band-6); background: var(--band-6); }
.pace { fill-opacity: 0.6; fill: var(--hazard-wash); stroke: var(--hazard); stroke-dasharray: 5 4; }
.mark path { stroke: var(--margin-line); fill: none; } .mark text { fill: var(--breaking); font-style: italic; }
.here { stroke: var(--ink); stroke-dasharray: 2 3; fill: none; }
figcaption { min-height: 26px; font-size: 13.5px; }
.key { margin-right: 18px; white-space: nowrap; }
.swatch { display: inline-block; width: 11px; height: 11px; margin-right: 6px; border-radius: 1px; }
</style>
