-- count_accuracy: messages of theirs in conversations a member has sorted, and how many were corrected, by field
with looked as (
  select m.id, m.sentiment, m.reads_as, m.language from message m join conversation c on c.id = m.conversation_id
  where m.workspace_id = %(workspace_id)s and c.workspace_id = %(workspace_id)s and m.inbound and c.sorted
    and m.evidence is not null
)
select f.field, (select count(*) from looked) as looked_at,
  (select count(*) from correction k where k.workspace_id = %(workspace_id)s and k.field = f.field
    and k.was is distinct from k.now) as corrected
from (values ('reads_as'), ('sentiment'), ('language')) f(field);

-- list_corrections: the latest corrections, with the message they are about
select k.message_id, m.conversation_id, k.field, k.was, k.now, k.member_id, k.at, left(m.body, 160) as body
from correction k join message m on m.id = k.message_id
where k.workspace_id = %(workspace_id)s and m.workspace_id = %(workspace_id)s
order by k.at desc limit %(limit)s;

-- get_reading: what a message was read as, and what a member made of it
select m.id, m.conversation_id, m.inbound, m.body, m.sentiment, m.reads_as, m.language, m.evidence
from message m where m.workspace_id = %(workspace_id)s and m.id = %(id)s for no key update;

-- set_sentiment: a member's word on the sentiment
update message set sentiment = %(value)s::real, evidence = evidence || %(corrected)s where workspace_id = %(workspace_id)s and id = %(id)s;

-- set_reads_as: a member's word on what a message reads as
update message set reads_as = %(value)s::text[], evidence = evidence || %(corrected)s where workspace_id = %(workspace_id)s and id = %(id)s;

-- set_language: a member's word on the language
update message set language = %(value)s, evidence = evidence || %(corrected)s where workspace_id = %(workspace_id)s and id = %(id)s;

-- set_correction: keeps what it was read as at first beside the member's word
insert into correction (workspace_id, message_id, field, was, now, member_id, at)
values (%(workspace_id)s, %(id)s, %(field)s, %(was)s, %(now)s, %(member_id)s, %(at)s)
on conflict (message_id, field) do update set now = excluded.now, member_id = excluded.member_id, at = excluded.at;

-- is_latest: whether a message is the last one of theirs, whose reading the row carries
select not exists (select from message l where l.workspace_id = %(workspace_id)s
  and l.conversation_id = m.conversation_id and l.inbound and (l.sent_at, l.id) > (m.sent_at, m.id))
from message m where m.workspace_id = %(workspace_id)s and m.id = %(id)s;
