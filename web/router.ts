import { createRouter, createWebHistory } from 'vue-router'
import { useSession } from './session'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/sign-in', component: () => import('./pages/SignIn.vue'), meta: { open: true, title: 'Sign in' } },
    { path: '/', redirect: '/dockets' },
    { path: '/dockets', component: () => import('./pages/Dockets.vue'), meta: { title: 'Dockets' } },
    { path: '/dockets/:id(\\d+)/:station?', component: () => import('./pages/Docket.vue'), props: true },
    { path: '/images', component: () => import('./pages/Images.vue'), meta: { title: 'Images' } },
    {
      path: '/images/:id(\\d+)/inside',
      component: () => import('./pages/Inside.vue'),
      props: true,
      meta: { title: 'Inside an image' },
    },
    {
      path: '/images/:id(\\d+)/compare/:other(\\d+)',
      component: () => import('./pages/Compare.vue'),
      props: true,
      meta: { title: 'Two images' },
    },
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
    { path: '/bench', component: () => import('./pages/Bench.vue'), meta: { title: 'Bench' } },
    { path: '/writes', component: () => import('./pages/Writes.vue'), meta: { title: 'All writes' } },
    { path: '/:rest(.*)', component: () => import('./pages/NotHere.vue'), meta: { title: 'Not here' } },
  ],
})

router.beforeEach(async (to) => {
  const session = useSession()
  await session.load()
  if (!session.technician && !to.meta.open) return { path: '/sign-in', query: { then: to.fullPath } }
  return true
})

router.afterEach((to) => {
  if (to.meta.title) document.title = `${String(to.meta.title)} · Evrel`
})
