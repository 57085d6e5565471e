-- list_rows: rows of conversations, some at a time: all columns but those that the database computes from others
select id, workspace_id, account_id, person_id, post_id, thread_key, kind, public, network, person_name, handle, preview, messages, created_at,
  last_at, last_inbound_at, last_inbound_seq, seq, sorted, move, priority, owner_id, settled_as, parked_until, awaiting_since, due, unanswered,
  answering, team_id, tags, watchers, sentiment, reads_as, language, bare_mention, first_contact, has_attachment, rating, standing, by_hand,
  proposal_waiting, consent_rules, case_until, advice_waiting, settled_on, parked_on, answered_until, thanked, linked, erased_at
from conversation where workspace_id = %(workspace_id)s and id > %(after)s order by id limit %(limit)s;

-- list_said: the messages of some conversations, with what their trails say of them too
select m.id, m.conversation_id, m.inbound, m.sent_at, m.edited_at is not null as edited, m.removed_at is not null as removed, m.liked, m.hidden,
  m.reposted, m.rating, m.attachments <> '[]' as has_attachment, i.person_id
from message m left join identity i on i.id = m.identity_id
where m.workspace_id = %(workspace_id)s and m.conversation_id = any(%(ids)s) order by m.id;

-- list_read: what some messages say and read as
select id, account_id, body, sentiment, reads_as, language, evidence from message
where workspace_id = %(workspace_id)s and id = any(%(ids)s);

-- list_other_filing: of these conversations, those that are not filed under what they have, or otherwise than they stand
with should as (
  select f.under, f.value, c.id, c.move, c.sort_due, c.sort_rank
  from conversation c cross join lateral file_under(c.tags, c.watchers, c.person_id) f
  where c.workspace_id = %(workspace_id)s and c.id = any(%(ids)s)
), filed as (
  select under, value, conversation_id, its_move, its_due, its_rank from filing
  where workspace_id = %(workspace_id)s and conversation_id = any(%(ids)s)
)
select distinct id from ((table should except table filed) union all (table filed except table should)) d order by id;

-- list_other_counts: what is counted otherwise than there is
with kept as (
  select move, dimension, value, sum(n) as n from (
    select move, dimension, value, n from tally where workspace_id = %(workspace_id)s
    union all select move, dimension, value, n from tally_said where workspace_id = %(workspace_id)s) t
  group by move, dimension, value having sum(n) <> 0
), counted as (
  select c.move, d.dimension, d.value, count(*) as n
  from conversation c cross join lateral count_under(c.owner_id, c.team_id, c.account_id, c.kind, c.public, c.priority, c.sentiment_band,
    c.reads_as, c.language, c.tags) d
  where c.workspace_id = %(workspace_id)s group by 1, 2, 3
)
select coalesce(k.move, c.move) as move, coalesce(k.dimension, c.dimension) as dimension, coalesce(k.value, c.value) as value,
  coalesce(k.n, 0)::bigint as kept, coalesce(c.n, 0)::bigint as counted
from kept k full join counted c using (move, dimension, value)
where k.n is distinct from c.n order by 1, 2, 3;
