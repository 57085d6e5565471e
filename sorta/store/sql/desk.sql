-- list_rows: rows of the queue as one JSON text; {source}, {which}, {order} and {place} are fragments of `desk.py`. What is
-- aggregated comes sorted, and stays so: nothing is joined to it.
select coalesce(json_agg(p), '[]')::text from (
  select c.id, c.account_id, c.person_id, c.person_name, c.handle, c.network, c.kind, c.public, c.preview, c.messages,
    c.move, c.priority, c.owner_id, c.settled_as, c.parked_until, c.awaiting_since, c.due, c.last_at, c.seq, c.team_id,
    c.tags, c.sentiment_band, c.reads_as, c.language, c.rating, c.standing, c.bare_mention,
    c.thanked is not null and c.settled_as is not null as thanked, cardinality(c.linked) > 0 as linked,
    jsonb_array_length(c.answering) > 0 as on_its_way,
    (select a->>'stuck' from jsonb_array_elements(c.answering) a where a ? 'stuck' limit 1) as stuck, c.last_inbound_at,
    %(member_id)s = any(c.watchers) as watched,
    c.last_inbound_seq > coalesce((select r.seq from read_mark r
      where r.member_id = %(member_id)s and r.conversation_id = c.id), 0) as unread,
    {place} as place
  from (
    select conversation.* from {source}
    where conversation.workspace_id = %(workspace_id)s and {which}
    order by {order} limit %(limit)s) c) p;

-- count_moves: how many conversations are at each move, from the kept counts and what has changed since
select move, sum(n)::bigint as total from (
  select move, n from tally where workspace_id = %(workspace_id)s and dimension = (select kept_by())
  union all select move, n from tally_said where workspace_id = %(workspace_id)s and dimension = (select kept_by())) t
group by move;

-- count_values: how many conversations of a move have each value of each dimension
select dimension, value, sum(n)::bigint as n from (
  select dimension, value, n from tally where workspace_id = %(workspace_id)s and move = %(move)s
  union all select dimension, value, n from tally_said where workspace_id = %(workspace_id)s and move = %(move)s) t
group by dimension, value having sum(n) > 0;

-- count_values_seen: as count_values, counted anew, for who sees a part
select d.dimension, d.value, count(*) as n
from conversation c cross join lateral count_under(c.owner_id, c.team_id, c.account_id, c.kind, c.public, c.priority, c.sentiment_band,
    c.reads_as, c.language, c.tags) d
where c.workspace_id = %(workspace_id)s and c.move = %(move)s group by 1, 2;

-- count_flags: within a move, what is counted when asked: flags and tags of people; unread only up to a thousand
select 'attachment' as dimension, 'true' as value, count(*) as n from conversation
where workspace_id = %(workspace_id)s and {move} and has_attachment
union all select 'bare_mention', 'true', count(*) from conversation
where workspace_id = %(workspace_id)s and {move} and bare_mention
union all select 'watched', 'true', count(*) from filing
where workspace_id = %(workspace_id)s and under = 'watch' and value = %(member_id)s and its_{move}
union all select 'unread', 'true', count(*) from (select from conversation c
  where c.workspace_id = %(workspace_id)s and {move} and not exists (select from read_mark u
    where u.member_id = %(member_id)s and u.conversation_id = c.id and u.seq >= c.last_inbound_seq) limit 1000) u
union all select 'person_tag', value::text, count(*) from filing
where workspace_id = %(workspace_id)s and under = 'person_tag' and its_{move} group by value;

-- count_bands: how many of the open conversations are in each band of due; {which} is a fragment of `desk.py`
select move,
  count(*) as total,
  count(*) filter (where due < %(now)s) as late,
  count(*) filter (where due >= %(now)s and due < %(hour)s) as within_hour,
  count(*) filter (where due >= %(hour)s and due < %(today)s) as later_today,
  count(*) filter (where due >= %(hour)s and due >= %(today)s) as after_today,
  count(*) filter (where due is null) as not_due
from conversation where workspace_id = %(workspace_id)s and {which} group by move;

-- fold_tally: adds what has changed to the kept counts; both together are the same before and after
with taken as (
  delete from tally_change where workspace_id = %(workspace_id)s
  returning sign, move, owner_id, team_id, account_id, kind, public, priority, sentiment_band, reads_as, language, tags
), said as (
  select t.move, d.dimension, d.value, sum(t.sign) as n
  from taken t cross join lateral count_under(t.owner_id, t.team_id, t.account_id, t.kind, t.public, t.priority, t.sentiment_band,
    t.reads_as, t.language, t.tags) d
  group by 1, 2, 3 having sum(t.sign) <> 0
)
insert into tally (workspace_id, move, dimension, value, n)
select %(workspace_id)s, move, dimension, value, n from said
on conflict (workspace_id, dimension, move, value) do update set n = tally.n + excluded.n;

-- list_ids: the conversations that the filters let through, in the order of due; fragments as for list_rows
select id, seq from conversation where workspace_id = %(workspace_id)s and {which}
order by sort_due, sort_rank, id limit %(limit)s;

-- count_some: how many conversations the filters let through, up to a limit; fragments as for list_rows
select count(*) as n from (select from conversation where workspace_id = %(workspace_id)s and {which} limit %(limit)s) c;

-- is_common: whether words stand in so many messages that looking into each conversation finds a page soonest
select is_common(%(words)s::text[]);

-- plan_once: the plan of a page whose filter has an index in its order: planning it for each value takes longer than the page. That
-- index is walked: made for any workspace, a plan takes all that the filter lets through for a few hundred, and sorts them
select set_config('plan_cache_mode', 'force_generic_plan', true), set_config('enable_sort', 'off', true),
  set_config('enable_bitmapscan', 'off', true);

-- set_read: a member has seen a conversation up to this event
insert into read_mark as r (member_id, conversation_id, workspace_id, seq)
values (%(member_id)s, %(conversation_id)s, %(workspace_id)s, %(seq)s)
on conflict (member_id, conversation_id) do update set seq = greatest(r.seq, excluded.seq);

-- set_draft: keeps what a member is typing in one mode; nothing comes back when other words were kept meanwhile
insert into draft (member_id, conversation_id, workspace_id, mode, body, shared, attachments, account_id, updated_at)
values (%(member_id)s, %(conversation_id)s, %(workspace_id)s, %(mode)s, %(body)s, %(shared)s, %(attachments)s,
  (select a.id from account a where a.workspace_id = %(workspace_id)s and a.id = %(account)s), %(now)s)
on conflict (member_id, conversation_id, mode) do update
  set body = excluded.body, shared = excluded.shared, attachments = excluded.attachments,
    account_id = excluded.account_id, updated_at = excluded.updated_at, rev = draft.rev + 1
  where draft.rev = %(rev)s or draft.body = excluded.body
returning rev;

-- get_draft: what a member was typing here in one mode
select mode, body, shared, attachments, account_id as account, rev from draft where workspace_id = %(workspace_id)s
  and member_id = %(member_id)s and conversation_id = %(conversation_id)s and mode = %(mode)s;

-- list_drafts: what a member was typing here, what was touched last first
select mode, body, shared, attachments, account_id as account, rev from draft where workspace_id = %(workspace_id)s
  and member_id = %(member_id)s and conversation_id = %(conversation_id)s order by updated_at desc, mode;

-- list_shared_drafts: what colleagues show of what they are typing here
select member_id, mode, body, updated_at from draft where workspace_id = %(workspace_id)s
  and conversation_id = %(conversation_id)s and member_id <> %(member_id)s and shared order by updated_at;

-- delete_draft: forgets what a member was typing here in one mode
delete from draft where workspace_id = %(workspace_id)s and member_id = %(member_id)s
  and conversation_id = %(conversation_id)s and mode = %(mode)s;

-- set_presence: what a member has open now, told to the others at once
with here as (
  insert into presence as was (workspace_id, member_id, conversation_id, doing, at, since)
  values (%(workspace_id)s, %(member_id)s, %(conversation_id)s, %(doing)s, %(now)s, %(now)s)
  on conflict (workspace_id, member_id) do update
    set conversation_id = excluded.conversation_id, doing = excluded.doing, at = excluded.at,
      since = case when was.conversation_id = excluded.conversation_id and was.at > %(present_since)s then was.since
        else excluded.since end
)
select pg_notify('sorta_live', %(notice)s);

-- get_open_since: since when a member has had a conversation open without a break, where they still have
select since from presence where workspace_id = %(workspace_id)s and member_id = %(member_id)s
  and conversation_id = %(conversation_id)s and at > %(present_since)s;

-- delete_presence: a member has left the desk
with gone as (
  delete from presence where workspace_id = %(workspace_id)s and member_id = %(member_id)s
)
select pg_notify('sorta_live', %(notice)s);

-- list_presence: who has what open, heard of since
select member_id, conversation_id, doing from presence
where workspace_id = %(workspace_id)s and at > %(since)s order by member_id;
