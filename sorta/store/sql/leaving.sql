-- list_former: who worked here and does no more
select m.id, m.name, m.initials, f.role, f.left_at, f.let_go_by, f.to_owner, f.to_team
from former_member f join member m on m.id = f.member_id where f.workspace_id = %(workspace_id)s order by f.left_at desc, m.id;

-- count_work: what would be without its member
select
  (select count(*) from conversation c where c.workspace_id = %(workspace_id)s and c.owner_id = %(member_id)s and c.move <> 'settled') as open,
  (select count(*) from proposal p where p.workspace_id = %(workspace_id)s and p.author_id = %(member_id)s and p.state = 'waiting') as proposals,
  (select count(*) from proposal p where p.workspace_id = %(workspace_id)s and p.state = 'waiting'
    and exists (select from jsonb_array_elements(p.asked) a where (a->>'member')::bigint = %(member_id)s)) as asked,
  (select count(*) from scheduled_reply s where s.workspace_id = %(workspace_id)s and s.author_id = %(member_id)s and s.state = 'waiting') as scheduled,
  (select count(*) from follow_up f where f.workspace_id = %(workspace_id)s and f.member_id = %(member_id)s and f.done_at is null) as follow_ups,
  (select count(*) from draft d where d.workspace_id = %(workspace_id)s and d.member_id = %(member_id)s) as drafts,
  (select coalesce(array_agg(t.name order by t.name), '{}') from team_member x join team t on t.id = x.team_id
    where x.workspace_id = %(workspace_id)s and x.member_id = %(member_id)s) as teams,
  (select coalesce(array_agg(distinct p.body->>'name'), '{}') from policy p where p.workspace_id = %(workspace_id)s and p.removed_at is null
    and p.body->'members' @> to_jsonb(%(member_id)s::bigint)) as policies,
  (select coalesce(array_agg(distinct r.body->>'name'), '{}') from rule r where r.workspace_id = %(workspace_id)s and r.removed_at is null
    and (jsonb_path_exists(r.body, '$.** ? (@.member == $who)', jsonb_build_object('who', %(member_id)s::bigint))
      or jsonb_path_exists(r.body, '$.**.members[*] ? (@ == $who)', jsonb_build_object('who', %(member_id)s::bigint)))) as rules;

-- let_go: no member of this workspace from now on, nor of its teams; what they were writing is shown to colleagues, and what they wanted to
-- be reminded of goes to another
with gone as (delete from membership where workspace_id = %(workspace_id)s and member_id = %(member_id)s returning role),
  teams as (delete from team_member where workspace_id = %(workspace_id)s and member_id = %(member_id)s),
  groups as (delete from account_group_member where workspace_id = %(workspace_id)s and member_id = %(member_id)s),
  drafts as (update draft set shared = true where workspace_id = %(workspace_id)s and member_id = %(member_id)s and mode <> 'note'),
  follow_ups as (update follow_up set member_id = %(follow_ups_to)s
    where workspace_id = %(workspace_id)s and member_id = %(member_id)s and done_at is null)
insert into former_member (workspace_id, member_id, role, left_at, let_go_by, to_owner, to_team)
select %(workspace_id)s, %(member_id)s, role, %(now)s, %(by)s, %(to_owner)s, %(to_team)s from gone
on conflict (workspace_id, member_id) do update set role = excluded.role, left_at = excluded.left_at, let_go_by = excluded.let_go_by,
  to_owner = excluded.to_owner, to_team = excluded.to_team;

-- end_sessions: wherever somebody is signed in who works nowhere any more
with gone as (delete from session where member_id = %(member_id)s), links as (delete from password_link where member_id = %(member_id)s)
delete from device where member_id = %(member_id)s;

-- share_draft: colleagues see it
update draft set shared = true where workspace_id = %(workspace_id)s and member_id = %(member_id)s and conversation_id = %(conversation_id)s
  and mode <> 'note';

-- list_left: what is still with those who work here no more
select 'owned' as what, c.id, c.id as conversation_id, f.member_id from former_member f join conversation c
  on c.workspace_id = f.workspace_id and c.owner_id = f.member_id and c.move <> 'settled' where f.workspace_id = %(workspace_id)s
union all select 'proposal', p.id, p.conversation_id, f.member_id from former_member f join proposal p
  on p.workspace_id = f.workspace_id and p.author_id = f.member_id and p.state = 'waiting' where f.workspace_id = %(workspace_id)s
union all select 'scheduled', s.id, s.conversation_id, f.member_id from former_member f join scheduled_reply s
  on s.workspace_id = f.workspace_id and s.author_id = f.member_id and s.state = 'waiting' where f.workspace_id = %(workspace_id)s
limit %(limit)s;
