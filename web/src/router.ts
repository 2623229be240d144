import { createRouter, createWebHistory } from 'vue-router'

/** The views of the bench. */
export type BenchView = 'part' | 'pose' | 'hold' | 'proof' | 'print'

/** Every view of the bench is a route, so that a link leads back to where one was. */
export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'start', component: () => import('./views/start-view.vue') },
    { path: '/jobs', name: 'jobs', component: () => import('./views/jobs-view.vue') },
    { path: '/failed', name: 'failed', component: () => import('./views/failed-view.vue') },
    { path: '/log', name: 'log', component: () => import('./views/log-view.vue') },
    { path: '/kit', name: 'kit', component: () => import('./views/kit-view.vue') },
    { path: '/jobs/:id/:view(part|pose|hold|proof|print)', name: 'bench', component: () => import('./views/bench-view.vue'), props: true },
    { path: '/:rest(.*)*', redirect: '/jobs' },
  ],
})
