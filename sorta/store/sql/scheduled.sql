-- add_scheduled: an answer to be sent later
insert into scheduled_reply (workspace_id, conversation_id, author_id, public, body, settle, extras, seen_seq, send_at, made_at)
values (%(workspace_id)s, %(conversation_id)s, %(author_id)s, %(public)s, %(body)s, %(settle)s, %(extras)s, %(seen_seq)s,
  %(send_at)s, %(now)s) returning id;

-- lock_conversation: the conversation it hangs on, until the transaction ends; locked before the row itself, as everywhere
select c.id from conversation c join scheduled_reply x on x.conversation_id = c.id
where x.workspace_id = %(workspace_id)s and x.id = %(id)s and c.workspace_id = %(workspace_id)s for update of c;

-- get_scheduled: one of them, until the transaction ends
select id, conversation_id, author_id, public, body, settle, extras, seen_seq, send_at, made_at, state, problem
from scheduled_reply where workspace_id = %(workspace_id)s and id = %(id)s for update;

-- get_waiting: the one that waits in a conversation
select id, author_id, public, body, settle, send_at, seen_seq, extras from scheduled_reply
where workspace_id = %(workspace_id)s and conversation_id = %(conversation_id)s and state = 'waiting';

-- set_scheduled: other words or another time
update scheduled_reply set body = %(body)s, send_at = %(send_at)s, seen_seq = %(seen_seq)s
where workspace_id = %(workspace_id)s and id = %(id)s and state = 'waiting';

-- end_scheduled: it has gone, was taken back or could not go
update scheduled_reply set state = %(state)s, problem = %(problem)s, ended_at = %(now)s
where workspace_id = %(workspace_id)s and id = %(id)s and state = 'waiting' returning conversation_id, author_id, body, extras;

-- list_due: those whose time has come
select id from scheduled_reply where workspace_id = %(workspace_id)s and state = 'waiting' and send_at <= %(now)s
order by send_at, id limit 200;

-- list_scheduled: all that wait, and those that could not go lately
select s.id, s.conversation_id, s.author_id, s.public, s.body, s.settle, s.send_at, s.made_at, s.state, s.problem, s.ended_at,
  c.person_name, c.network, (c.last_inbound_seq > s.seen_seq) as overtaken
from scheduled_reply s join conversation c on c.id = s.conversation_id
where s.workspace_id = %(workspace_id)s and (s.state = 'waiting'
  or (s.state = 'stopped' and s.ended_at > %(now)s::timestamptz - interval '7 days'))
order by s.state desc, s.send_at, s.id limit 500;
