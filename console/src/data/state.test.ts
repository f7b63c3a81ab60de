import { expect, it, vi } from 'vitest'
import { nextTick, ref } from 'vue'
import { useAct } from './act'
import { faultOf, tell, unexpected, watchFaults } from './fault'
import { useLoading } from './loading'
import { count, day, sentence } from './words'

it('is busy while an act is under way, and keeps the fault that ended it until the next', async () => {
  const { busy, fault, run } = useAct()
  let end!: () => void
  const act = run(() => new Promise<void>((yes) => (end = yes)))
  expect(busy.value).toBe(true)
  end()
  await act
  expect([busy.value, fault.value]).toEqual([false, ''])
  await run(() => Promise.reject(new Error('No.')))
  expect([busy.value, fault.value]).toEqual([false, 'No.'])
  await run(() => Promise.resolve())
  expect(fault.value).toBe('')
})

it('shows what was asked for last, whatever answers first', async () => {
  const which = ref('slow')
  const ends: Record<string, (v: string) => void> = {}
  const { value, error } = useLoading(() => {
    const name = which.value
    return new Promise<string>((yes) => (ends[name] = yes))
  })
  which.value = 'quick'
  await nextTick()
  ends.quick('quick')
  ends.slow('slow')
  await nextTick()
  expect([value.value, error.value]).toEqual(['quick', ''])
})

it('keeps what it has where fetching it anew fails', async () => {
  let fails = false
  const { value, error, again } = useLoading(() => (fails ? Promise.reject(new Error('Gone.')) : Promise.resolve('there')))
  await vi.waitFor(() => expect(value.value).toBe('there'))
  fails = true
  again()
  await vi.waitFor(() => expect(error.value).toBe('Gone.'))
  expect(value.value).toBe('there')
})

it('tells what nobody has caught, and no remark of a browser', () => {
  const quiet = vi.spyOn(console, 'error').mockImplementation(() => {})
  const page = new EventTarget()
  watchFaults(page)
  page.dispatchEvent(Object.assign(new Event('error'), { error: null, message: 'ResizeObserver loop completed' }))
  expect(unexpected.value).toBe('')
  page.dispatchEvent(Object.assign(new Event('unhandledrejection'), { reason: new Error('Not thought of.') }))
  expect(unexpected.value).toBe('Not thought of.')
  tell('odd')
  expect(unexpected.value).toBe('odd')
  expect(quiet).toHaveBeenCalledTimes(2)
  expect(faultOf({ toString: () => 'thing' })).toBe('thing')
})

it('says days, counts and sentences as people do', () => {
  expect(day('2027-03-01T23:59:59Z')).toBe('1 March 2027')
  expect([count(1, 'change'), count(0, 'change')]).toEqual(['1 change', '0 changes'])
  expect([sentence('clients go on'), sentence('')]).toEqual(['Clients go on', ''])
})
