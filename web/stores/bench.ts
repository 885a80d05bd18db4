import type { FamilyDocument } from '@bench-wake/core/family'
import type { LogbookRow } from '@bench-wake/core/record'
import type { ClosedJob, JobView, KnownUnit, PortEntry, ShelfImage } from '@bench-wake/server'
import { defineStore } from 'pinia'
import { shallowRef } from 'vue'
import { api, got } from './api'

/** A list of so many is read without holding up a key that is pressed meanwhile. */
const unitsAtATime = 1500
/** Jobs and runs of a page: a screen shows the first and asks for more when somebody wants them. */
export const jobsAtATime = 200
export const runsAtATime = 200
/** A list that is still being filled is asked for again after so long, ms. */
const fillMs = 2000

/** What the server holds, as last asked. Nothing here is known that the server does not know. */
export const useBench = defineStore('bench', () => {
  /** Those with something still to do. */
  const jobs = shallowRef<JobView[] | null>(null)
  /** Whether the server has more jobs than were asked for. */
  const moreJobs = shallowRef(false)
  const closedJobs = shallowRef<ClosedJob[] | null>(null)
  const units = shallowRef<KnownUnit[] | null>(null)
  const images = shallowRef<ShelfImage[] | null>(null)
  const ports = shallowRef<PortEntry[] | null>(null)
  /** Runs of the logbook, newest first. */
  const runs = shallowRef<LogbookRow[] | null>(null)
  let again: ReturnType<typeof setTimeout> | undefined
  const families = shallowRef<FamilyDocument[] | null>(null)

  return {
    jobs,
    moreJobs,
    closedJobs,
    units,
    images,
    ports,
    families,
    runs,
    async loadRuns() {
      runs.value = await got<LogbookRow[]>(api.logbook.$get({ query: { q: '' } }))
    },
    /** Jobs in the order of their days: as many as were shown before, or a page. */
    async loadJobs() {
      const shown = Math.max(jobsAtATime, jobs.value?.length ?? 0)
      const some = await jobsAfter(undefined, shown)
      moreJobs.value = some.length === shown
      jobs.value = some
      // Records that are still being read after an update: the list is asked for again until all of it is judged.
      clearTimeout(again)
      if (some.some(({ filling }) => filling))
        again = setTimeout(() => void this.loadJobs().catch(() => {}), fillMs)
    },
    async loadMoreJobs() {
      const before = jobs.value ?? []
      const some = await jobsAfter(before.at(-1)?.job.id, jobsAtATime)
      moreJobs.value = some.length === jobsAtATime
      jobs.value = [...before, ...some]
    },
    async loadClosedJobs() {
      const query = { count: String(jobsAtATime) }
      closedJobs.value = await got<ClosedJob[]>(api.jobs.closed.$get({ query }))
    },
    async loadUnits() {
      const all: KnownUnit[] = []
      for (let came = unitsAtATime; came === unitsAtATime;) {
        const last = all.at(-1)
        const query = { count: String(unitsAtATime), ...(last ? { after: last.id } : {}) }
        const some = await got<KnownUnit[]>(api.units.$get({ query }))
        came = some.length
        all.push(...some)
      }
      units.value = all
    },
    async loadImages() {
      images.value = await got<ShelfImage[]>(api.images.$get())
    },
    async loadPorts() {
      ports.value = await got<PortEntry[]>(api.ports.$get())
    },
    /** Profiles change seldom: asked once, and again after one was kept. */
    async loadFamilies(again = false) {
      if (again || families.value === null) families.value = await got<FamilyDocument[]>(api.families.$get())
    },
  }
})

const jobsAfter = (after: string | undefined, count: number) =>
  got<JobView[]>(
    api.jobs.$get({ query: { count: String(Math.min(count, 9999)), ...(after ? { after } : {}) } }),
  )
