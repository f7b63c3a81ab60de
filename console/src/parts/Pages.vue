<script setup lang="ts">
// Two pages beside each other: what belongs together stands in one row, words that differ are marked, what is alike can be opened.
import { computed, nextTick, ref, watch } from 'vue'
import { blockAt } from '../data/changes'
import { folded, rowsOf, wordsApart, type Piece, type Row } from '../data/diff'
import type { Change, DescriptionFile, Grade, Place } from '../data/types'
import { marks } from '../data/words'

const props = defineProps<{
  left: DescriptionFile[]
  right: DescriptionFile[]
  versions: [string, string]
  change: Change
  changes: Change[]
  gradeOf: (c: Change) => Grade
  whole: boolean
}>()
const emit = defineEmits<{ choose: [id: string] }>()

const step = 10
const around = ref(2)
const opened = ref<[number, number][]>([])
watch(() => [props.change.id, props.whole], () => ([around.value, opened.value] = [2, []]))

// A description recorded as one file calls it by the file's own name.
const fileAt = (files: DescriptionFile[], place?: Place, other?: Place) =>
  files.find((f) => f.path === place?.file) ?? files.find((f) => f.path === other?.file) ?? files[0]
const linesOf = (file?: DescriptionFile) => (file ? file.text.replace(/\n$/, '').split(/\r?\n/) : [])
const oldFile = computed(() => fileAt(props.left, props.change.old, props.change.new))
const nowFile = computed(() => fileAt(props.right, props.change.new, props.change.old))
const oldLines = computed(() => linesOf(oldFile.value))
const nowLines = computed(() => linesOf(nowFile.value))

const block = (lines: string[], place?: Place): [number, number] => (place ? blockAt(lines, place.line - 1) : [0, 0])
const oldBlock = computed(() => block(oldLines.value, props.change.old))
const nowBlock = computed(() => block(nowLines.value, props.change.new))

const all = computed(() => rowsOf(oldLines.value, nowLines.value))

// Whether a place lies within another, or is it: then the other is what holds it, and not what took its place.
const within = (inner?: Place, outer?: Place) => !!inner && (!outer || inner.pointer === outer.pointer || inner.pointer.startsWith(outer.pointer + '/'))

// The rows of the element, where both sides have it at the same place of their files; null where it moved.
const inPlace = computed<[number, number] | null>(() => {
  if (oldFile.value?.path !== nowFile.value?.path && props.left.length > 1) return null
  const [old, now] = [props.change.old, props.change.new]
  const rowsIn = (side: 'old' | 'now', [from, to]: [number, number]) => [all.value.findIndex((r) => r[side] === from), all.value.findIndex((r) => r[side] === to - 1) + 1] as [number, number]
  const [a, b] = [within(old, now) ? rowsIn('old', oldBlock.value) : null, within(now, old) ? rowsIn('now', nowBlock.value) : null]
  if (!a || !b) return a ?? b
  if (a[0] > b[1] || b[0] > a[1]) return null
  return [Math.min(a[0], b[0]), Math.max(a[1], b[1])]
})

// Where it moved, the element of one side stands beside that of the other, each with the lines around it.
const moved = computed<Row[]>(() => {
  const [o, n] = [oldBlock.value, nowBlock.value]
  const rows: Row[] = []
  const beside = (i: number, j: number) => {
    const row = { old: i >= 0 && i < oldLines.value.length ? i : -1, now: j >= 0 && j < nowLines.value.length ? j : -1, same: true }
    if (row.old >= 0 || row.now >= 0) rows.push(row)
  }
  for (let k = around.value; k > 0; k--) beside(o[0] - k, n[0] - k)
  for (const r of rowsOf(oldLines.value.slice(...o), nowLines.value.slice(...n))) {
    rows.push({ old: r.old < 0 ? -1 : r.old + o[0], now: r.now < 0 ? -1 : r.now + n[0], same: r.same })
  }
  for (let k = 0; k < around.value; k++) beside(o[1] + k, n[1] + k)
  return rows
})
const some = computed<Row[]>(() => {
  const at = inPlace.value
  return at ? all.value.slice(Math.max(0, at[0] - around.value), at[1] + around.value) : moved.value
})
const rows = computed(() => (props.whole ? all.value : some.value))

// The changes that begin in a row, by line of each side.
const of = computed(() => {
  const [old, now] = [new Map<number, Change[]>(), new Map<number, Change[]>()]
  const add = (to: Map<number, Change[]>, place: Place | undefined, file: DescriptionFile | undefined, files: DescriptionFile[], c: Change) => {
    if (place && (place.file === file?.path || files.length === 1)) to.set(place.line - 1, [...(to.get(place.line - 1) ?? []), c])
  }
  for (const c of props.whole ? props.changes : [props.change]) {
    if (c.new) add(now, c.new, nowFile.value, props.right, c)
    else add(old, c.old, oldFile.value, props.left, c)
  }
  return { old, now }
})
const inRow = (row: Row) => [...(of.value.old.get(row.old) ?? []), ...(of.value.now.get(row.now) ?? [])]

const atOnce = 200
const most = 1500 // rows of one stretch that are drawn before somebody asks for more
const stretches = computed(() => {
  return folded(rows.value, 3, (row) => !props.whole || inRow(row).length > 0).flatMap((s) => {
    const long = s.to - s.from > most
    if (!s.folded && !long) return [{ ...s, alike: false }]
    const cut = opened.value.filter(([a, b]) => s.from <= a && b <= s.to)
    if (!s.folded) cut.push([s.from, s.from + most])
    const out = []
    let at = s.from
    for (const [a, b] of cut.sort(([a], [b]) => a - b)) {
      if (a > at) out.push({ from: at, to: a, folded: true, alike: s.folded })
      out.push({ from: a, to: b, folded: false, alike: s.folded })
      at = b
    }
    if (at < s.to) out.push({ from: at, to: s.to, folded: true, alike: s.folded })
    return out
  })
})
const unfold = (from: number, to: number) => opened.value.push([from, Math.min(to, from + atOnce)])

// Deep YAML would begin in the middle of the page.
const margin = computed(() => {
  if (props.whole) return 0
  const indents = some.value.flatMap((r) => [oldLines.value[r.old], nowLines.value[r.now]]).filter((l) => l?.trim()).map((l) => l.search(/\S/))
  return indents.length ? Math.min(...indents) : 0
})
const apart = (row: Row): [Piece[], Piece[]] => {
  const text = (lines: string[], i: number) => (i < 0 ? '' : lines[i].slice(margin.value))
  const [a, b] = [text(oldLines.value, row.old), text(nowLines.value, row.now)]
  if (!row.same && row.old >= 0 && row.now >= 0) return wordsApart(a, b)
  return [[{ text: a, differs: false }], [{ text: b, differs: false }]]
}

// A line that is broken goes on deeper than it began.
const hang = (pieces: Piece[]) => {
  const deep = (pieces.map((p) => p.text).join('').match(/^ */)?.[0].length ?? 0) + 2
  return { paddingLeft: `calc(8px + ${deep}ch)`, textIndent: `-${deep}ch` }
}

// Where nothing within the element differs, what is meant is the element.
const alike = computed(() => !props.whole && some.value.every((r) => r.same))
const hit = (row: Row) => !row.same || (alike.value && ((row.old >= oldBlock.value[0] && row.old < oldBlock.value[1]) || (row.now >= nowBlock.value[0] && row.now < nowBlock.value[1])))

// The rows of a stretch as they are drawn.
const drawn = (s: { from: number; to: number }) =>
  rows.value.slice(s.from, s.to).map((row, i) => {
    const [old, now] = apart(row)
    return { key: s.from + i, row, old, now, hit: hit(row), changes: inRow(row) }
  })

const caption = (version: string, files: DescriptionFile[], place?: Place) => {
  if (props.whole) return `${version} · ${(files === props.left ? oldFile.value : nowFile.value)?.path ?? ''}`
  if (!place) return `${version} · not there`
  const path = place.pointer.slice(1).replaceAll('~1', '/').replaceAll('~0', '~')
  return `${version} · ${files.length > 1 ? `${place.file} · ` : ''}${path || 'the whole description'} · line ${place.line}`
}

const table = ref<HTMLElement>()
watch(
  () => [props.whole, props.change.id],
  async () => {
    await nextTick()
    if (props.whole) table.value?.querySelector('.chosen')?.closest('tr')?.scrollIntoView({ block: 'center' })
  },
)
</script>

<template>
  <div ref="table" class="pages">
    <div class="caps"><div class="cap" :title="caption(versions[0], left, change.old)">{{ caption(versions[0], left, change.old) }}</div><div class="cap" :title="caption(versions[1], right, change.new)">{{ caption(versions[1], right, change.new) }}</div></div>
    <button v-if="!whole" type="button" class="more" @click="around += step">↕ {{ step }} lines more around it</button>
    <table>
      <colgroup><col class="no" /><col /><col class="mid" /><col class="no" /><col /></colgroup>
      <tbody v-for="s in stretches" :key="`${s.from} ${s.folded}`">
        <tr v-if="s.folded" class="fold"><td colspan="5"><button type="button" @click="unfold(s.from, s.to)">{{ s.to - s.from }} lines {{ s.alike ? 'alike' : 'more' }}<template v-if="s.to - s.from > atOnce">, open {{ atOnce }}</template></button></td></tr>
        <template v-else>
          <tr v-for="d in drawn(s)" :key="d.key" :class="{ same: !d.hit, only: d.row.old < 0 || d.row.now < 0 }">
            <td class="no">{{ d.row.old < 0 ? '' : d.row.old + 1 }}</td>
            <td class="line" :class="{ 'hit-old': d.hit && d.row.old >= 0, none: d.row.old < 0 }" :style="hang(d.old)"><template v-for="(p, k) in d.old" :key="k"><mark v-if="p.differs">{{ p.text }}</mark><template v-else>{{ p.text }}</template></template></td>
            <td class="mid"><button v-for="c in d.changes" :key="c.id" type="button" :class="['ink-' + gradeOf(c), { chosen: c.id === change.id }]" :title="c.title" :aria-label="`${gradeOf(c)}: ${c.title}`" @click="emit('choose', c.id)">{{ marks[gradeOf(c)] }}</button></td>
            <td class="no">{{ d.row.now < 0 ? '' : d.row.now + 1 }}</td>
            <td class="line" :class="{ 'hit-new': d.hit && d.row.now >= 0, none: d.row.now < 0 }" :style="hang(d.now)"><template v-for="(p, k) in d.now" :key="k"><mark v-if="p.differs">{{ p.text }}</mark><template v-else>{{ p.text }}</template></template></td>
          </tr>
        </template>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.pages { border: 1px solid var(--rule-strong); margin: 10px 30px; }
.caps { display: grid; grid-template-columns: minmax(0, 1fr) 44px minmax(0, 1fr); border-bottom: 1px solid var(--rule); }
.cap { padding: 3px 14px; font: italic 13px/22px var(--serif); color: var(--ink-soft); white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
.cap + .cap { grid-column: 3; }
table { width: 100%; border-collapse: collapse; table-layout: fixed; font: 13px/21px var(--mono); }
col.no { width: 46px; } col.mid { width: 44px; }
td { padding: 0; vertical-align: top; }
td.no { text-align: right; padding-right: 10px; color: var(--ink-faint); user-select: none; }
td.line { white-space: pre-wrap; overflow-wrap: anywhere; padding: 0 10px 0 8px; }
td.mid { border-left: 1px solid var(--rule); border-right: 1px solid var(--rule); text-align: center; font-family: var(--sans); }
td.mid button { all: unset; cursor: pointer; font-weight: 700; padding: 0 5px; min-width: 24px; min-height: 24px; box-sizing: border-box; }
td.mid button:focus-visible { outline: 2px solid var(--link); }
td.mid .chosen { box-shadow: inset 0 -2px 0 currentColor; font-size: 16px; }
.hit-old { background: var(--breaking-wash); } .hit-new { background: var(--safe-wash); }
mark { background: none; color: inherit; font-weight: 600; text-decoration: underline; text-decoration-thickness: 2px; text-underline-offset: 3px; }
.hit-old mark { text-decoration-color: var(--breaking); } .hit-new mark { text-decoration-color: var(--safe); }
.fold button, .more { all: unset; box-sizing: border-box; display: block; width: 100%; text-align: center; cursor: pointer; font: italic 13px/24px var(--serif); color: var(--ink-soft); background: var(--paper); }
.fold button { border-top: 1px solid var(--rule); border-bottom: 1px solid var(--rule); }
.more { border-bottom: 1px solid var(--rule); }
.fold button:hover, .more:hover { text-decoration: underline; } .fold button:focus-visible, .more:focus-visible { outline: 2px solid var(--link); outline-offset: -2px; }
td.mid .ink-breaking { color: var(--breaking); } td.mid .ink-hazard { color: var(--hazard); } td.mid .ink-safe { color: var(--safe); } td.mid .ink-editorial { color: var(--editorial); }
@media (max-width: 800px) {
  .pages { margin: 8px 16px; }
  .caps { display: block; } .cap + .cap { border-top: 1px solid var(--rule); }
  table, tbody { display: block; } colgroup { display: none; }
  tr { display: grid; grid-template-columns: 40px minmax(0, 1fr) 30px; } tr.fold { display: block; } tr.fold td { display: block; }
  tr.same td:nth-child(-n+2):not(:empty), tr td.none, tr.only td.no:empty { display: none; }
  tr.same.only td:nth-child(-n+2):not(.none) { display: block; }
  td.mid { grid-column: 3; grid-row: 1; border: 0; }
  td.no { grid-column: 1; } td.line { grid-column: 2; }
  td.hit-old::before { content: '− '; color: var(--breaking); } td.hit-new::before { content: '+ '; color: var(--safe); }
}
</style>
