-- list_told: what members say messages of theirs are, the latest first: corrected, or looked at in a week's sample
select m.id, m.body, m.reads_as, m.sentiment, m.evidence, k.labels as looked_at
from (select t.message_id, max(t.at) as at from (
    select message_id, at from correction where workspace_id = %(workspace_id)s and field in ('reads_as', 'sentiment')
    union all select message_id, at from reading_check where workspace_id = %(workspace_id)s) t
  group by t.message_id order by max(t.at) desc, t.message_id desc limit %(limit)s) said
join message m on m.id = said.message_id and m.workspace_id = %(workspace_id)s
left join reading_check k on k.message_id = m.id and k.workspace_id = m.workspace_id
where m.removed_at is null and m.body <> '' and (k.labels is not null or m.evidence -> 'corrected' ?| array['reads_as', 'sentiment'])
order by said.at desc, m.id desc;

-- get_in_use: which one messages are read by
select id, based_on from own_reading where workspace_id = %(workspace_id)s and state = 'in_use';

-- get_weights: its weights
select weights from own_reading where workspace_id = %(workspace_id)s and id = %(id)s and state = 'in_use';

-- get_latest: what was learned last, whatever became of it
select id, learned_at, based_on, said, state, compared, ended_at, ended_by from own_reading
where workspace_id = %(workspace_id)s order by id desc limit 1;

-- add_learned: one more that was learned
insert into own_reading (workspace_id, learned_at, based_on, said, state, compared, weights)
values (%(workspace_id)s, %(now)s, %(based_on)s, %(said)s, %(state)s, %(compared)s, %(weights)s) returning id;

-- end_in_use: the one in use is used no more
update own_reading set state = %(state)s, weights = null, ended_at = %(now)s, ended_by = %(member_id)s
where workspace_id = %(workspace_id)s and state = 'in_use' returning id;

-- list_bodies: messages as they are quoted
select id, conversation_id, left(body, 160) as body from message
where workspace_id = %(workspace_id)s and id = any (%(ids)s::bigint[]) order by id;
