-- list_saved_replies: the saved replies with their use
select r.id, r.body, r.changed_by, r.changed_at, r.archived_at, coalesce(u.uses, 0) as uses, u.last_used_at
from saved_reply r
left join (select saved_reply_id, count(*) as uses, max(at) as last_used_at from saved_reply_use
  where workspace_id = %(workspace_id)s group by saved_reply_id) u on u.saved_reply_id = r.id
where r.workspace_id = %(workspace_id)s and (r.archived_at is null or %(archived)s) order by lower(r.body ->> 'name'), r.id;

-- get_languages: the language that each saved reply is written in
select id, body->>'language' as language from saved_reply where workspace_id = %(workspace_id)s;

-- get_saved_reply: one saved reply
select id, body, archived_at from saved_reply where workspace_id = %(workspace_id)s and id = %(id)s;

-- add_saved_reply: a new saved reply
insert into saved_reply (workspace_id, body, changed_by, changed_at)
values (%(workspace_id)s, %(body)s, %(member_id)s, %(now)s) returning id;

-- set_saved_reply: a saved reply as it is from now on
update saved_reply set body = %(body)s, changed_by = %(member_id)s, changed_at = %(now)s
where workspace_id = %(workspace_id)s and id = %(id)s and archived_at is null returning id;

-- set_archived: puts a saved reply away, or takes it out again
update saved_reply set archived_at = case when %(on)s then %(now)s::timestamptz end, changed_by = %(member_id)s, changed_at = %(now)s
where workspace_id = %(workspace_id)s and id = %(id)s returning id;

-- has_shortcut: whether another saved reply has a shortcut
select exists (select 1 from saved_reply where workspace_id = %(workspace_id)s and id <> %(id)s and archived_at is null
  and body ->> 'shortcut' = %(shortcut)s);

-- list_users: who has used a saved reply since
select member_id, count(*) as uses from saved_reply_use
where workspace_id = %(workspace_id)s and saved_reply_id = %(id)s and at >= %(since)s and member_id is not null
group by member_id order by count(*) desc, member_id;

-- add_use: an answer was made with a saved reply
insert into saved_reply_use (message_id, workspace_id, saved_reply_id, answered_id, member_id, at)
values (%(message_id)s, %(workspace_id)s, %(id)s, %(answered_id)s, %(member_id)s, %(now)s) on conflict do nothing;

-- count_learned: how many answers can be learned from, for knowing when there are new ones
select count(*) from saved_reply_use u join saved_reply r on r.id = u.saved_reply_id
where u.workspace_id = %(workspace_id)s and u.member_id is not null and u.answered_id is not null and r.archived_at is null;

-- list_learned: what was answered with which saved reply by members, the latest, oldest first
select body, saved_reply_id from (
  select m.body, u.saved_reply_id, u.at, u.message_id from saved_reply_use u join message m on m.id = u.answered_id
  join saved_reply r on r.id = u.saved_reply_id
  where u.workspace_id = %(workspace_id)s and u.member_id is not null and r.archived_at is null
  order by u.at desc, u.message_id desc limit %(most)s) latest order by at, message_id;

-- list_answered_otherwise: what members answered lately in their own words, oldest first
select body from (
  select i.body, o.id from message o cross join lateral (select m.body from message m where m.workspace_id = %(workspace_id)s
    and m.conversation_id = o.conversation_id and m.inbound and m.id < o.id order by m.id desc limit 1) i
  where o.workspace_id = %(workspace_id)s and not o.inbound and o.member_id is not null
    and not exists (select from saved_reply_use u where u.message_id = o.id)
  order by o.id desc limit %(most)s) latest order by id;

-- get_asked: what a saved reply is chosen and filled by
select c.account_id, c.network, c.person_name, c.seq, a.name as account_name, m.id as message_id, m.body, m.language,
  coalesce(array(select g.id from account_group g where g.workspace_id = c.workspace_id and c.account_id = any (g.accounts)), '{}') as groups
from conversation c join account a on a.id = c.account_id
left join lateral (select id, body, language from message where workspace_id = c.workspace_id and conversation_id = c.id and inbound
  and removed_at is null order by sent_at desc, id desc limit 1) m on true
where c.workspace_id = %(workspace_id)s and c.id = %(conversation_id)s;
