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

-- list_letters: what does not go out by a network and has not been taken: questions outside, cases, reports, invitations, alerts by mail and
-- by text message, events for programs; tried again at a time, or given up since an instant. What is not for who asks is left out.
select t.what, t.to_whom, t.about, t.conversation_id, t.problem, t.tries, t.next_at, t.since, t.many from (
  select 'question' as what, a.to_name as to_whom, a.question as about, a.conversation_id, a.problem, a.tries, a.next_at, a.asked_at as since, 1 as many
  from advice a join conversation c on c.id = a.conversation_id
  where a.workspace_id = %(workspace_id)s and a.problem is not null and (a.state = 'sending' or (a.state = 'refused' and a.asked_at > %(given_up_since)s))
  union all
  select 'case', d.name, c.person_name, s.conversation_id, s.problem, s.tries, s.next_at, s.state_at, 1
  from support_case s join conversation c on c.id = s.conversation_id join support_desk d on d.id = s.desk_id
  where s.workspace_id = %(workspace_id)s and s.problem is not null
    and (s.next_at is not null or (s.state = 'refused' and s.state_at > %(given_up_since)s))
  union all
  select 'report', l.to_address, r.name, null, l.problem, l.tries, case when l.state = 'waiting' then l.next_at end, l.due_at, 1
  from report_letter l join shared_report r on r.id = l.report_id
  where %(sees_reports)s and l.workspace_id = %(workspace_id)s and l.problem is not null
    and (l.state = 'waiting' or (l.state = 'refused' and l.due_at > %(given_up_since)s))
  union all
  select 'invitation', i.email, '', null, i.mail_problem, i.mail_tries, i.mail_next_at, i.made_at, 1
  from invitation i where %(manages_members)s and i.workspace_id = %(workspace_id)s and i.mail_problem is not null
    and i.taken_at is null and i.cancelled_at is null
    and (i.mail_state = 'waiting' or (i.mail_state = 'refused' and i.made_at > %(given_up_since)s))
  union all
  select 'alert_' || y.way, m.name, '', null, y.problem, max(y.tries), nullif(min(y.next_at), 'infinity'), min(y.leaves_at), count(*)::int
  from alert_way y join member m on m.id = y.member_id
  where (%(manages_members)s or y.member_id = %(member_id)s) and y.workspace_id = %(workspace_id)s and y.sent_at is null and y.problem is not null
    and y.leaves_at > %(given_up_since)s
  group by y.way, m.id, m.name, y.problem, y.next_at = 'infinity'
  union all
  select 'event', h.name, '', null, e.problem, max(e.attempts), case when e.state = 'waiting' then min(e.next_at) end, min(e.made_at), count(*)::int
  from hook_event e join web_hook h on h.id = e.hook_id
  where %(manages_accounts)s and e.workspace_id = %(workspace_id)s and e.problem is not null and h.removed_at is null
    and (e.state = 'waiting' or (e.state = 'failed' and e.made_at > %(given_up_since)s))
  group by h.id, h.name, e.problem, e.state
) t order by t.next_at nulls last, t.since desc limit 200;

-- try_letters: what waits to be tried again may go at once; what is being sent just now is left alone
with questions as (
  update advice set next_at = %(now)s where id in (select id from advice
    where workspace_id = %(workspace_id)s and state = 'sending' and problem is not null and next_at > %(now)s for update skip locked) returning 1
), cases as (
  update support_case set next_at = %(now)s where id in (select id from support_case
    where workspace_id = %(workspace_id)s and problem is not null and next_at > %(now)s for update skip locked) returning 1
), reports as (
  update report_letter set next_at = %(now)s where (report_id, due_at, to_address) in (select report_id, due_at, to_address from report_letter
    where %(sees_reports)s and workspace_id = %(workspace_id)s and state = 'waiting' and problem is not null and next_at > %(now)s
    for update skip locked) returning 1
), invitations as (
  update invitation set mail_next_at = %(now)s where id in (select id from invitation
    where %(manages_members)s and workspace_id = %(workspace_id)s and mail_state = 'waiting' and mail_problem is not null and mail_next_at > %(now)s
    for update skip locked) returning 1
), alerts as (
  update alert_way set next_at = %(now)s where (alert_id, way) in (select alert_id, way from alert_way
    where (%(manages_members)s or member_id = %(member_id)s) and workspace_id = %(workspace_id)s and sent_at is null and problem is not null
      and next_at > %(now)s and next_at < 'infinity' for update skip locked) returning 1
), events as (
  update hook_event set next_at = %(now)s where id in (select id from hook_event
    where %(manages_accounts)s and workspace_id = %(workspace_id)s and state = 'waiting' and problem is not null and next_at > %(now)s
    for update skip locked) returning 1
)
select (select count(*) from questions) + (select count(*) from cases) + (select count(*) from reports) + (select count(*) from invitations)
  + (select count(*) from alerts) + (select count(*) from events);
