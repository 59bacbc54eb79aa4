import { QueryClient, useQuery } from '@tanstack/vue-query'
import { computed, watch, type Ref } from 'vue'
import { get, type Answer, type Asked, type Path, type Schemas } from './http'
import type { KindKey } from './kinds'

/** What an answer rests on: kinds of record, or what happens on the site: events, and jobs that end. */
export type Rests = KindKey | 'events' | 'jobs'
/** 'all' rests on everything, 'fixed' on nothing that changes while the program runs; or said of each change, for a single record. */
export type Shows = readonly Rests[] | 'all' | 'fixed' | ((change: Schemas['ProjectChanged']) => boolean)

/** All answers that are shown or were a while ago. What is shown again appears at once and is asked anew meanwhile. */
export const cache = new QueryClient({
  defaultOptions: { queries: { retry: false, refetchOnWindowFocus: false, refetchOnReconnect: false, networkMode: 'always' } },
})

const resting = (what: readonly string[], change?: Schemas['ProjectChanged']) =>
  cache.invalidateQueries({
    predicate: ({ meta }) => {
      const shows = meta?.shows as Shows
      if (shows === 'all') return true
      if (typeof shows === 'function') return !!change && shows(change)
      return shows !== 'fixed' && shows.some((s) => what.includes(s))
    },
  })
/** Has asked anew what rests on the records that a change touched. */
export const changed = (change: Schemas['ProjectChanged']) => resting(change.kinds, change)
/** Has asked anew what rests on events or jobs. */
export const happened = (what: 'events' | 'jobs') => resting([what])

const pathOf = (asked: unknown) => JSON.stringify((asked as { path?: unknown } | null)?.path ?? null)
const sameRecord = (a: unknown, b: unknown) => pathOf(a) === pathOf(b)

/**
 * Shows what a request answers: asked once for all who show it, kept, and asked anew after whatever it rests on. While a new answer
 * about the same is on its way the old one stays; that of another record never does, or it would be taken for this one's. Where `asked` says null nothing is asked and nothing shown. `also` has it asked anew when it changes.
 */
export function useShown<P extends Path<'get'>>(path: P, asked: () => Asked<P, 'get'> | null, shows: Shows, also?: () => unknown) {
  const given = computed(asked)
  const query = useQuery(
    {
      queryKey: computed(() => [path, given.value]),
      queryFn: () => (get as (path: P, asked: unknown) => Promise<Answer<P, 'get'>>)(path, given.value ?? {}),
      enabled: computed(() => given.value !== null),
      placeholderData: ((last: unknown, before?: { queryKey: readonly unknown[] }) =>
        sameRecord(before?.queryKey[1], given.value) ? last : undefined) as never,
      staleTime: shows === 'fixed' ? Infinity : 0,
      shallow: true,
      meta: { shows },
    },
    cache,
  )
  const reload = async () => void (await query.refetch())
  if (also) watch(also, () => given.value !== null && void reload())
  return {
    value: computed(() => (given.value === null ? null : (query.data.value ?? null))) as Readonly<Ref<Answer<P, 'get'> | null>>,
    problem: computed(() => (given.value !== null && query.error.value?.message) || ''),
    reload,
  }
}
