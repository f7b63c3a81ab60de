import { expect, it } from 'vitest'
import { chosen, dropped, isArchive } from './upload'

const file = (path: string) => Object.defineProperty(new File(['x'], path.split('/').at(-1)!), 'webkitRelativePath', { value: path.includes('/') ? path : '' })
const list = (...paths: string[]) => paths.map(file) as unknown as FileList

it('takes a folder by the paths below it, and only what can be part of a description', () => {
  expect(chosen(list('berths/api.raml', 'berths/types/quay.yaml', 'berths/.git/config.yaml', 'berths/logo.png')).map((p) => p.path)).toEqual(['api.raml', 'types/quay.yaml'])
})

it('takes one file by its name, whatever it is', () => {
  expect(chosen(list('berths/description')).map((p) => p.path)).toEqual(['description'])
  expect(chosen(null)).toEqual([])
})

it('leaves files alone that share no folder', () => {
  expect(chosen(list('a/x.yaml', 'b/y.yaml')).map((p) => p.path)).toEqual(['a/x.yaml', 'b/y.yaml'])
})

it('knows archives', () => expect(['a.zip', 'a.TGZ', 'a.tar.gz', 'a.yaml', 'zip'].map(isArchive)).toEqual([true, true, true, false, false]))

// What a browser hands over: folders answer with some of what is in them at a time, until there is no more.
function entry(path: string, inside?: object[]): object {
  const name = path.split('/').at(-1)!
  if (!inside) return { isFile: true, name, fullPath: path, file: (yes: (f: File) => void) => yes(new File(['x'], name)) }
  return {
    isFile: false, name, fullPath: path,
    createReader: () => {
      const left = [...inside]
      return { readEntries: (yes: (some: object[]) => void) => yes(left.splice(0, 1)) }
    },
  }
}

it('reads a dropped folder to its end', async () => {
  const folder = entry('/berths', [entry('/berths/api.yaml'), entry('/berths/types', [entry('/berths/types/a.json'), entry('/berths/types/b.json')]), entry('/berths/.hidden', [entry('/berths/.hidden/c.yaml')])])
  const items = [{ webkitGetAsEntry: () => folder }] as unknown as DataTransferItemList
  expect((await dropped(items)).map((p) => p.path)).toEqual(['api.yaml', 'types/a.json', 'types/b.json'])
})
