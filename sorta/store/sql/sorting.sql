-- list_tags: the tags of a workspace, also those that are retired
select id, name, heading, retired_at is not null as retired, merged_into from tag where workspace_id = %(workspace_id)s order by lower(name);

-- list_own_tags: the tags that a member has put on most, of their latest acts
select tag from (select t.kind, (t.data->>'tag')::bigint as tag from trail t
  where t.workspace_id = %(workspace_id)s and t.member_id = %(member_id)s order by t.at desc limit 1000) lately
where kind in ('tagged', 'person_tagged') group by tag order by count(*) desc, tag limit 12;

-- lock_tags: nobody changes a tag until the transaction ends
select id from tag where workspace_id = %(workspace_id)s order by id for update;

-- count_tagged: the conversations with each tag, and how many of them are open
select f.value as tag, count(*) as n, count(*) filter (where f.its_move <> 'settled') as open from filing f
where f.workspace_id = %(workspace_id)s and f.under = 'tag' group by f.value;

-- count_tagged_people: the people with each tag
select tag_id as tag, count(*) as n from person_tag where workspace_id = %(workspace_id)s group by tag_id;

-- list_naming_tags: the rules, policies and open draws that name tags, each with those
select 'rule' as what, r.body->>'name' as name, (t.id)::bigint as tag from rule r,
  lateral (select distinct v #>> '{}' as id from jsonb_path_query(r.body, '$.**.tags[*]') v) t
where r.workspace_id = %(workspace_id)s and r.removed_at is null
union all select 'policy', p.body->>'name', (t.id)::bigint from policy p,
  lateral (select distinct v #>> '{}' as id from jsonb_path_query(p.body, '$.**.tags[*]') v) t
where p.workspace_id = %(workspace_id)s and p.removed_at is null
union all select 'prize draw', 'announced for ' || to_char(d.deadline, 'DD Mon'), t.id from draw d,
  lateral (select (v #>> '{}')::bigint as id from jsonb_path_query(d.rules, '$.staff[*]') v) t
where d.workspace_id = %(workspace_id)s and d.drawn_at is null and d.cancelled_at is null;

-- set_tag: what a tag is called, what it stands under, whether it is retired
update tag set name = %(name)s, heading = %(heading)s,
  retired_at = case when %(retired)s then coalesce(retired_at, %(now)s) end where workspace_id = %(workspace_id)s and id = %(id)s;

-- merge_tag: a tag is another from now on, and so are those that were merged into it
update tag set merged_into = %(into)s, retired_at = coalesce(retired_at, %(now)s)
where workspace_id = %(workspace_id)s and (id = %(id)s or merged_into = %(id)s);

-- list_all_views: everybody's saved views
select id, query from saved_view where workspace_id = %(workspace_id)s for update;

-- set_view_query: another query for a saved view
update saved_view set query = %(query)s where workspace_id = %(workspace_id)s and id = %(id)s;

-- list_to_merge: some conversations that still have a tag that is another by now
select f.conversation_id, f.value as tag, t.merged_into as into_tag from tag t join filing f on f.under = 'tag' and f.value = t.id
where t.workspace_id = %(workspace_id)s and t.merged_into is not null order by f.conversation_id limit %(limit)s;

-- merge_people: some people who still have a tag that is another by now have that one
with gone as (delete from person_tag where (tag_id, person_id) in (select p.tag_id, p.person_id from tag t join person_tag p on p.tag_id = t.id
  where t.workspace_id = %(workspace_id)s and t.merged_into is not null limit %(limit)s) returning tag_id, person_id),
made as (insert into person_tag (workspace_id, tag_id, person_id) select distinct t.workspace_id, t.merged_into, g.person_id
  from gone g join tag t on t.id = g.tag_id on conflict do nothing)
select count(*) from gone;

-- add_tag: a new tag, or the one of that name
insert into tag (workspace_id, name, heading) values (%(workspace_id)s, %(name)s, %(heading)s)
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
