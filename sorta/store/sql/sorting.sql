-- list_tags: the tags of a workspace
select id, name from tag where workspace_id = %(workspace_id)s order by lower(name);

-- add_tag: a new tag, or the one of that name
insert into tag (workspace_id, name) values (%(workspace_id)s, %(name)s)
on conflict (workspace_id, lower(name)) do update set name = tag.name returning id;

-- list_teams: the teams with their members
select t.id, t.name, t.way, coalesce(array_agg(m.member_id order by m.member_id) filter (where m.member_id is not null), '{}') as members
from team t left join team_member m on m.team_id = t.id and m.workspace_id = t.workspace_id
where t.workspace_id = %(workspace_id)s group by t.id, t.name order by lower(t.name);

-- add_team: a new team with its members
with made as (insert into team (workspace_id, name) values (%(workspace_id)s, %(name)s) returning id), filled as (
  insert into team_member (team_id, member_id, workspace_id)
  select made.id, m, %(workspace_id)s from made, unnest(%(members)s::bigint[]) m)
select id from made;

-- list_views: a member's saved views and the shared ones
select id, member_id, name, shared, query from saved_view
where workspace_id = %(workspace_id)s and (shared or member_id = %(member_id)s) order by lower(name), id;

-- set_view: saves a view under its name
insert into saved_view (workspace_id, member_id, name, shared, query)
values (%(workspace_id)s, %(member_id)s, %(name)s, %(shared)s, %(query)s)
on conflict (workspace_id, member_id, name) do update set shared = excluded.shared, query = excluded.query
returning id;

-- delete_view: forgets a view of one's own
delete from saved_view where workspace_id = %(workspace_id)s and member_id = %(member_id)s and id = %(id)s returning id;

-- get_message_target: a message as an act on a network needs to know it
select m.id, m.conversation_id, m.account_id, m.external_id, m.inbound, m.public, m.removed_at, m.hidden, m.liked,
  m.reposted, i.external_id as identity_external_id, coalesce(p.blocked, false) as blocked
from message m left join identity i on i.id = m.identity_id left join person p on p.id = i.person_id
where m.workspace_id = %(workspace_id)s and m.id = %(id)s;

-- set_moderated: what a message has become on its network
update message set liked = coalesce(%(liked)s, liked), hidden = coalesce(%(hidden)s, hidden),
  reposted = coalesce(%(reposted)s, reposted), removed_at = coalesce(%(removed_at)s, removed_at),
  removed_by = coalesce(%(removed_by)s, removed_by)
where workspace_id = %(workspace_id)s and id = %(id)s;

-- join_teams: a member is in these teams too
insert into team_member (team_id, member_id, workspace_id)
select t.id, %(member_id)s, %(workspace_id)s from team t where t.workspace_id = %(workspace_id)s and t.id = any(%(teams)s::bigint[])
on conflict do nothing;
