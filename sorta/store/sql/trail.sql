-- resolve_messages: everything a batch of messages hangs on, found or made (see the migration)
select n, known, message_id, identity_id, person_id, blocked, post_id, conversation, conversation_id, early
from resolve_messages(%(workspace_id)s, %(account_id)s, %(network)s, %(now)s, %(items)s);

-- write_trail: messages, events and the conversations' new projection, in one call, with the live notice
with made as (
  insert into conversation (id, workspace_id, account_id, person_id, post_id, thread_key, kind, public, network,
    person_name, handle, preview, messages, created_at, last_at, last_inbound_at, last_inbound_seq, seq,
    sorted, move, priority, owner_id, settled_as, parked_until, awaiting_since, due, unanswered, answering)
  select c.id, %(workspace_id)s, c.account_id, c.person_id, c.post_id, c.thread_key, c.kind, c.public, c.network,
    c.person_name, c.handle, c.preview, c.messages, c.created_at, c.last_at, c.last_inbound_at,
    c.last_inbound_seq, c.seq, c.sorted, c.move, c.priority, c.owner_id, c.settled_as, c.parked_until,
    c.awaiting_since, c.due, c.unanswered, c.answering
  from jsonb_populate_recordset(null::conversation, %(new)s) c
), changed as (
  update conversation old set kind = c.kind, person_name = c.person_name, handle = c.handle,
    preview = c.preview, messages = c.messages, last_at = c.last_at, last_inbound_at = c.last_inbound_at,
    last_inbound_seq = c.last_inbound_seq, seq = c.seq, sorted = c.sorted, move = c.move,
    priority = c.priority, owner_id = c.owner_id, settled_as = c.settled_as, parked_until = c.parked_until,
    awaiting_since = c.awaiting_since, due = c.due, unanswered = c.unanswered, answering = c.answering
  from jsonb_populate_recordset(null::conversation, %(changed)s) c
  where old.id = c.id and old.workspace_id = %(workspace_id)s and old.id = any(%(changed_ids)s::bigint[])
), said as (
  insert into message (id, workspace_id, conversation_id, account_id, external_id, inbound, kind, public,
    identity_id, member_id, body, in_reply_to, url, sent_at, arrived_at, edited_at, removed_at)
  select m.id, %(workspace_id)s, m.conversation_id, m.account_id, m.external_id, m.inbound, m.kind, m.public,
    m.identity_id, m.member_id, m.body, m.in_reply_to, m.url, m.sent_at, m.arrived_at, m.edited_at, m.removed_at
  from jsonb_populate_recordset(null::message, %(messages)s) m
), happened as (
  insert into trail (conversation_id, seq, workspace_id, kind, at, member_id, data)
  select t.conversation_id, t.seq, %(workspace_id)s, t.kind, t.at, t.member_id, t.data
  from jsonb_populate_recordset(null::trail, %(events)s) t
)
select pg_notify('sorta_live', %(notice)s);

-- get_conversation: one conversation, as its row
select id, account_id, person_id, post_id, thread_key, kind, public, network, person_name, handle, preview,
  messages, created_at, last_at, last_inbound_at, last_inbound_seq, seq, sorted, move, priority, owner_id,
  settled_as, parked_until, awaiting_since, due, unanswered, answering
from conversation where workspace_id = %(workspace_id)s and id = %(id)s;

-- lock_conversation: one conversation, as its row, until the transaction ends
select id, account_id, person_id, post_id, thread_key, kind, public, network, person_name, handle, preview,
  messages, created_at, last_at, last_inbound_at, last_inbound_seq, seq, sorted, move, priority, owner_id,
  settled_as, parked_until, awaiting_since, due, unanswered, answering
from conversation where workspace_id = %(workspace_id)s and id = %(id)s for no key update;

-- list_trail: the trail of a conversation, oldest first
select seq, kind, at, member_id, data from trail
where workspace_id = %(workspace_id)s and conversation_id = %(id)s order by seq;

-- list_messages: what was said in a conversation, oldest first, with where a reply of ours stands
select m.id, m.external_id, m.inbound, m.kind, m.public, m.member_id, m.body, m.url, m.sent_at, m.edited_at,
  m.removed_at, i.name as author_name, i.handle as author_handle, o.state as delivery, o.problem,
  o.not_before, o.attempts
from message m left join identity i on i.id = m.identity_id left join outbox o on o.message_id = m.id
where m.workspace_id = %(workspace_id)s and m.conversation_id = %(id)s order by m.sent_at, m.id;

-- get_last_inbound: the message of theirs that a reply answers
select m.id, m.external_id, m.identity_id, i.external_id as identity_external_id, i.handle, m.sent_at
from message m join identity i on i.id = m.identity_id
where m.workspace_id = %(workspace_id)s and m.conversation_id = %(id)s and m.inbound and m.removed_at is null
order by m.sent_at desc, m.id desc limit 1;

-- get_message_by_external_id: a message of an account by the network's name for it
select id, conversation_id, inbound, body, edited_at, removed_at from message
where workspace_id = %(workspace_id)s and account_id = %(account_id)s and external_id = %(external_id)s
for no key update;

-- set_message_text: the text after an edit outside; the earlier one is in the trail
update message set body = %(body)s, edited_at = %(at)s where workspace_id = %(workspace_id)s and id = %(id)s;

-- set_message_removed: marks a message as deleted outside; it stays readable here
update message set removed_at = %(at)s where workspace_id = %(workspace_id)s and id = %(id)s;

-- add_early_change: keeps an edit or a deletion for a message that has not come yet
insert into early_change (workspace_id, account_id, external_id, body, at)
values (%(workspace_id)s, %(account_id)s, %(external_id)s, %(body)s, %(at)s);

-- set_post: what is known of a post now; an empty stand-in never replaces what is known
insert into post as old (workspace_id, account_id, external_id, title, body, url, published_at, author)
values (%(workspace_id)s, %(account_id)s, %(external_id)s, %(title)s, %(body)s, %(url)s, %(published_at)s, %(author)s)
on conflict (account_id, external_id) do update set title = excluded.title, body = excluded.body,
  url = excluded.url, published_at = excluded.published_at, author = excluded.author
where excluded.title <> '' or excluded.body <> '';

-- get_post: a post with how much was said under it here
select p.id, p.title, p.body, p.url, p.published_at, p.author,
  (select count(*) from message m join conversation c on c.id = m.conversation_id
   where c.workspace_id = %(workspace_id)s and c.post_id = p.id and m.inbound) as comments,
  (select count(*) from reaction r where r.account_id = p.account_id and r.object_id = p.external_id) as reactions
from post p where p.workspace_id = %(workspace_id)s and p.id = %(id)s;

-- add_reaction: one reaction; known ones change nothing
with who as (
  insert into identity as had (workspace_id, person_id, network, external_id, handle, name, reach)
  select %(workspace_id)s, nextval('person_id_seq'), %(network)s, %(author)s, %(handle)s, %(name)s, %(reach)s
  where not exists (select from identity where workspace_id = %(workspace_id)s
    and network = %(network)s and external_id = %(author)s)
  on conflict (workspace_id, network, external_id) do update set name = excluded.name
  returning id, person_id, name
), person_made as (
  insert into person (id, workspace_id, name, first_at)
  select person_id, %(workspace_id)s, name, %(at)s from who on conflict (id) do nothing
)
insert into reaction (account_id, external_id, workspace_id, identity_id, object_id, at)
select %(account_id)s, %(external_id)s, %(workspace_id)s, i.id, %(object_id)s, %(at)s
from (select id from who union all select id from identity where workspace_id = %(workspace_id)s
  and network = %(network)s and external_id = %(author)s) i limit 1
on conflict do nothing;

-- next_message_id: the number of a message about to be written
select nextval('message_id_seq');

-- list_conversation_ids: every conversation of a workspace, for checking rows against trails
select id from conversation where workspace_id = %(workspace_id)s order by id;

-- list_parked_over: parked conversations whose time has come
select id from conversation
where workspace_id = %(workspace_id)s and move = 'parked' and parked_until <= %(now)s
order by parked_until limit 200;
