import { useMessage } from 'naive-ui'
import { ApiError } from './api/http'
import { useStore } from './store'

/** Runs something that talks to the server and says what came of it; answers whether it was done. */
export function useDo() {
  const message = useMessage()
  const store = useStore()
  return async function attempt(work: () => Promise<unknown>, done?: string): Promise<boolean> {
    store.working++
    try {
      await work()
      if (done) message.success(done, { duration: 2500 })
      return true
    } catch (e) {
      const error = e as ApiError
      if (error.conflicts?.length) store.conflicts = error.conflicts
      else message.error(error.message, { duration: 9000, closable: true, keepAliveOnHover: true })
      return false
    } finally {
      store.working--
    }
  }
}
