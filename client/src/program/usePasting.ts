import { useLocalStorage } from '@vueuse/core'
import { ref } from 'vue'
import { post, type Schemas } from '../shared/api/http'
import { useDo } from '../shared/useDo'
import type { SequenceWork } from './useSequence'

/** Copying what is picked, and pasting it here or into another sequence: its points are matched by what they are to the equipment. */
export function usePasting(work: SequenceWork) {
  const attempt = useDo()
  /** What was copied last, on this computer: it outlives the page it was copied on. */
  const copied = useLocalStorage<{ from: string; picked: string[] } | null>('sequence-copied', null, {
    serializer: { read: (v) => JSON.parse(v), write: (v) => JSON.stringify(v) },
  })
  /** What would be pasted, while some of its points have to be asked for. */
  const asking = ref<Schemas['PastedSequence'] | null>(null)
  const choices = ref<Schemas['PasteChoice'][]>([])
  function copy() {
    if (!work.picked.value.length) return
    copied.value = { from: work.s.value!.id, picked: [...work.picked.value] }
    void attempt(() => Promise.resolve(), `Copied ${work.picked.value.length}; Ctrl V puts it into this sequence or another`)
  }
  async function look() {
    const { from, picked } = copied.value!
    return post('/sequences/{id}/paste', { path: { id: work.s.value!.id }, body: { from, picked, choices: choices.value } })
  }
  async function keep(pasted: Schemas['PastedSequence']) {
    asking.value = null
    if (await work.save(pasted.sequence, `Pasted ${pasted.made.length} from ‘${pasted.from}’`))
      work.picked.value = pasted.made.filter((m) => !m.startsWith('o:'))
  }
  /** Pastes at once where every point has its counterpart; else those that have none are asked for. */
  async function paste() {
    if (!copied.value) return
    choices.value = []
    await attempt(async () => {
      const pasted = await look()
      if (pasted.points.every((p) => p.is)) await keep(pasted)
      else asking.value = pasted
    })
  }
  async function choose(was: string, is: string | null) {
    choices.value = [...choices.value.filter((c) => c.was !== was), { was, is }]
    await attempt(async () => void (asking.value = await look()))
  }
  return { copied, asking, copy, paste, choose, keep, leave: () => (asking.value = null) }
}
export type Pasting = ReturnType<typeof usePasting>
