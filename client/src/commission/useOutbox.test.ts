import { mount } from '@vue/test-utils'
import { beforeEach, expect, test, vi } from 'vitest'
import { nextTick } from 'vue'
import { ApiError, post } from '../shared/api/http'
import { useOutbox } from './useOutbox'

vi.mock('../shared/api/http', async (original) => ({ ...(await original<object>()), post: vi.fn() }))
const asked = vi.mocked(post) as unknown as ReturnType<typeof vi.fn>
const entry = (id: string) => ({ id, pointId: 'p', reference: 20, allowed: null, passed: null, remark: '', correct: false, at: 1, seen: 20.1 }) as never
let box: ReturnType<typeof useOutbox>
beforeEach(() => {
  asked.mockReset()
  mount({ setup: () => ((box = useOutbox()), () => null) })
})

test('What the server does not answer waits, in order, and goes once it answers', async () => {
  asked.mockRejectedValue(new ApiError('no answer', 0))
  expect(await box.send(entry('a'))).toBeNull()
  expect(await box.send(entry('b'))).toBeNull()
  expect(box.waiting.value).toBe(2)
  await box.flush()
  expect(box.waiting.value).toBe(2)
  await nextTick()
  expect(JSON.parse(localStorage.getItem('checks-waiting')!)).toHaveLength(2)
  asked.mockReset().mockResolvedValue({ id: 'a' })
  await box.flush()
  expect(asked.mock.calls.map(([, a]) => a.body.id)).toEqual(['a', 'b'])
  expect(box.waiting.value).toBe(0)
})

test('What the server refuses is told, and keeps nothing else from going', async () => {
  asked.mockRejectedValue(new ApiError('no answer', 0))
  await box.send(entry('a'))
  await box.send(entry('b'))
  asked.mockReset().mockRejectedValueOnce(new ApiError('on no terminal any more', 422)).mockResolvedValue({ id: 'b' })
  await box.flush()
  expect(box.refused.value?.why).toBe('on no terminal any more')
  expect(box.waiting.value).toBe(0)
})

test('A refusal of what is just entered is told at once and does not wait', async () => {
  asked.mockRejectedValue(new ApiError('Enter what the reference instrument shows.', 422))
  await expect(box.send(entry('a'))).rejects.toThrow('reference instrument')
  expect(box.waiting.value).toBe(0)
})
