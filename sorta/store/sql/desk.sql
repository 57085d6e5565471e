-- list_rows: rows of the queue as one JSON text; {which} and {order} are fragments of `desk.py`
select coalesce(json_agg(json_build_object(
    'id', p.id, 'account_id', p.account_id, 'person_id', p.person_id, 'person_name', p.person_name,
    'handle', p.handle, 'network', p.network, 'kind', p.kind, 'public', p.public, 'preview', p.preview,
    'messages', p.messages, 'move', p.move, 'priority', p.priority, 'owner_id', p.owner_id,
    'settled_as', p.settled_as, 'parked_until', p.parked_until, 'awaiting_since', p.awaiting_since,
    'due', p.due, 'last_at', p.last_at, 'seq', p.seq,
    'unread', p.last_inbound_seq > coalesce(r.seq, 0)) order by p.place), '[]')::text
from (select c.*, row_number() over () as place from (
    select * from conversation
    where workspace_id = %(workspace_id)s and {which}
    order by {order} limit %(limit)s) c) p
left join read_mark r on r.member_id = %(member_id)s and r.conversation_id = p.id;

-- count_moves: how many conversations are at each move, and how many of those by due
select move, count(*) as total,
  count(*) filter (where due < %(now)s) as late,
  count(*) filter (where due >= %(now)s and due < %(hour)s) as within_hour,
  count(*) filter (where due >= %(hour)s and due < %(today)s) as later_today,
  count(*) filter (where due >= %(hour)s and due >= %(today)s) as after_today,
  count(*) filter (where due is null) as not_due
from conversation where workspace_id = %(workspace_id)s group by move;

-- set_read: a member has seen a conversation up to this event
insert into read_mark as r (member_id, conversation_id, workspace_id, seq)
values (%(member_id)s, %(conversation_id)s, %(workspace_id)s, %(seq)s)
on conflict (member_id, conversation_id) do update set seq = greatest(r.seq, excluded.seq);

-- set_draft: keeps what a member is typing
insert into draft (member_id, conversation_id, workspace_id, mode, body, updated_at)
values (%(member_id)s, %(conversation_id)s, %(workspace_id)s, %(mode)s, %(body)s, %(now)s)
on conflict (member_id, conversation_id) do update
  set mode = excluded.mode, body = excluded.body, updated_at = excluded.updated_at;

-- get_draft: what a member was typing here
select mode, body from draft where workspace_id = %(workspace_id)s and member_id = %(member_id)s
  and conversation_id = %(conversation_id)s;

-- delete_draft: forgets what a member was typing here
delete from draft where workspace_id = %(workspace_id)s and member_id = %(member_id)s
  and conversation_id = %(conversation_id)s;

-- set_presence: what a member has open now, told to the others at once
with here as (
  insert into presence (workspace_id, member_id, conversation_id, doing, at)
  values (%(workspace_id)s, %(member_id)s, %(conversation_id)s, %(doing)s, %(now)s)
  on conflict (workspace_id, member_id) do update
    set conversation_id = excluded.conversation_id, doing = excluded.doing, at = excluded.at
)
select pg_notify('sorta_live', %(notice)s);

-- delete_presence: a member has left the desk
with gone as (
  delete from presence where workspace_id = %(workspace_id)s and member_id = %(member_id)s
)
select pg_notify('sorta_live', %(notice)s);

-- list_presence: who has what open, heard of since
select member_id, conversation_id, doing from presence
where workspace_id = %(workspace_id)s and at > %(since)s order by member_id;

-- find_people: people whose name or handle contains the words
select p.id as person_id, p.name, i.handle, i.network,
  (select c.id from conversation c where c.person_id = p.id and c.workspace_id = %(workspace_id)s
   order by c.last_at desc limit 1) as conversation_id
from identity i join person p on p.id = i.person_id
where i.workspace_id = %(workspace_id)s
  and (i.name ilike %(pattern)s or i.handle ilike %(pattern)s)
order by p.name, p.id limit %(limit)s;

-- find_messages: messages with all the words, newest first, each with its conversation
select s.message_id, s.conversation_id, s.body, s.sent_at, c.person_name, c.network, c.move
from search_messages(%(workspace_id)s, %(query)s, %(limit)s) s
join conversation c on c.id = s.conversation_id and c.workspace_id = %(workspace_id)s
order by s.sent_at desc, s.message_id desc;

-- get_person: a person with how often we met
select p.id, p.name, p.blocked, p.first_at,
  (select count(*) from conversation c where c.person_id = p.id) as conversations,
  (select count(*) from message m join conversation c on c.id = m.conversation_id
   where c.person_id = p.id and m.inbound) as messages
from person p where p.workspace_id = %(workspace_id)s and p.id = %(id)s;

-- list_identities: the handles of a person
select network, handle, name, reach from identity
where workspace_id = %(workspace_id)s and person_id = %(id)s order by network, handle;

-- list_other_conversations: the person's other conversations, newest first
select id, network, kind, public, preview, move, last_at from conversation
where workspace_id = %(workspace_id)s and person_id = %(id)s and id <> %(conversation_id)s
order by last_at desc limit 8;
