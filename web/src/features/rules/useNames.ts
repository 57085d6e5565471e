/** Names of what rules mention, from what is known of the workspace. */
import { computed } from 'vue'
import { useDirectory } from '@/composables/useDirectory'
import { usePosts } from '@/composables/usePosts'
import type { Names } from '@/lib/rules'

export function useNames() {
  const { byTag, byTeam, byMember, byNetwork, accounts, directory, members, offeredTags } = useDirectory()
  const { byPost, sayPost } = usePosts()
  const names = computed<Names>(() => ({
    tag: (id) => byTag.value.get(id) ?? 'a tag that is gone',
    team: (id) => byTeam.value.get(id) ?? 'a team that is gone',
    member: (id) => byMember.value.get(id)?.name.split(' ')[0] ?? 'somebody who is gone',
    account: (id) => {
      const account = accounts.value?.find((a) => a.id === id)
      return account
        ? `${account.name} on ${byNetwork.value.get(account.network)?.name ?? account.network}`
        : 'an account that is gone'
    },
    group: (id) => directory.value?.groups.find((g) => g.id === id)?.name ?? 'a group that is gone',
    saved: (id) => `“${directory.value?.saved_replies.find((r) => r.id === id)?.name ?? 'one that is gone'}”`,
    desk: (id) => directory.value?.desks.find((d) => d.id === id)?.name ?? 'a desk that is gone',
    post: (id) => {
      const post = byPost.value.get(id)
      return post ? `“${sayPost(post)}”` : id ? `our post ${id}` : 'a post …'
    },
    network: (key) => byNetwork.value.get(key)?.name ?? key,
  }))
  return { names, members, accounts, directory, byNetwork, offeredTags }
}
