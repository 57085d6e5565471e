-- list_waits: the spells in which somebody waited at some time between two instants, as columns of numbers; of those that are
-- open what belongs to the conversation is as it stands now
select s.conversation_id, s.seq, s.first::int::int2, extract(epoch from s.since)::float8, extract(epoch from s.ended_at)::float8,
  array_position(%(endings)s::text[], s.ended_by)::int2, coalesce(array_position(%(hows)s::text[], s.how), 0)::int2,
  coalesce(s.member_id, 0), coalesce(s.rule_id, 0), coalesce(s.owner_id, 0), coalesce(s.team_id, 0), s.account_id,
  coalesce(array_position(%(networks)s::text[], s.network), 0)::int2, coalesce(array_position(%(kinds)s::text[], s.kind), 0)::int2,
  s.public::int::int2, s.priority, coalesce(s.sentiment, -9)::int2,
  s.clock_s, s.work_s, extract(epoch from s.due)::float8, s.parked_s, s.review_s, s.advice_s, coalesce(s.handling_s, 'NaN')::float8
from spell s
where s.workspace_id = %(workspace_id)s and s.since < %(ends)s and s.ended_at >= %(begins)s and {ended}
union all
select s.conversation_id, s.seq, s.first::int::int2, extract(epoch from s.since)::float8, 'NaN'::float8, 0::int2, 0::int2,
  0::bigint, 0::bigint, coalesce(c.owner_id, 0), coalesce(c.team_id, 0), s.account_id,
  coalesce(array_position(%(networks)s::text[], s.network), 0)::int2, coalesce(array_position(%(kinds)s::text[], s.kind), 0)::int2,
  s.public::int::int2, c.priority, coalesce(c.sentiment_band, -9)::int2,
  'NaN'::float8, 'NaN'::float8, coalesce(extract(epoch from c.due)::float8, 'NaN'), 0::float8, 0::float8, 0::float8, 'NaN'::float8
from spell s join conversation c on c.id = s.conversation_id
where s.workspace_id = %(workspace_id)s and s.ended_at is null and s.since < %(ends)s and c.workspace_id = %(workspace_id)s and {open};

-- list_tags: the tags of those spells, one a row
select s.conversation_id, s.seq, unnest(s.tags) from spell s
where s.workspace_id = %(workspace_id)s and s.since < %(ends)s and s.ended_at >= %(begins)s and s.tags <> '{}' and {ended}
union all
select s.conversation_id, s.seq, unnest(c.tags) from spell s join conversation c on c.id = s.conversation_id
where s.workspace_id = %(workspace_id)s and s.ended_at is null and s.since < %(ends)s and c.workspace_id = %(workspace_id)s
  and c.tags <> '{}' and {open};

-- list_phases: where spells stood since when, of those that stood in more than one place
select conversation_id, seq, phases from spell
where workspace_id = %(workspace_id)s and (conversation_id, seq) in (select * from unnest(%(ids)s::bigint[], %(seqs)s::int[]));
