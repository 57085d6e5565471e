/** Addresses. `/w/1/desk/42` opens a conversation for whoever may see it. */
import { createRouter, createWebHistory, START_LOCATION } from 'vue-router'
import { ApiProblem } from '@/api/client'
import { renewOnce, useRenewal } from '@/composables/useRenewal'
import { askFirst, takeFirst } from '@/api/first'
import { useSession } from '@/stores/session'

/** What whoever is not signed in may open. */
const OPEN = new Set<string | symbol>(['sign-in', 'back', 'welcome', 'password'])

/** By its name, so that no object of all its names is made, which would be one more file to wait for. */
export const bringDesk = async () => (await import('@/views/DeskView.vue')).default
export const router = createRouter({
  history: createWebHistory(),
  routes: [
    {
      path: '/sign-in',
      name: 'sign-in',
      meta: { title: 'Sign in' },
      component: () => import('@/views/SignInView.vue'),
    },
    {
      path: '/sign-in/back',
      name: 'back',
      meta: { title: 'Sign in' },
      component: () => import('@/views/BackView.vue'),
    },
    {
      path: '/welcome/:token',
      name: 'welcome',
      meta: { title: 'Welcome' },
      component: () => import('@/views/WelcomeView.vue'),
    },
    {
      path: '/password/:token',
      name: 'password',
      meta: { title: 'Password' },
      component: () => import('@/views/PasswordView.vue'),
    },
    {
      path: '/workspaces',
      name: 'workspaces',
      meta: { title: 'Workspaces' },
      component: () => import('@/views/WorkspacesView.vue'),
    },
    {
      path: '/connect/:network',
      name: 'connected',
      meta: { title: 'An account' },
      component: () => import('@/views/ConnectedView.vue'),
    },
    {
      path: '/me',
      name: 'account',
      meta: { title: 'How you sign in' },
      component: () => import('@/views/AccountView.vue'),
    },
    { path: '/', name: 'home', redirect: { name: 'desk', params: { workspace: '0' } } },
    {
      path: '/w/:workspace(\\d+)/desk/:conversation(\\d+)?',
      name: 'desk',
      meta: { title: 'Desk' },
      component: bringDesk,
    },
    {
      path: '/w/:workspace(\\d+)/desk/print',
      name: 'desk-print',
      meta: { title: 'A list to print' },
      component: () => import('@/views/DeskPrintView.vue'),
    },
    {
      path: '/w/:workspace(\\d+)/overview',
      name: 'overview',
      meta: { title: 'Overview' },
      component: () => import('@/views/OverviewView.vue'),
    },
    {
      path: '/w/:workspace(\\d+)/people/:person(\\d+)?',
      name: 'people',
      meta: { title: 'People' },
      component: () => import('@/views/PeopleView.vue'),
    },
    {
      path: '/w/:workspace(\\d+)/approvals/:proposal(\\d+)?',
      name: 'approvals',
      meta: { title: 'Approvals' },
      component: () => import('@/views/ApprovalsView.vue'),
    },
    {
      path: '/w/:workspace(\\d+)/cases',
      name: 'cases',
      meta: { title: 'Cases' },
      component: () => import('@/views/CasesView.vue'),
    },
    {
      path: '/w/:workspace(\\d+)/outgoing',
      name: 'outgoing',
      meta: { title: 'Outgoing' },
      component: () => import('@/views/OutgoingView.vue'),
    },
    {
      path: '/w/:workspace(\\d+)/draws/:draw(\\d+)?',
      name: 'draws',
      meta: { title: 'Draws' },
      component: () => import('@/views/DrawsView.vue'),
    },
    {
      path: '/w/:workspace(\\d+)/day/:member(\\d+)?',
      name: 'day',
      meta: { title: 'Day' },
      component: () => import('@/views/DayView.vue'),
    },
    {
      path: '/w/:workspace(\\d+)/team',
      name: 'team',
      meta: { title: 'Team' },
      component: () => import('@/views/TeamView.vue'),
    },
    {
      path: '/w/:workspace(\\d+)/reports',
      name: 'reports',
      meta: { title: 'Reports' },
      component: () => import('@/views/ReportsView.vue'),
    },
    {
      path: '/w/:workspace(\\d+)/reports/accounts',
      name: 'health',
      meta: { title: 'Accounts in numbers' },
      component: () => import('@/views/HealthView.vue'),
    },
    {
      path: '/w/:workspace(\\d+)/reports/what-if/:played(\\d+)?',
      name: 'what-if',
      meta: { title: 'What if' },
      component: () => import('@/views/WhatIfView.vue'),
    },
    {
      path: '/w/:workspace(\\d+)/rules',
      name: 'rules',
      meta: { title: 'Rules' },
      component: () => import('@/views/RulesView.vue'),
    },
    {
      path: '/w/:workspace(\\d+)/rules/review',
      name: 'review',
      meta: { title: 'Acts of rules to look at' },
      component: () => import('@/views/RulesView.vue'),
    },
    {
      path: '/w/:workspace(\\d+)/start',
      name: 'start',
      meta: { title: 'Begin' },
      component: () => import('@/views/StartView.vue'),
    },
    {
      path: '/w/:workspace(\\d+)/words',
      name: 'words',
      meta: { title: 'Words' },
      component: () => import('@/views/WordsView.vue'),
    },
    {
      path: '/w/:workspace(\\d+)/record',
      name: 'record',
      meta: { title: 'Record of changes' },
      component: () => import('@/views/RecordView.vue'),
    },
    {
      path: '/w/:workspace(\\d+)/setup',
      name: 'setup',
      meta: { title: 'Setup' },
      component: () => import('@/views/SetupView.vue'),
    },
    {
      path: '/:rest(.*)',
      name: 'nowhere',
      meta: { title: 'Nothing here' },
      component: () => import('@/views/NowhereView.vue'),
    },
  ],
})

router.onError((error: unknown, to) => {
  if (error instanceof ApiProblem) {
    useRenewal().failed.value = { path: to.fullPath, reason: error.message }
    return
  }
  const isGone = error instanceof TypeError || /import|chunk|preload/i.test(String(error))
  if (!isGone) throw error
  renewOnce(to.fullPath)
})

router.beforeEach(async (to, from) => {
  if (to.name && OPEN.has(to.name)) return true
  const session = useSession()
  const isFirst = from === START_LOCATION
  // Who is there comes with what the desk shows first, where the address says whose desk.
  const desk = isFirst && to.name === 'desk' ? Number(to.params.workspace) : 0
  if (desk) askFirst(desk, to.query)
  if (!(await session.load(desk ? takeFirst(desk, 'session') : null)))
    return { name: 'sign-in', query: to.fullPath === '/' ? {} : { next: to.fullPath } }
  if (!('workspace' in to.params)) return true
  const asked = Number(to.params.workspace)
  const chosen = session.session?.workspaces.find((w) => w.id === asked)
  if (chosen?.needs_second && !session.session?.has_second)
    return { name: 'account', query: { needed: String(asked), next: to.fullPath } }
  if (session.choose(asked)) return true
  const first = session.session?.workspaces[0]
  if (asked === 0 && first && to.name)
    return { ...to, name: to.name, params: { ...to.params, workspace: String(first.id) } }
  return { name: 'nowhere', params: { rest: to.path.slice(1) } }
})

declare module 'vue-router' {
  interface RouteMeta {
    /** What the browser's tab calls the place. */
    title?: string
  }
}
