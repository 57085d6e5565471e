/** Addresses. `/w/1/desk/42` opens a conversation for whoever may see it. */
import { createRouter, createWebHistory } from 'vue-router'
import { useSession } from '@/stores/session'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/sign-in', name: 'sign-in', component: () => import('@/views/SignInView.vue') },
    { path: '/', name: 'home', redirect: { name: 'desk', params: { workspace: '0' } } },
    {
      path: '/w/:workspace(\\d+)/desk/:conversation(\\d+)?',
      name: 'desk',
      component: () => import('@/views/DeskView.vue'),
    },
    { path: '/w/:workspace(\\d+)/overview', name: 'overview', component: () => import('@/views/OverviewView.vue') },
    {
      path: '/w/:workspace(\\d+)/people/:person(\\d+)?',
      name: 'people',
      component: () => import('@/views/PeopleView.vue'),
    },
    {
      path: '/w/:workspace(\\d+)/approvals/:proposal(\\d+)?',
      name: 'approvals',
      component: () => import('@/views/ApprovalsView.vue'),
    },
    { path: '/w/:workspace(\\d+)/cases', name: 'cases', component: () => import('@/views/CasesView.vue') },
    { path: '/w/:workspace(\\d+)/outgoing', name: 'outgoing', component: () => import('@/views/OutgoingView.vue') },
    { path: '/w/:workspace(\\d+)/draws/:draw(\\d+)?', name: 'draws', component: () => import('@/views/DrawsView.vue') },
    { path: '/w/:workspace(\\d+)/team', name: 'team', component: () => import('@/views/TeamView.vue') },
    { path: '/w/:workspace(\\d+)/rules', name: 'rules', component: () => import('@/views/RulesView.vue') },
    { path: '/w/:workspace(\\d+)/rules/review', name: 'review', component: () => import('@/views/RulesView.vue') },
    { path: '/w/:workspace(\\d+)/setup', name: 'setup', component: () => import('@/views/SetupView.vue') },
    { path: '/:rest(.*)', name: 'nowhere', component: () => import('@/views/NowhereView.vue') },
  ],
})

router.beforeEach(async (to) => {
  if (to.name === 'sign-in') return true
  const session = useSession()
  if (!(await session.load())) return { name: 'sign-in', query: to.fullPath === '/' ? {} : { next: to.fullPath } }
  if (!('workspace' in to.params)) return true
  const asked = Number(to.params.workspace)
  if (session.choose(asked)) return true
  const first = session.session?.workspaces[0]
  if (asked === 0 && first && to.name)
    return { ...to, name: to.name, params: { ...to.params, workspace: String(first.id) } }
  return { name: 'nowhere', params: { rest: to.path.slice(1) } }
})
