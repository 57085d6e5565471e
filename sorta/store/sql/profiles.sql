-- list_persons: records of people as the list shows them; {which}, {order} and {place} are fragments of `profiles.py`
select p.id, p.name, p.blocked, p.standing, p.first_at, p.points_at as last_at, {place} as place,
  (select count(*) from conversation c where c.person_id = p.id and c.workspace_id = %(workspace_id)s) as conversations,
  coalesce((select json_agg(json_build_object('network', i.network, 'handle', i.handle, 'reach', i.reach)
    order by i.network, i.handle) from identity i where i.person_id = p.id), '[]') as identities,
  coalesce((select array_agg(t.tag_id order by t.tag_id) from person_tag t where t.person_id = p.id), '{}') as tags,
  (select min(f.due_at) from follow_up f where f.person_id = p.id and f.done_at is null) as follow_up_at
from person p where p.workspace_id = %(workspace_id)s and p.joined_to is null and p.erased_at is null and {which}
order by {order} limit %(limit)s;

-- count_persons: how many records the filters let through; {which} as for list_persons
select count(*) from person p where p.workspace_id = %(workspace_id)s and p.joined_to is null and p.erased_at is null and {which};

-- get_joined_to: which record a joined one is part of now, or null
select joined_to from person where workspace_id = %(workspace_id)s and id = %(id)s;

-- is_person: whether there is such a record that stands for itself
select exists (select from person where workspace_id = %(workspace_id)s and id = %(id)s and joined_to is null and erased_at is null);

-- list_handles: a person's identities, each with the latest message of theirs there
select i.id, i.network, i.handle, i.name, i.reach,
  (select max(m.id) from conversation c join message m on m.conversation_id = c.id
   where c.person_id = i.person_id and m.identity_id = i.id and m.inbound and m.removed_at is null) as latest_message_id
from identity i where i.workspace_id = %(workspace_id)s and i.person_id = %(id)s order by i.network, i.handle;

-- list_contacts: a person's conversations on all accounts, newest first
select c.id, c.network, c.kind, c.public, c.preview, c.move, c.priority, c.messages, c.created_at, c.last_at,
  c.account_id, c.settled_as from conversation c
where c.workspace_id = %(workspace_id)s and c.person_id = %(id)s order by c.last_at desc, c.id desc limit 200;

-- list_worth: what a person's points come from, each kind's number and worth now
select w.kind, count(*) as n,
  sum(decayed(w.points, w.at, %(now)s::timestamptz)) as points
from (
  select m.kind, (%(points)s::jsonb ->> m.kind)::real as points, least(m.sent_at, m.arrived_at) as at
  from message m join conversation c on c.id = m.conversation_id
  where c.workspace_id = %(workspace_id)s and c.person_id = %(id)s and m.inbound
  union all select 'reaction', %(reaction)s::real, r.at from reaction r join identity i on i.id = r.identity_id
  where i.workspace_id = %(workspace_id)s and i.person_id = %(id)s) w
group by w.kind order by points desc;

-- set_points: a person's points anew, from everything they did
with done as (
  select (%(points)s::jsonb ->> m.kind)::real as points, least(m.sent_at, m.arrived_at) as at
  from message m join conversation c on c.id = m.conversation_id
  where c.workspace_id = %(workspace_id)s and c.person_id = %(id)s and m.inbound
  union all select %(reaction)s::real, r.at from reaction r join identity i on i.id = r.identity_id
  where i.workspace_id = %(workspace_id)s and i.person_id = %(id)s
), latest as (select max(at) as at from done)
update person set points_at = (select at from latest), points = coalesce((
    select sum(decayed(d.points, d.at, l.at)) from done d, latest l), 0)
where workspace_id = %(workspace_id)s and id = %(id)s;

-- list_facts: what the team has saved of a person
select id, name, value, member_id, at from person_fact
where workspace_id = %(workspace_id)s and person_id = %(id)s order by id;

-- add_fact: saves a fact
insert into person_fact (workspace_id, person_id, name, value, member_id, at)
values (%(workspace_id)s, %(id)s, %(name)s, %(value)s, %(member_id)s, %(now)s) returning id;

-- delete_fact: forgets a fact
delete from person_fact where workspace_id = %(workspace_id)s and person_id = %(id)s and id = %(fact_id)s;

-- add_marks: what belongs to one person only
insert into person_mark (workspace_id, kind, value, person_id)
select %(workspace_id)s, m.kind, m.value, m.person_id
from unnest(%(kinds)s::text[], %(texts)s::text[], %(persons)s::bigint[]) as m(kind, value, person_id)
on conflict do nothing;

-- list_candidates: records with the same name or a mark in common
select o.id as person_id, o.name, coalesce((
    select json_agg(json_build_object('kind', m.kind, 'value', m.value) order by m.kind, m.value)
    from person_mark m join person_mark mine on mine.workspace_id = m.workspace_id and mine.kind = m.kind
      and mine.value = m.value and mine.person_id = %(id)s
    where m.workspace_id = %(workspace_id)s and m.person_id = o.id), '[]') as shared
from person o where o.workspace_id = %(workspace_id)s and o.joined_to is null and o.erased_at is null and o.id <> %(id)s and o.id in (
  select n.id from person n where n.workspace_id = %(workspace_id)s and n.joined_to is null and lower(n.name) = (
    select lower(p.name) from person p where p.workspace_id = %(workspace_id)s and p.id = %(id)s)
  union select m.person_id from person_mark m join person_mark mine on mine.workspace_id = m.workspace_id
    and mine.kind = m.kind and mine.value = m.value and mine.person_id = %(id)s
  where m.workspace_id = %(workspace_id)s) order by o.id limit 20;

-- lock_identities: the handles of both, before their conversations and themselves: the order of whoever takes messages in
select id from identity where workspace_id = %(workspace_id)s and person_id = any(%(ids)s) order by id for no key update;

-- lock_conversations: what both have said, in the order of intake
select id from conversation where workspace_id = %(workspace_id)s and person_id = any(%(ids)s)
order by person_id, thread_key for no key update;

-- lock_persons: both records, in one order for everybody, until the transaction ends
select id, name, joined_to, erased_at, blocked, first_at from person
where workspace_id = %(workspace_id)s and id = any(%(ids)s) order by id for update;

-- move_all: everything of one record goes to another; what was moved, to be taken back. Where both have a
-- conversation of one key, the older words keep a key of their own and new ones go to the record that stays
with i as (update identity set person_id = %(to)s where workspace_id = %(workspace_id)s and person_id = %(gone)s returning id),
c as (update conversation c set person_id = %(to)s, thread_key = case when exists (select from conversation k
    where k.account_id = c.account_id and k.person_id = %(to)s and k.thread_key = c.thread_key)
    then c.thread_key || '#' || c.id else c.thread_key end
  where c.workspace_id = %(workspace_id)s and c.person_id = %(gone)s returning id),
f as (update person_fact set person_id = %(to)s where workspace_id = %(workspace_id)s and person_id = %(gone)s returning id),
u as (update follow_up set person_id = %(to)s where workspace_id = %(workspace_id)s and person_id = %(gone)s returning id),
t as (insert into person_tag (workspace_id, tag_id, person_id)
  select workspace_id, tag_id, %(to)s from person_tag where workspace_id = %(workspace_id)s and person_id = %(gone)s
  on conflict do nothing returning tag_id),
m as (insert into person_mark (workspace_id, kind, value, person_id)
  select workspace_id, kind, value, %(to)s from person_mark where workspace_id = %(workspace_id)s and person_id = %(gone)s
  on conflict do nothing returning kind, value)
select jsonb_build_object('identity', (select coalesce(jsonb_agg(id), '[]') from i),
  'conversation', (select coalesce(jsonb_agg(id), '[]') from c), 'fact', (select coalesce(jsonb_agg(id), '[]') from f),
  'follow_up', (select coalesce(jsonb_agg(id), '[]') from u), 'tag', (select coalesce(jsonb_agg(tag_id), '[]') from t),
  'mark', (select coalesce(jsonb_agg(jsonb_build_object('kind', kind, 'value', value)), '[]') from m)) as moved;

-- set_joined: the record is part of another from now on; who is blocked stays blocked
with gone as (update person set joined_to = %(to)s where workspace_id = %(workspace_id)s and id = %(gone)s
  returning blocked, first_at)
update person p set blocked = p.blocked or g.blocked, first_at = least(p.first_at, g.first_at) from gone g
where p.workspace_id = %(workspace_id)s and p.id = %(to)s;

-- add_join: remembers what was joined
insert into person_join (workspace_id, kept_id, gone_id, member_id, at, moved)
values (%(workspace_id)s, %(to)s, %(gone)s, %(member_id)s, %(now)s, %(moved)s) returning id;

-- list_joins: what was joined into a record and not taken apart
select j.id, j.gone_id, g.name, j.member_id, j.at from person_join j join person g on g.id = j.gone_id
where j.workspace_id = %(workspace_id)s and j.kept_id = %(id)s and j.undone_at is null order by j.id;

-- get_join: one joining, until the transaction ends
select id, kept_id, gone_id, moved from person_join
where workspace_id = %(workspace_id)s and id = %(join_id)s and undone_at is null for update;

-- move_back: everything that was moved goes back, and conversations since in which only those handles spoke
with j as (select %(moved)s::jsonb as moved),
i as (update identity set person_id = %(gone)s where workspace_id = %(workspace_id)s
  and id in (select x::bigint from j, jsonb_array_elements_text(j.moved -> 'identity') x) returning id),
c as (update conversation c set person_id = %(gone)s, thread_key = regexp_replace(c.thread_key, '#' || c.id || '$', '')
  where c.workspace_id = %(workspace_id)s and c.person_id = %(to)s and (
    c.id in (select x::bigint from j, jsonb_array_elements_text(j.moved -> 'conversation') x)
    or (exists (select from message m where m.conversation_id = c.id and m.inbound and m.identity_id in (
        select x::bigint from j, jsonb_array_elements_text(j.moved -> 'identity') x))
      and not exists (select from message m where m.conversation_id = c.id and m.inbound and m.identity_id not in (
        select x::bigint from j, jsonb_array_elements_text(j.moved -> 'identity') x))))),
f as (update person_fact set person_id = %(gone)s where workspace_id = %(workspace_id)s
  and id in (select x::bigint from j, jsonb_array_elements_text(j.moved -> 'fact') x)),
u as (update follow_up set person_id = %(gone)s where workspace_id = %(workspace_id)s
  and id in (select x::bigint from j, jsonb_array_elements_text(j.moved -> 'follow_up') x)),
t as (delete from person_tag where workspace_id = %(workspace_id)s and person_id = %(to)s
  and tag_id in (select x::bigint from j, jsonb_array_elements_text(j.moved -> 'tag') x)),
m as (delete from person_mark k using j, jsonb_to_recordset(j.moved -> 'mark') as x(kind text, value text)
  where k.workspace_id = %(workspace_id)s and k.person_id = %(to)s and k.kind = x.kind and k.value = x.value),
p as (update person set joined_to = null where workspace_id = %(workspace_id)s and id = %(gone)s)
update person_join set undone_at = %(now)s where workspace_id = %(workspace_id)s and id = %(join_id)s;

-- add_follow_up: something to do about a person at a time
insert into follow_up (workspace_id, person_id, member_id, words, due_at, made_by, made_at)
values (%(workspace_id)s, %(id)s, %(for_id)s, %(words)s, %(due_at)s, %(member_id)s, %(now)s) returning id;

-- set_follow_up_done: done, or open again
update follow_up set done_at = %(done_at)s, done_by = %(done_by)s
where workspace_id = %(workspace_id)s and id = %(follow_up_id)s returning person_id;

-- list_follow_ups: what is to be done about a person, open first
select id, person_id, member_id, words, due_at, made_by, made_at, done_by, done_at from follow_up
where workspace_id = %(workspace_id)s and person_id = %(id)s order by done_at is not null, due_at, id;

-- list_open_follow_ups: what is still to be done about a person, soonest first
select member_id, words, due_at from follow_up
where workspace_id = %(workspace_id)s and person_id = %(id)s and done_at is null order by due_at, id limit 20;

-- list_due_follow_ups: what a member has to do about people, soonest first
select f.id, f.person_id, p.name as person_name, f.member_id, f.words, f.due_at, f.made_by, f.made_at
from follow_up f join person p on p.id = f.person_id
where f.workspace_id = %(workspace_id)s and f.member_id = %(member_id)s and f.done_at is null
order by f.due_at, f.id limit 100;

-- is_partly_seen: whether people have said more than who asks sees
select is_partly_seen(%(workspace_id)s, %(ids)s);
