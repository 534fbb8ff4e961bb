import { createRouter, createWebHistory } from 'vue-router'
import { whenSignedOut } from './api/client'
import { useSession, type Role } from './session'

declare module 'vue-router' {
  interface RouteMeta {
    /** For whoever is not signed in. */
    open?: boolean
    title?: string
    for?: Role
  }
}

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/sign-in', component: () => import('./pages/SignIn.vue'), meta: { open: true, title: 'Sign in' } },
    { path: '/link', component: () => import('./pages/ByLink.vue'), meta: { open: true, title: 'Come in' } },
    { path: '/first', component: () => import('./pages/FirstLead.vue'), meta: { open: true, title: 'Begin' } },
    { path: '/people', component: () => import('./pages/People.vue'), meta: { title: 'People', for: 'lead' } },
    { path: '/me', component: () => import('./pages/Me.vue'), meta: { title: 'Yours' } },
    { path: '/', redirect: '/dockets' },
    { path: '/dockets', component: () => import('./pages/Dockets.vue'), meta: { title: 'Dockets' } },
    { path: '/dockets/:id(\\d+)/:station?', component: () => import('./pages/Docket.vue'), props: true },
    { path: '/images', component: () => import('./pages/Images.vue'), meta: { title: 'Images' } },
    {
      path: '/:kind(images|drives)/:id(\\d+)/inside',
      component: () => import('./pages/Inside.vue'),
      props: true,
      meta: { title: 'Look inside' },
    },
    {
      path: '/:kind(images|drives)/:id(\\d+)/compare/:other(\\d+)',
      component: () => import('./pages/Compare.vue'),
      props: true,
      meta: { title: 'What changed' },
    },
    { path: '/computers', component: () => import('./pages/Computers.vue'), meta: { title: 'Computers' } },
    { path: '/readiness', component: () => import('./pages/Readiness.vue'), meta: { title: 'Readiness' } },
    { path: '/records', component: () => import('./pages/Records.vue'), meta: { title: 'Records' } },
    {
      path: '/computers/:id(\\d+)',
      component: () => import('./pages/ComputerHistory.vue'),
      props: true,
      meta: { title: 'A computer' },
    },
    {
      path: '/drives/:id(\\d+)',
      component: () => import('./pages/DriveHistory.vue'),
      props: true,
      meta: { title: 'A drive' },
    },
    {
      path: '/drives/:id(\\d+)/take',
      component: () => import('./pages/TakeImage.vue'),
      props: true,
      meta: { title: 'Take an image' },
    },
    { path: '/takings', component: () => import('./pages/Takings.vue'), meta: { title: 'Images that are taken' } },
    {
      path: '/takings/:id(\\d+)',
      component: () => import('./pages/TakingPage.vue'),
      props: true,
      meta: { title: 'An image of a drive' },
    },
    { path: '/runs', component: () => import('./pages/Runs.vue'), meta: { title: 'Runs' } },
    {
      path: '/runs/:id(\\d+)',
      component: () => import('./pages/RunPage.vue'),
      props: true,
      meta: { title: 'A run' },
    },
    {
      path: '/images/:id(\\d+)/run',
      component: () => import('./pages/NewRun.vue'),
      props: true,
      meta: { title: 'One image onto many drives' },
    },
    { path: '/bench', component: () => import('./pages/Bench.vue'), meta: { title: 'Bench' } },
    { path: '/writes', component: () => import('./pages/Writes.vue'), meta: { title: 'All writes' } },
    { path: '/:rest(.*)', component: () => import('./pages/NotHere.vue'), meta: { title: 'Not here' } },
  ],
})

router.beforeEach(async (to) => {
  const session = useSession()
  await session.load()
  if (session.first && to.path !== '/first') return '/first'
  if (!session.technician && !to.meta.open) return { path: '/sign-in', query: { then: to.fullPath } }
  if (to.meta.for && !session.may(to.meta.for)) return '/dockets'
  return true
})

router.afterEach((to) => {
  if (to.meta.title) document.title = `${to.meta.title} · Evrel`
})

/** Signed out elsewhere, or for doing nothing: whoever signs in again comes back to where they were. */
whenSignedOut(() => {
  const session = useSession()
  const here = router.currentRoute.value
  if (!session.technician || here.meta.open) return
  session.technician = null
  router.push({ path: '/sign-in', query: { then: here.fullPath } })
})
