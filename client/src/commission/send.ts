import { post } from '../shared/api/http'
import { useStore } from '../shared/store'

/** Begins to send a controller, its wires first where that is wanted; the job is followed like any other. */
export async function send(id: string, build: boolean) {
  const store = useStore()
  const started = await post('/commission/{id}/send', { path: { id }, query: { build } })
  if (!store.jobs.has(started.id)) store.jobs.set(started.id, started)
  return started.id
}
