-- list_sample: the messages of a week that are looked at, a few drawn by chance that is always the same; with what was read of each
select m.id, m.conversation_id, m.body, m.reads_as, m.evidence, c.person_name, c.network, k.labels is not null as is_checked
from (select i.id from message i where i.workspace_id = %(workspace_id)s and i.inbound and i.removed_at is null and i.evidence is not null
  and i.arrived_at >= %(since)s and i.arrived_at < %(until)s
  order by md5(i.id::text || %(week)s::date::text) limit %(limit)s) s
join message m on m.id = s.id join conversation c on c.id = m.conversation_id
left join reading_check k on k.message_id = m.id and k.workspace_id = m.workspace_id
where m.workspace_id = %(workspace_id)s and c.erased_at is null order by md5(m.id::text || %(week)s::date::text);

-- add_check: what a member says a message of the sample is; nothing when somebody has said it already
insert into reading_check (workspace_id, message_id, week, was, labels, member_id, at)
values (%(workspace_id)s, %(id)s, %(week)s, %(was)s, %(labels)s, %(member_id)s, %(at)s)
on conflict do nothing returning message_id;

-- list_checks: what was looked at since, as it was read and as it is
select was, labels from reading_check where workspace_id = %(workspace_id)s and at >= %(since)s;

-- count_corrections: how often members corrected each field since
select field, count(*) as corrected from correction
where workspace_id = %(workspace_id)s and was is distinct from now and at >= %(since)s group by field;

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
