-- cross: open conversations by two things at once, with the sums; {row}, {column}, {which} are fragments of `overview.py`
select {row} as row, {column} as column, grouping({row}) = 1 as all_rows, grouping({column}) = 1 as all_columns,
  count(distinct c.id) as n, count(distinct c.id) filter (where c.due < %(now)s) as late
from (select * from conversation where workspace_id = %(workspace_id)s and move <> 'settled' and {which}) c {tags}
group by grouping sets (({row}, {column}), ({row}), ({column}), ());

-- list_feed: everything that came in before an instant, newest first: messages and reactions
select * from (
  (select 'message' as what, m.id, m.conversation_id, m.kind, m.public, left(m.body, 200) as words, m.arrived_at as at,
     i.name, i.handle, c.network, c.move, m.rating, c.account_id
   from message m join conversation c on c.id = m.conversation_id left join identity i on i.id = m.identity_id
   where m.workspace_id = %(workspace_id)s and m.inbound and m.arrived_at < %(before)s
   order by m.arrived_at desc, m.id desc limit %(limit)s)
  union all
  (select 'reaction', 0, null, 'reaction', true, coalesce(nullif(p.title, ''), left(p.body, 80), ''), r.at,
     i.name, i.handle, i.network, null, null, r.account_id
   from reaction r join identity i on i.id = r.identity_id
     left join post p on p.account_id = r.account_id and p.external_id = r.object_id
   where r.workspace_id = %(workspace_id)s and r.at < %(before)s order by r.at desc limit %(limit)s)) f
order by at desc, id desc limit %(limit)s;

-- count_waiting: what waits for the team, and for one member
select
  (select coalesce(sum(n), 0)::bigint from (
    select n from tally where workspace_id = %(workspace_id)s and dimension = (select kept_by()) and move = 'unsorted'
    union all select n from tally_said where workspace_id = %(workspace_id)s and dimension = (select kept_by()) and move = 'unsorted') t) as unsorted,
  (select coalesce(sum(n), 0)::bigint from (
    select n from tally where workspace_id = %(workspace_id)s and dimension = (select kept_by()) and move = 'our_move'
    union all select n from tally_said where workspace_id = %(workspace_id)s and dimension = (select kept_by()) and move = 'our_move') t) as our_move,
  (select count(*) from conversation where workspace_id = %(workspace_id)s and move = 'unsorted' and sort_due < %(now)s)
  + (select count(*) from conversation where workspace_id = %(workspace_id)s and move = 'our_move' and sort_due < %(now)s) as late,
  (select count(*) from (select from conversation where workspace_id = %(workspace_id)s and owner_id = %(member_id)s
    and move in ('unsorted', 'our_move') limit 1000) c) as mine,
  (select count(*) from (select from conversation c join team_member t on t.workspace_id = c.workspace_id and t.team_id = c.team_id
    where c.workspace_id = %(workspace_id)s and t.member_id = %(member_id)s and c.move <> 'settled' and c.move in ('unsorted', 'our_move')
      and c.owner_id is distinct from %(member_id)s limit 1000) c) as my_team,
  (select count(*) from follow_up where workspace_id = %(workspace_id)s and member_id = %(member_id)s
    and done_at is null and due_at <= %(now)s) as follow_ups,
  (select count(*) from alert where workspace_id = %(workspace_id)s and member_id = %(member_id)s and read_at is null) as alerts,
  (select count(*) from alert where workspace_id = %(workspace_id)s and member_id = %(member_id)s and read_at is null and on_device) as device_alerts,
  (select count(*) from (select from rule_hit where workspace_id = %(workspace_id)s and reviewed_at is null and to_review
    limit 1000) h) as to_review,
  (select held_reason from workspace where id = %(workspace_id)s) as held_reason;

-- list_dues: when open work falls due, up to an instant, late ones included
select due, priority from conversation
where workspace_id = %(workspace_id)s and move = 'unsorted' and sort_due < %(until)s
union all select due, priority from conversation
where workspace_id = %(workspace_id)s and move = 'our_move' and sort_due < %(until)s;

-- count_finished: answers and settlings of members since two instants
select count(*) filter (where at >= %(lately)s) as lately, count(*) filter (where at >= %(today)s) as today
from trail where workspace_id = %(workspace_id)s and kind in ('replied', 'settled') and member_id is not null
  and at >= least(%(lately)s::timestamptz, %(today)s::timestamptz);
