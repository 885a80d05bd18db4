import type { FamilyDocument } from '@bench-wake/core/family'
import type { ClosedJob, JobView, KnownUnit, PortEntry, ShelfImage } from '@bench-wake/server'
import { defineStore } from 'pinia'
import { ref } from 'vue'
import { api, got } from './api'

/** What the server holds, as last asked. Nothing here is known that the server does not know. */
export const useBench = defineStore('bench', () => {
  /** Those with something still to do. */
  const jobs = ref<JobView[] | null>(null)
  const closedJobs = ref<ClosedJob[] | null>(null)
  const units = ref<KnownUnit[] | null>(null)
  const images = ref<ShelfImage[] | null>(null)
  const ports = ref<PortEntry[] | null>(null)
  const families = ref<FamilyDocument[] | null>(null)

  return {
    jobs,
    closedJobs,
    units,
    images,
    ports,
    families,
    async loadJobs() {
      jobs.value = await got<JobView[]>(api.jobs.$get())
    },
    async loadClosedJobs() {
      closedJobs.value = await got<ClosedJob[]>(api.jobs.closed.$get())
    },
    async loadUnits() {
      units.value = await got<KnownUnit[]>(api.units.$get())
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
