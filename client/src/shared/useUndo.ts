import { post } from './api/http'
import { useStore } from './store'
import { useDo } from './useDo'

/** Takes back this person's last change, or does it again, and says which it was. */
export function useUndo() {
  const store = useStore()
  const attempt = useDo()
  return (again: boolean) => {
    const label = again ? store.project?.redo : store.project?.undo
    return attempt(() => post(again ? '/redo' : '/undo'), label ? `${again ? 'Did again' : 'Undid'}: ${label}` : undefined)
  }
}
