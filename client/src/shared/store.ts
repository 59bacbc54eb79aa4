import { HubConnectionBuilder, HubConnectionState, LogLevel, type HubConnection } from '@microsoft/signalr'
import { defineStore } from 'pinia'
import { onScopeDispose, reactive, ref, shallowReactive, toValue, watch, type MaybeRefOrGetter } from 'vue'
import { cache, changed, happened } from './api/cache'
import { base, get, post, session, type Schemas } from './api/http'

/** What somebody may do, each more than the one before. */
export const roles = ['viewer', 'operator', 'technician', 'engineer', 'administrator'] as const
export type Role = (typeof roles)[number]

/** Status flags of a live value, as the server numbers them. */
export const Flag = { inAlarm: 1, fault: 2, overridden: 4, outOfService: 8, stale: 16, released: 32 }

/** What every screen shares: who is signed in, the project's state, the site clock, live values, what is selected. */
export const useStore = defineStore('wren', () => {
  const me = ref<Schemas['Me'] | null>(null)
  const project = ref<Schemas['ProjectState'] | null>(null)
  const clock = ref<Schemas['ClockView'] | null>(null)
  const ahead = ref<Schemas['AheadSummary'] | null>(null)
  const alarms = ref<Schemas['AlarmView'][]>([])
  const held = ref<Schemas['HeldView'][]>([])
  const jobs = reactive(new Map<string, Schemas['JobView']>())
  const live = shallowReactive(new Map<string, Schemas['LiveValue']>())
  const selected = ref<string | null>(null)
  const connected = ref(false)
  /** Whether the connection that there was, or was to be, is not there; before the first one is made nothing is lost. */
  const lost = ref(false)
  const lastChange = ref<Schemas['ProjectChanged'] | null>(null)
  const eventsTick = ref(0)
  /** How many things somebody asked for are on their way. */
  const working = ref(0)
  const conflicts = ref<Schemas['Conflict'][]>([])
  const wanted = new Map<string, number>()
  let hub: HubConnection | null = null
  let watchTimer = 0

  const may = (role: Role) => !!me.value?.role && roles.indexOf(me.value.role as Role) >= roles.indexOf(role)

  async function loadMe() {
    me.value = await get('/me')
    if (me.value.name) await start()
  }

  async function start() {
    const [known] = await Promise.all([get('/jobs'), refresh(), refreshEvents()])
    for (const job of known) jobs.set(job.id, job)
    if (hub) return
    hub = new HubConnectionBuilder()
      .withUrl(`${base}/live`)
      .withAutomaticReconnect([0, 500, 1000, 2000, 5000, 5000, 10000, 10000, 30000])
      .configureLogging(LogLevel.None)
      .build()
    hub.on('live', (values: Schemas['LiveValue'][]) => values.forEach((v) => live.set(v.id, v)))
    hub.on('clock', (value: Schemas['ClockView']) => {
      // A hold that has ended by itself is told by how many there are.
      if (clock.value && clock.value.held !== value.held) void refreshEvents()
      clock.value = value
    })
    hub.on('changed', (value: Schemas['ProjectChanged']) => {
      lastChange.value = value
      void changed(value)
      void refresh()
    })
    hub.on('events', () => {
      void happened('events')
      void refreshEvents()
    })
    hub.on('job', (job: Schemas['JobView']) => {
      jobs.set(job.id, job)
      if (job.state === 'running') return
      void happened('jobs')
      void refresh()
    })
    const lose = () => {
      connected.value = false
      lost.value = true
    }
    hub.onreconnecting(lose)
    hub.onreconnected(() => {
      connected.value = true
      lost.value = false
      // What was done meanwhile was not told here: everything may have changed.
      void cache.invalidateQueries()
      void refresh()
      sendWatch()
    })
    hub.onclose(lose)
    try {
      await hub.start()
      connected.value = true
      sendWatch()
    } catch {
      lose()
    }
  }

  async function stop() {
    await hub?.stop()
    hub = null
    live.clear()
    cache.clear()
    me.value = null
    await loadMe()
  }

  async function refresh() {
    ;[project.value, ahead.value] = await Promise.all([get('/project'), get('/commission/ahead')])
  }

  async function refreshEvents() {
    const simulated = () => held.value.filter((h) => h.isInput).length
    const before = simulated()
    ;[alarms.value, held.value] = await Promise.all([get('/alarms'), get('/held')])
    // What is simulated is a finding.
    if (simulated() !== before) void refresh()
    eventsTick.value++
  }

  function sendWatch() {
    clearTimeout(watchTimer)
    watchTimer = window.setTimeout(() => {
      if (hub?.state === HubConnectionState.Connected) void hub.invoke('Watch', [...wanted.keys()])
    }, 40)
  }

  function want(ids: string[], by: 1 | -1) {
    for (const id of ids) {
      const count = (wanted.get(id) ?? 0) + by
      if (count <= 0) wanted.delete(id)
      else wanted.set(id, count)
    }
    sendWatch()
  }

  async function setClock({ running = null, speed = null, stepSeconds = null }: Partial<Schemas['ClockRequest']>) {
    clock.value = await post('/site/clock', { body: { running, speed, stepSeconds } })
  }

  session.ended = () => {
    if (me.value?.name) void stop()
  }

  return {
    me,
    project,
    clock,
    ahead,
    alarms,
    held,
    jobs,
    live,
    selected,
    connected,
    lost,
    lastChange,
    eventsTick,
    working,
    conflicts,
    may,
    loadMe,
    start,
    stop,
    refresh,
    refreshEvents,
    want,
    setClock,
  }
})

/** Watches live values while the component is there; the ids may change. */
export function useLive(ids: MaybeRefOrGetter<string[]>) {
  const store = useStore()
  let now: string[] = []
  watch(
    () => toValue(ids).join('\n'),
    () => {
      const next = toValue(ids)
      store.want(next, 1)
      store.want(now, -1)
      now = [...next]
    },
    { immediate: true },
  )
  onScopeDispose(() => store.want(now, -1))
  return store.live
}
