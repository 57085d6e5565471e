-- list_exported: conversations as exports show them, each with its first wait
select c.id, c.account_id, c.network, c.kind, c.public, c.person_name, c.handle, c.created_at, c.last_at, c.move, c.settled_as,
  c.priority, c.owner_id, c.team_id, c.tags, c.language, c.sentiment_band, c.reads_as, c.messages, s.since, s.ended_at, s.ended_by,
  s.clock_s, s.work_s, s.ended_at <= s.due as kept
from conversation c left join lateral (select * from spell x where x.conversation_id = c.id and x.workspace_id = %(workspace_id)s
  order by x.seq limit 1) s on true
where c.workspace_id = %(workspace_id)s and c.id = any(%(ids)s) order by c.id;

-- list_kept: reports that were kept under a name, one's own and shared ones
select id, name, shared, query, member_id = %(member_id)s as mine from kept_report
where workspace_id = %(workspace_id)s and (shared or member_id = %(member_id)s) order by lower(name), id;

-- add_kept: keeps a report under a name; one of one's own with that name is replaced
insert into kept_report (workspace_id, member_id, name, shared, query, kept_at)
values (%(workspace_id)s, %(member_id)s, %(name)s, %(shared)s, %(query)s, %(now)s)
on conflict (workspace_id, member_id, lower(name)) do update set name = excluded.name, shared = excluded.shared,
  query = excluded.query, kept_at = excluded.kept_at
returning id;

-- delete_kept: forgets a report of one's own
delete from kept_report where workspace_id = %(workspace_id)s and id = %(id)s and member_id = %(member_id)s;

-- count_kept: how many reports a member has kept
select count(*) from kept_report where workspace_id = %(workspace_id)s and member_id = %(member_id)s;

-- list_rule_doings: what each rule did in a period: on how many messages and conversations, and each effect how often
select r.id, r.body ->> 'name' as name, r.removed_at is not null as removed, h.messages, h.conversations, h.effects
from rule r cross join lateral (
  select count(*) as messages, count(distinct x.conversation_id) as conversations, (
    select coalesce(jsonb_object_agg(e.effect, e.n), '{}') from (
      select effect, count(*) as n from rule_hit y cross join unnest(y.effects) effect
      where y.rule_id = r.id and y.at >= %(begins)s and y.at < %(ends)s group by effect) e) as effects
  from rule_hit x where x.rule_id = r.id and x.at >= %(begins)s and x.at < %(ends)s) h
where r.workspace_id = %(workspace_id)s and h.messages > 0 order by h.messages desc, r.id;

-- list_approvals: answers that were put up for approval in a period: what became of them, and how long that took
select state, count(*) as n, percentile_cont(0.5) within group (order by extract(epoch from decided_at - made_at))::float8 as half,
  percentile_cont(0.9) within group (order by extract(epoch from decided_at - made_at))::float8 as nine
from proposal where workspace_id = %(workspace_id)s and made_at >= %(begins)s and made_at < %(ends)s group by state order by n desc, state;

-- list_saved_uses: which saved replies were used in a period, how often, and by how many members
select s.id, s.body ->> 'name' as name, s.archived_at is not null as archived, count(*) as n, count(distinct u.member_id) as members
from saved_reply_use u join saved_reply s on s.id = u.saved_reply_id
where u.workspace_id = %(workspace_id)s and u.at >= %(begins)s and u.at < %(ends)s group by s.id order by n desc, s.id;

-- list_clicks: which short links were opened in a period, how often; programs and members aside
select l.id, l.target, count(*) filter (where c.apart is null) as clicks, count(*) filter (where c.apart is not null) as apart
from link l join click c on c.link_id = l.id and c.at >= %(begins)s and c.at < %(ends)s
where l.workspace_id = %(workspace_id)s group by l.id order by clicks desc, l.id limit 100;

-- list_case_doings: cases that were handed over in a period, by desk and how they stand now
select d.name as desk, c.state, count(*) as n,
  percentile_cont(0.5) within group (order by extract(epoch from c.state_at - c.opened_at))::float8 as half
from support_case c join support_desk d on d.id = c.desk_id
where c.workspace_id = %(workspace_id)s and c.opened_at >= %(begins)s and c.opened_at < %(ends)s
group by d.name, c.state order by d.name, n desc, c.state;

-- count_replies: replies that members sent in a period, undone ones aside
select count(*) from trail t where t.workspace_id = %(workspace_id)s and t.kind = 'replied' and t.member_id is not null
  and t.at >= %(begins)s and t.at < %(ends)s and not exists (select from trail u where u.conversation_id = t.conversation_id
    and u.kind = 'undone' and u.data -> 'of' = to_jsonb(t.seq) and u.workspace_id = %(workspace_id)s);
