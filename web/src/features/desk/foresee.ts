/** What is shown of an act before its answer is there. */
import type { Act, Sheet } from '@/api/types'

type Conversation = Sheet['conversation']

/**
 * A conversation with what an act itself says of it: who is to have it, who is to watch it. What follows from that (whose move it is, by when, which
 * team keeps it) is for the server to say. Tests hold it against what the server makes of the same act.
 */
export function foresee(c: Conversation, act: Act, me: number): Conversation {
  if (act.act === 'watch') {
    const others = c.watchers.filter((id) => id !== me)
    return { ...c, watchers: act.on ? [...others, me] : others }
  }
  if (act.act === 'assign')
    return act.owner_id ? { ...c, owner_id: act.owner_id } : { ...c, owner_id: null, team_id: act.team_id ?? null }
  return c
}
