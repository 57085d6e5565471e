-- add_points: points for what people did (see the migration)
select add_points(%(workspace_id)s, %(persons)s::bigint[], %(points)s::real[], %(ats)s::timestamptz[]);

-- list_new_standings: mid-rank percentiles among the people with points, where they are others than before
with worth as (
  select id, standing, decayed(points, points_at, %(now)s::timestamptz) as points
  from person where workspace_id = %(workspace_id)s and points_at is not null
), ranked as (
  select id, standing as was, round(50.0 * (rank() over (order by points) - 1 + cume_dist() over (order by points) * count(*) over ())
    / count(*) over ())::smallint as standing from worth
)
select id, standing from ranked where was is distinct from standing order by id;

-- lock_open_of: the open conversations of some people, locked before the people are: the order of whoever takes messages in
select id from conversation where workspace_id = %(workspace_id)s and person_id = any(%(ids)s) and move <> 'settled'
order by person_id, thread_key for no key update;

-- set_standings: new standings of some people, and onto their open conversations
with given as (
  select * from unnest(%(ids)s::bigint[], %(standings)s::smallint[]) as g (id, standing)
), changed as (
  update person p set standing = g.standing from given g where p.workspace_id = %(workspace_id)s and p.id = g.id
)
update conversation c set standing = g.standing from given g
where c.workspace_id = %(workspace_id)s and c.person_id = g.id and c.move <> 'settled' and c.standing is distinct from g.standing;

-- get_person: a person with how often we met, and the points that standing comes from
select p.id, p.name, p.blocked, p.first_at, p.standing,
  decayed(p.points, p.points_at, %(now)s::timestamptz) as points,
  (select count(*) from conversation c where c.person_id = p.id) as conversations,
  (select count(*) from message m join conversation c on c.id = m.conversation_id
   where c.person_id = p.id and m.inbound) as messages,
  (select count(*) from reaction r join identity i on i.id = r.identity_id where i.person_id = p.id) as reactions,
  coalesce((select array_agg(t.tag_id order by t.tag_id) from person_tag t where t.person_id = p.id), '{}') as tags
from person p where p.workspace_id = %(workspace_id)s and p.id = %(id)s;

-- list_unlooked: handles of which it is not known yet what they look like
select id, handle from identity where workspace_id = %(workspace_id)s and look is null order by id limit %(limit)s;

-- set_looks: what handles look like, where they are still written so
update identity i set look = g.look from unnest(%(ids)s::bigint[], %(handles)s::text[], %(looks)s::text[]) as g (id, handle, look)
where i.workspace_id = %(workspace_id)s and i.id = g.id and i.handle = g.handle;

-- list_alike: other people's handles that look like one of this person's and were here before it
select i.handle, o.handle as other, p.name from identity i
join identity o on o.workspace_id = i.workspace_id and o.look = i.look and o.id < i.id and o.person_id <> i.person_id
join person p on p.id = o.person_id and p.workspace_id = o.workspace_id
where i.workspace_id = %(workspace_id)s and i.person_id = %(id)s order by o.id limit 50;

-- list_identities: the handles of a person
select network, handle, name, reach from identity
where workspace_id = %(workspace_id)s and person_id = %(id)s order by network, handle;

-- list_other_conversations: the person's other conversations, newest first
select id, network, kind, public, preview, move, last_at from conversation
where workspace_id = %(workspace_id)s and person_id = %(id)s and id <> %(conversation_id)s
order by last_at desc limit 8;

-- add_person_tag: tags a person
insert into person_tag (workspace_id, tag_id, person_id) values (%(workspace_id)s, %(tag_id)s, %(id)s)
on conflict do nothing;

-- delete_person_tag: takes a tag off a person
delete from person_tag where workspace_id = %(workspace_id)s and tag_id = %(tag_id)s and person_id = %(id)s;

-- set_blocked: what the network was told of a person
update person set blocked = %(blocked)s where workspace_id = %(workspace_id)s and id = %(id)s;
