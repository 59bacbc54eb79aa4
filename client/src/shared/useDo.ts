import { useMessage } from 'naive-ui'
import { ApiError } from './api/http'

/** Runs something that talks to the server and says what came of it; answers whether it was done. */
export function useDo() {
  const message = useMessage()
  return async function attempt(work: () => Promise<unknown>, done?: string): Promise<boolean> {
    try {
      await work()
      if (done) message.success(done, { duration: 2500 })
      return true
    } catch (e) {
      const error = e as ApiError
      if (error.conflicts?.length) {
        const theirs = error.conflicts[0]!
        message.warning(
          `${error.message} Theirs: ${describe(theirs.theirs)} (revision ${theirs.theirRevision}). Yours: ${describe(theirs.yours)}. The page now shows theirs; make your change again if it still holds.`,
          { duration: 12000, closable: true },
        )
      } else message.error(error.message, { duration: 9000, closable: true, keepAliveOnHover: true })
      return false
    }
  }
}

function describe(record: unknown) {
  if (!record) return 'removed'
  const { type: _, id: __, ...rest } = record as Record<string, unknown>
  const text = JSON.stringify(rest)
  return text.length > 160 ? text.slice(0, 160) + '…' : text
}
