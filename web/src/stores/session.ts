/** Who is signed in, and which workspace is open; what stands in the way when that is not so any more. */
import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { api, ApiProblem, setKeeper, setSender, take } from '@/api/client'
import type { Screen, Session, Workspace } from '@/api/types'

/** Why the page stands still: the session has ended, was ended in another tab, or another member signed in there. */
export type Gate = 'ended' | 'signed-out' | 'another'

export const useSession = defineStore('session', () => {
  const session = ref<Session | null>(null)
  const workspaceId = ref(0)
  const gate = ref<Gate | null>(null)
  /** Counts how often one signed in again over a page: what waited for that goes on. */
  const renewals = ref(0)
  /** By workspace, how much had been told live before the page asked for anything; never newer, or something would be missed. */
  const marks = new Map<number, string>()
  const workspace = computed<Workspace | null>(
    () => session.value?.workspaces.find((w) => w.id === workspaceId.value) ?? null,
  )
  /** The other tabs of this browser share the session. */
  const tabs = new BroadcastChannel('sorta-session')
  tabs.onmessage = (event: MessageEvent<number | null>) => {
    const mine = session.value?.member_id
    if (mine === undefined) return
    if (event.data === null) gate.value = 'signed-out'
    else if (event.data === mine) void renew()
    else gate.value = 'another'
  }

  function keep(one: Session | null): void {
    session.value = one
    setSender(one?.member_id ?? null, one?.csrf ?? '')
  }

  /** True when somebody is signed in; asks the server once. What comes `early` is taken, and where it does not come it is asked for. */
  async function load(early: Promise<Session | null> | null = null): Promise<boolean> {
    if (session.value) return true
    try {
      const found = (await early?.catch(() => null)) ?? (await take(api.GET('/api/session')))
      keep(found)
      for (const w of found.workspaces) if (!marks.has(w.id)) marks.set(w.id, w.heard)
    } catch (error) {
      if (error instanceof ApiProblem && error.status === 401) return false
      throw error
    }
    return true
  }

  /** Go on with whatever session there is now, and with what one may do by now; true when it is the same member's. */
  async function renew(): Promise<boolean> {
    let now: Session
    try {
      now = await take(api.GET('/api/session'))
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error
      if (error.status === 401) gate.value ??= 'ended'
      return false
    }
    if (session.value && now.member_id !== session.value.member_id) {
      gate.value = 'another'
      return false
    }
    keep(now)
    if (gate.value !== null) {
      gate.value = null
      renewals.value += 1
    }
    return true
  }
  setKeeper({
    renew,
    onEnded: () => session.value && (gate.value ??= 'ended'),
    onAnother: () => (gate.value = 'another'),
  })

  /** Open a workspace; false when the member does not work there. */
  function choose(id: number): boolean {
    if (!session.value?.workspaces.some((w) => w.id === id)) return false
    workspaceId.value = id
    return true
  }

  async function signIn(email: string, password: string): Promise<void> {
    await take(api.POST('/api/session', { body: { email, password } }))
    await enter()
  }

  /** The second step of whoever's password was right. */
  async function showCode(code: string): Promise<void> {
    await take(api.POST('/api/session/second', { body: { code } }))
    await enter()
  }

  /** A passkey, instead of a password or after it; why nothing came of it, where the browser says so. */
  async function showPasskey(): Promise<string> {
    const { options } = await take(api.POST('/api/session/passkey'))
    const { showPasskey: show } = await import('@/lib/passkeys')
    const shown = await show(options)
    if ('problem' in shown) return shown.problem
    await take(api.POST('/api/session/passkey/show', { body: shown }))
    await enter()
    return ''
  }

  /** The browser holds another session from now on. */
  async function enter(): Promise<void> {
    if (gate.value === null) keep(null)
    const isSame = session.value === null ? await load() : await renew()
    const now = isSame ? session.value : await take(api.GET('/api/session'))
    tabs.postMessage(now?.member_id ?? null)
    // Another member's page is another page: everything is asked for again, and the first one's words stay on the device.
    if (!isSame) location.reload()
  }

  async function signOut(): Promise<void> {
    await take(api.DELETE('/api/session'))
    tabs.postMessage(null)
    keep(null)
    workspaceId.value = 0
  }

  /** What is chosen holds at once: the next key may come before the server has answered. */
  async function setScreen(wish: Partial<Screen>): Promise<void> {
    const before = session.value?.screen
    const hold = (one: Partial<Screen> | undefined): void => {
      if (session.value) keep({ ...session.value, screen: { ...session.value.screen, ...one } })
    }
    hold(wish)
    try {
      await take(api.PUT('/api/session/screen', { body: wish }))
    } catch (error) {
      hold(before)
      throw error
    }
  }

  /** Milliseconds for which what was done stands at the bottom, to be taken back: as long as an answer is held back, and long enough to be read. */
  const undoLineFor = computed(() => Math.max(10, session.value?.undo_seconds ?? 0) * 1000)
  /** The language the workspace's team writes in. */
  const ownLanguage = computed(() => workspace.value?.languages[0] ?? 'en')
  /** Whether the team reads a language; of one that nobody knows it cannot be said. */
  const readsLanguage = (code: string | null): boolean =>
    code !== null && (workspace.value?.languages ?? ['en']).includes(code)

  /** Whether the member's role here holds a permission. */
  function may(permission: Workspace['permissions'][number]): boolean {
    return workspace.value?.permissions.includes(permission) ?? false
  }

  return {
    session,
    workspaceId,
    workspace,
    gate,
    renewals,
    marks,
    load,
    renew,
    choose,
    signIn,
    showCode,
    showPasskey,
    enter,
    signOut,
    setScreen,
    ownLanguage,
    undoLineFor,
    readsLanguage,
    may,
  }
})
