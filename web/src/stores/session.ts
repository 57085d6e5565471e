/** Who is signed in, and which workspace is open. */
import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { api, ApiProblem, setCsrf, take } from '@/api/client'
import type { Session, Workspace } from '@/api/types'

export const useSession = defineStore('session', () => {
  const session = ref<Session | null>(null)
  const workspaceId = ref(0)
  const workspace = computed<Workspace | null>(
    () => session.value?.workspaces.find((w) => w.id === workspaceId.value) ?? null,
  )

  /** True when somebody is signed in; asks the server once. */
  async function load(): Promise<boolean> {
    if (session.value) return true
    try {
      session.value = await take(api.GET('/api/session'))
    } catch (error) {
      if (error instanceof ApiProblem && error.status === 401) return false
      throw error
    }
    setCsrf(session.value?.csrf ?? '')
    return true
  }

  /** What one is here has changed: ask anew; what is open stays. */
  async function refresh(): Promise<void> {
    session.value = await take(api.GET('/api/session'))
  }

  /** Open a workspace; false when the member does not work there. */
  function choose(id: number): boolean {
    if (!session.value?.workspaces.some((w) => w.id === id)) return false
    workspaceId.value = id
    return true
  }

  async function signIn(email: string, password: string): Promise<void> {
    await take(api.POST('/api/session', { body: { email, password } }))
    session.value = null
    await load()
  }

  async function signOut(): Promise<void> {
    await take(api.DELETE('/api/session'))
    session.value = null
    workspaceId.value = 0
  }

  /** Whether the member's role here holds a permission. */
  function may(permission: Workspace['permissions'][number]): boolean {
    return workspace.value?.permissions.includes(permission) ?? false
  }

  return { session, workspaceId, workspace, load, refresh, choose, signIn, signOut, may }
})
