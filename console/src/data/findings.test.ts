import { expect, test } from 'vitest'
import { score, sheets } from './findings'
import type { Finding } from './types'

const finding = (file: string, line: number, severity: Finding['severity']): Finding =>
  ({ id: `${file}${line}${severity}`, file, line, column: 1, endLine: line, endColumn: 2, pointer: '', rule: 'r', severity, text: 't', new: false })

test('findings stand at their lines, the worst first, with some lines around them', () => {
  const files = [{ path: 'a.yaml', text: 'one\ntwo\nthree\nfour\nfive\nsix\n' }, { path: 'parts/b.yaml', text: 'x\r\ny' }, { path: 'c.yaml', text: '' }]
  const got = sheets(files, [finding('a.yaml', 2, 'hint'), finding('folder/parts/b.yaml', 1, 'hint'), finding('a.yaml', 2, 'error')], 1)
  expect(got.map((s) => s.path)).toEqual(['a.yaml', 'parts/b.yaml'])
  expect(got[0].rows.map((r) => (r.gap ? `${r.gap} left out` : `${r.line} ${r.text} ${r.findings.map((f) => f.severity).join(' ')}`))).toEqual(['1 one ', '2 two error hint', '3 three ', '4 left out'])
  expect(got[1].rows.map((r) => r.text)).toEqual(['x', 'y'])
})

test('a score is never rounded up', () => {
  expect(score(200, 199)).toBe('99 %')
  expect(score(0, 0)).toBe('')
})
