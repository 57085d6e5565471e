-- get_hold: whether what goes out is held
select held_at, held_by, held_reason from workspace where id = %(workspace_id)s;

-- hold: holds what goes out, unless it is held already
update workspace set held_at = %(at)s, held_by = %(by)s, held_reason = %(reason)s
where id = %(workspace_id)s and held_at is null returning id;

-- release: lets what was held go
update workspace set held_at = null, held_by = null, held_reason = null where id = %(workspace_id)s;

-- list_waiting: what has not gone out yet, in the order it may, with what holds it up
select o.id, o.conversation_id, o.account_id, o.what, o.state, o.problem, o.attempts, o.queued_at, o.not_before,
  coalesce(o.member_id, m.member_id) as member_id, m.rule_id, m.body, m.public, c.person_name, c.network,
  case when w.held_at is not null then 'held' when a.paused_reason is not null then 'paused'
    when o.state = 'sending' then 'sending'
    when exists (select from outbox e where e.conversation_id = o.conversation_id and e.id < o.id
      and e.state in ('queued', 'sending', 'waiting')) then 'behind'
    when a.silent_since is not null and o.state = 'queued' and o.not_before <= %(now)s then 'silent'
    when o.state = 'waiting' then 'again'
    when o.not_before > %(now)s and o.not_before > o.queued_at + interval '15 seconds' then 'limit' else 'now' end as why,
  case when a.paused_reason is not null then a.paused_reason end as paused_reason, a.silent_since
from outbox o join message m on m.id = o.message_id join conversation c on c.id = o.conversation_id
  join account a on a.id = o.account_id join workspace w on w.id = o.workspace_id
where o.workspace_id = %(workspace_id)s and o.state in ('queued', 'sending', 'waiting') order by o.not_before, o.id limit 300;

-- list_refused: what networks would not have in the last week, the latest first
select o.id, o.conversation_id, o.account_id, o.what, o.problem, o.queued_at, coalesce(o.member_id, m.member_id) as member_id,
  m.rule_id, m.body, m.public, c.person_name, c.network
from outbox o join message m on m.id = o.message_id join conversation c on c.id = o.conversation_id
where o.workspace_id = %(workspace_id)s and o.state = 'refused' and o.queued_at > %(now)s::timestamptz - interval '7 days'
order by o.id desc limit 100;

-- try_now: one that waits to be tried again may go at once
update outbox set not_before = %(now)s
where workspace_id = %(workspace_id)s and id = %(id)s and state in ('queued', 'waiting') and (state = 'waiting' or not_before <= %(now)s)
returning account_id;
