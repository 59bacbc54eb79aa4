import ELK, { type ElkNode } from 'elkjs/lib/elk-api'
import workerUrl from 'elkjs/lib/elk-worker.min.js?url'

let elk: InstanceType<typeof ELK> | null = null
/** Lays a graph out in a worker of its own: the page answers meanwhile. */
export const layout = (graph: ElkNode) => (elk ??= new ELK({ workerUrl })).layout(graph) as Promise<ElkNode>
