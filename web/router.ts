import { api, got } from './stores/api'
import { createRouter, createWebHistory } from 'vue-router'

/** A screen that is come back to fills while it is drawn: it is scrolled once it is as long as it was. */
const lookEveryMs = 30
/** One that has not grown for so many looks has become shorter. On a slow device looks are as slow as drawing is. */
const looksAtMost = 100
/** Whether it became as long within that time, and before the person began to do something there. */
const come = (top: number) =>
  new Promise<boolean>((resolve) => {
    const deeds = ['wheel', 'touchmove', 'keydown', 'pointerdown'] as const
    let length = 0
    let looks = 0
    let timer: ReturnType<typeof setTimeout>
    const end = (undisturbed: boolean) => {
      clearTimeout(timer)
      for (const deed of deeds) removeEventListener(deed, disturb, true)
      resolve(undisturbed)
    }
    const disturb = () => end(false)
    const look = () => {
      const now = document.documentElement.scrollHeight
      looks = now > length ? 0 : looks + 1
      length = Math.max(length, now)
      if (now >= top + innerHeight || looks > looksAtMost) end(true)
      else timer = setTimeout(look, lookEveryMs)
    }
    for (const deed of deeds) addEventListener(deed, disturb, { capture: true, passive: true })
    // Not at once: to ask how long it is makes the browser lay it out in the midst of being drawn.
    timer = setTimeout(look, lookEveryMs)
  })

export const router = createRouter({
  history: createWebHistory(),
  scrollBehavior: async (to, _from, saved) => {
    if (!saved) return { top: 0 }
    // Who has gone on meanwhile is left alone.
    return (await come(saved.top)) && router.currentRoute.value.fullPath === to.fullPath && saved
  },
  routes: [
    { path: '/', name: 'today', component: () => import('./screens/Today.vue'), meta: { title: 'Today' } },
    {
      path: '/units',
      name: 'units',
      component: () => import('./screens/Units.vue'),
      meta: { title: 'Units' },
    },
    {
      path: '/units/:id',
      name: 'unit',
      component: () => import('./screens/Unit.vue'),
      meta: { title: 'Unit' },
    },
    {
      path: '/shelf',
      name: 'shelf',
      component: () => import('./screens/Shelf.vue'),
      meta: { title: 'Shelf' },
    },
    {
      path: '/shelf/fits',
      name: 'fits',
      component: () => import('./screens/Fits.vue'),
      meta: { title: 'Fits' },
    },
    {
      path: '/shelf/:id',
      name: 'image',
      component: () => import('./screens/Image.vue'),
      meta: { title: 'Image' },
    },
    {
      path: '/shelf/:id/against/:other',
      name: 'compare',
      component: () => import('./screens/Compare.vue'),
      meta: { title: 'Two images' },
    },
    {
      path: '/families',
      name: 'families',
      component: () => import('./screens/Families.vue'),
      meta: { title: 'Family profiles' },
    },
    {
      path: '/families/teach',
      name: 'teach',
      component: () => import('./screens/Teach.vue'),
      meta: { title: 'Teach a new kind' },
    },
    {
      path: '/families/:id',
      name: 'family',
      component: () => import('./screens/Family.vue'),
      meta: { title: 'Family profile' },
    },
    {
      path: '/rounds',
      name: 'rounds',
      component: () => import('./screens/Rounds.vue'),
      meta: { title: 'Rounds' },
    },
    {
      path: '/rounds/:id',
      name: 'case',
      component: () => import('./screens/Case.vue'),
      meta: { title: 'Case' },
    },
    {
      path: '/rounds/:id/logs/:log',
      name: 'log',
      component: () => import('./screens/Log.vue'),
      meta: { title: 'Log' },
    },
    {
      path: '/sums',
      name: 'sums',
      component: () => import('./screens/Sums.vue'),
      meta: { title: 'Calculators' },
    },
    {
      path: '/workshop-rules',
      name: 'workshop-rules',
      component: () => import('./screens/WorkshopRules.vue'),
      meta: { title: 'Workshop rules' },
    },
    {
      path: '/who',
      name: 'who',
      component: () => import('./screens/Who.vue'),
      meta: { title: 'Who works here' },
    },
    // The link of a code; who is in already goes on to what is next.
    { path: '/join', redirect: { name: 'today' }, meta: { title: 'Join' } },
    {
      path: '/data',
      name: 'data',
      component: () => import('./screens/Data.vue'),
      meta: { title: 'This bench’s data' },
    },
    {
      path: '/adapters',
      name: 'adapters',
      component: () => import('./screens/Adapters.vue'),
      meta: { title: 'Cables and adapters' },
    },
    {
      path: '/ports',
      name: 'ports',
      component: () => import('./screens/Ports.vue'),
      meta: { title: 'Ports' },
    },
    {
      path: '/trace',
      name: 'trace',
      component: () => import('./screens/Trace.vue'),
      meta: { title: 'Trace' },
    },
    {
      path: '/kit/:day',
      name: 'kit',
      component: () => import('./screens/Kit.vue'),
      meta: { title: 'To take along' },
    },
    {
      path: '/jobs/:id/card',
      name: 'card',
      component: () => import('./screens/Card.vue'),
      meta: { title: 'Wiring card' },
    },
    {
      path: '/jobs/:id/plan',
      name: 'plan',
      component: () => import('./screens/Plan.vue'),
      meta: { title: 'Plan' },
    },
    {
      path: '/drill',
      name: 'drill',
      component: () => import('./screens/Drill.vue'),
      meta: { title: 'Drill' },
    },
    {
      path: '/drill/certificate',
      name: 'certificate',
      component: () => import('./screens/Certificate.vue'),
      meta: { title: 'Certificate of practice' },
    },
    {
      path: '/drill/:id',
      name: 'practice',
      component: () => import('./screens/Practice.vue'),
      meta: { title: 'Drill' },
    },
    {
      path: '/jobs/:id/entry',
      name: 'entry',
      component: () => import('./screens/Entry.vue'),
      meta: { title: 'Into the bootloader' },
    },
    { path: '/jobs/:id', name: 'job', component: () => import('./screens/Job.vue'), meta: { title: 'Job' } },
    {
      path: '/logbook',
      name: 'logbook',
      component: () => import('./screens/Logbook.vue'),
      meta: { title: 'Logbook' },
    },
    {
      path: '/logbook/:id',
      name: 'record',
      component: () => import('./screens/Record.vue'),
      meta: { title: 'Record' },
    },
    {
      path: '/:rest(.*)*',
      name: 'nowhere',
      component: () => import('./screens/Nowhere.vue'),
      meta: { title: 'Not here' },
    },
  ],
})

router.afterEach((to) => {
  document.title = `${String(to.meta['title'])} · Bench Wake`
})
// The file of a screen could not be read: the program is gone, or a newer one has other files.
router.onError(async (error, to) => {
  if (!/module/i.test(String(error))) throw error
  if (await got(api.health.$get()).catch(() => null)) location.assign(to.fullPath)
})
