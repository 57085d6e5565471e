/** Who works here, which accounts there are and what their networks can do. */
import { useAsk } from '@/composables/useAsk'
import { computed } from 'vue'
import { api, take } from '@/api/client'
import type { Account, Directory, Member, Network } from '@/api/types'
import { takeFirst } from '@/api/first'
import { useSession } from '@/stores/session'

export function useDirectory() {
  const session = useSession()
  const path = computed(() => ({ params: { path: { workspace_id: session.workspaceId } } }))
  const key = (name: string) => () => [name, session.workspaceId]
  const { data: everybody, refetch: refetchMembers } = useAsk<Member[]>('The members', {
    key: key('members'),
    query: () =>
      takeFirst(session.workspaceId, 'members') ?? take(api.GET('/api/workspaces/{workspace_id}/members', path.value)),
    staleTime: 60_000,
  })
  const { data: networks } = useAsk<Network[]>('The networks', {
    key: key('networks'),
    query: () =>
      takeFirst(session.workspaceId, 'networks') ??
      take(api.GET('/api/workspaces/{workspace_id}/networks', path.value)),
    staleTime: 600_000,
  })
  const { data: accounts, refetch: refetchAccounts } = useAsk<Account[]>('The accounts', {
    key: key('accounts'),
    query: () =>
      takeFirst(session.workspaceId, 'accounts') ??
      take(api.GET('/api/workspaces/{workspace_id}/accounts', path.value)),
    staleTime: 60_000,
  })
  const { data: directory, refetch: refetchDirectory } = useAsk<Directory>('Tags and teams', {
    key: key('directory'),
    query: () =>
      takeFirst(session.workspaceId, 'directory') ??
      take(api.GET('/api/workspaces/{workspace_id}/directory', path.value)),
    staleTime: 30_000,
  })
  const byTag = computed(() => new Map((directory.value?.tags ?? []).map((t) => [t.id, t.name])))
  /** Tags that can be put on: one's own most used first, then by name. */
  const offeredTags = computed(() => {
    const own = new Map((directory.value?.own_tags ?? []).map((id, place) => [id, place]))
    const placeOf = (id: number): number => own.get(id) ?? own.size
    return (directory.value?.tags ?? []).filter((t) => !t.retired).sort((a, b) => placeOf(a.id) - placeOf(b.id))
  })
  const byTeam = computed(() => new Map((directory.value?.teams ?? []).map((t) => [t.id, t.name])))
  /** Who works here now; names are told of who did, too. */
  const members = computed(() => everybody.value?.filter((m) => !m.left_at))
  const byMember = computed(() => new Map((everybody.value ?? []).map((m) => [m.id, m])))
  const byNetwork = computed(() => new Map((networks.value ?? []).map((n) => [n.network, n])))
  /** A member's first name; `Somebody` for one who is not in the list yet. */
  const sayMember = (id: number | null | undefined): string =>
    (id && byMember.value.get(id)?.name.split(' ')[0]) || 'Somebody'
  return {
    directory,
    refetchDirectory,
    byTag,
    offeredTags,
    byTeam,
    members,
    everybody,
    refetchMembers,
    networks,
    accounts,
    refetchAccounts,
    byMember,
    byNetwork,
    sayMember,
  }
}
