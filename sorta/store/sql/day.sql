-- list_done: what a member did between two instants, by conversation, the latest first; what was undone aside
select t.conversation_id, c.person_name, c.network, c.move, max(t.at) as at, array_agg(t.kind order by t.seq) as kinds,
  count(*) over () as conversations
from trail t join conversation c on c.id = t.conversation_id
where t.workspace_id = %(workspace_id)s and c.workspace_id = %(workspace_id)s and t.member_id = %(member_id)s
  and t.at >= %(begins)s and t.at < %(ends)s and t.kind <> 'undone'
  and not exists (select from trail u where u.conversation_id = t.conversation_id and u.workspace_id = %(workspace_id)s
    and u.kind = 'undone' and u.data -> 'of' = to_jsonb(t.seq))
group by t.conversation_id, c.person_name, c.network, c.move order by at desc, t.conversation_id desc limit %(limit)s;

-- count_done: how often they did what
select t.kind, count(*) as n, count(distinct t.conversation_id) as conversations from trail t
where t.workspace_id = %(workspace_id)s and t.member_id = %(member_id)s and t.at >= %(begins)s and t.at < %(ends)s and t.kind <> 'undone'
  and not exists (select from trail u where u.conversation_id = t.conversation_id and u.workspace_id = %(workspace_id)s
    and u.kind = 'undone' and u.data -> 'of' = to_jsonb(t.seq))
group by t.kind order by n desc, t.kind;

-- list_due: what a member has in hand and falls due before an instant, late ones included, soonest first; and how many there are
select c.id as conversation_id, c.person_name, c.network, c.preview, c.priority, c.move, c.due, count(*) over () as total
from conversation c
where c.workspace_id = %(workspace_id)s and c.owner_id = %(member_id)s and c.move in ('unsorted', 'our_move') and c.due < %(until)s
order by c.due, c.id limit %(limit)s;

-- list_returning: what they parked, or have in hand parked, and comes back before an instant
select c.id as conversation_id, c.person_name, c.network, c.preview, c.parked_until as at
from conversation c
where c.workspace_id = %(workspace_id)s and c.owner_id = %(member_id)s and c.move = 'parked' and c.parked_until < %(until)s
order by c.parked_until, c.id limit %(limit)s;

-- list_follow_ups: what a member wanted to come back to, up to an instant
select f.id, f.person_id, p.name as person_name, f.words, f.due_at as at
from follow_up f join person p on p.id = f.person_id and p.workspace_id = f.workspace_id
where f.workspace_id = %(workspace_id)s and f.member_id = %(member_id)s and f.done_at is null and f.due_at < %(until)s
order by f.due_at, f.id limit %(limit)s;

-- list_later: answers of theirs that go out by themselves
select s.conversation_id, c.person_name, c.network, left(s.body, 200) as words, s.send_at as at
from scheduled_reply s join conversation c on c.id = s.conversation_id and c.workspace_id = s.workspace_id
where s.workspace_id = %(workspace_id)s and s.author_id = %(member_id)s and s.state = 'waiting' order by s.send_at, s.id limit %(limit)s;

-- list_sent_back: answers of theirs that were sent back and have not been put up again, while the conversation waits for us
select distinct on (p.conversation_id) p.conversation_id, c.person_name, c.network, p.reason as words, p.decided_at as at,
  m.name as from_name
from proposal p join conversation c on c.id = p.conversation_id and c.workspace_id = p.workspace_id
left join member m on m.id = p.decided_by
where p.workspace_id = %(workspace_id)s and p.author_id = %(member_id)s and p.state = 'sent_back' and c.move in ('unsorted', 'our_move')
  and not exists (select from proposal q where q.conversation_id = p.conversation_id and q.workspace_id = p.workspace_id and q.id > p.id)
order by p.conversation_id, p.id desc limit %(limit)s;

-- list_awaited: what they wait for from others: consent to an answer, advice from outside, a case with a desk
select * from (
  select 'approval' as what, p.conversation_id, c.person_name, c.network, left(p.body, 200) as words, p.made_at as since,
    (select string_agg(m.name, ', ' order by m.name) from jsonb_array_elements(p.asked) a join member m on m.id = (a ->> 'member')::bigint)
      as from_name
  from proposal p join conversation c on c.id = p.conversation_id and c.workspace_id = p.workspace_id
  where p.workspace_id = %(workspace_id)s and p.author_id = %(member_id)s and p.state = 'waiting'
  union all
  select 'advice', a.conversation_id, c.person_name, c.network, left(a.question, 200), a.asked_at, a.to_name
  from advice a join conversation c on c.id = a.conversation_id and c.workspace_id = a.workspace_id
  where a.workspace_id = %(workspace_id)s and a.asked_by = %(member_id)s and a.state in ('sending', 'asked', 'overdue')
  union all
  select 'case', s.conversation_id, c.person_name, c.network, coalesce(s.note, c.preview), s.opened_at, d.name
  from support_case s join conversation c on c.id = s.conversation_id and c.workspace_id = s.workspace_id
    join support_desk d on d.id = s.desk_id
  where s.workspace_id = %(workspace_id)s and s.opened_by = %(member_id)s and s.state in ('opening', 'open', 'waiting')) w
order by since, conversation_id limit %(limit)s;
