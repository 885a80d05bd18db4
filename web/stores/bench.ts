import type { FamilyDocument } from '@bench-wake/core/family'
import type { LogbookRow } from '@bench-wake/core/record'
import type { ClosedJob, JobView, KnownUnit, PortEntry, ShelfImage } from '@bench-wake/server'
import { defineStore } from 'pinia'
import { shallowRef } from 'vue'
import { api, got } from './api'

/** A list of so many is read without holding up a key that is pressed meanwhile. */
const unitsAtATime = 1500

/** What the server holds, as last asked. Nothing here is known that the server does not know. */
export const useBench = defineStore('bench', () => {
  /** Those with something still to do. */
  const jobs = shallowRef<JobView[] | null>(null)
  const closedJobs = shallowRef<ClosedJob[] | null>(null)
  const units = shallowRef<KnownUnit[] | null>(null)
  const images = shallowRef<ShelfImage[] | null>(null)
  const ports = shallowRef<PortEntry[] | null>(null)
  /** Runs of the logbook, newest first. */
  const runs = shallowRef<LogbookRow[] | null>(null)
  const families = shallowRef<FamilyDocument[] | null>(null)

  return {
    jobs,
    closedJobs,
    units,
    images,
    ports,
    families,
    runs,
    async loadRuns() {
      runs.value = await got<LogbookRow[]>(api.logbook.$get({ query: { q: '' } }))
    },
    async loadJobs() {
      jobs.value = await got<JobView[]>(api.jobs.$get())
    },
    async loadClosedJobs() {
      closedJobs.value = await got<ClosedJob[]>(api.jobs.closed.$get())
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
