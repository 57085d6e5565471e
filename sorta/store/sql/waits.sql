-- list_packed: the days from one on that are packed in this shape
select day from spell_day where workspace_id = %(workspace_id)s and day >= %(first)s and shape = %(shape)s order by day;

-- list_days: what is packed of them; those all of which began later hold nothing that is asked for
select waits, tags from spell_day
where workspace_id = %(workspace_id)s and day >= %(first)s and shape = %(shape)s and since < %(ends)s order by day;

-- list_ended: spells that ended within any of these spans, as columns of numbers; each span is looked up by itself, or the planner
-- reads all that ever ended
select s.conversation_id, s.seq, s.first, s.public, s.since, s.ended_at,
  array_position(%(endings)s::text[], s.ended_by)::int2, coalesce(array_position(%(hows)s::text[], s.how), 0)::int2,
  coalesce(s.member_id, 0), coalesce(s.owner_id, 0), coalesce(s.team_id, 0), s.account_id,
  coalesce(array_position(%(kinds)s::text[], s.kind), 0)::int2, s.priority, coalesce(s.sentiment, -9)::int2,
  case when octet_length(s.language) <= 8 and length(s.language) = octet_length(s.language) then rpad(s.language, 8) else '        ' end,
  s.clock_s, s.work_s, s.parked_s::real, s.review_s::real, s.advice_s::real, s.case_s::real, coalesce(s.handling_s, 'NaN'::real), s.due
from unnest(%(froms)s::timestamptz[], %(tos)s::timestamptz[]) gap(a, b) cross join lateral (
  select * from spell where workspace_id = %(workspace_id)s and ended_at >= gap.a and ended_at < gap.b and since < %(ends)s offset 0) s;

-- list_ended_tags: the tags of those spells, one a row
select s.conversation_id, s.seq, unnest(s.tags)
from unnest(%(froms)s::timestamptz[], %(tos)s::timestamptz[]) gap(a, b) cross join lateral (
  select * from spell where workspace_id = %(workspace_id)s and ended_at >= gap.a and ended_at < gap.b and since < %(ends)s
    and tags <> '{}' offset 0) s;

-- list_open: spells that are open and began between two instants, once for each of their tags, or with tag 0; what belongs to the
-- conversation is as it stands now
select s.conversation_id, s.seq, s.first, s.public, s.since, coalesce(c.owner_id, 0), coalesce(c.team_id, 0), s.account_id,
  coalesce(array_position(%(kinds)s::text[], s.kind), 0)::int2, c.priority, coalesce(c.sentiment_band, -9)::int2,
  case when octet_length(c.language) <= 8 and length(c.language) = octet_length(c.language) then rpad(c.language, 8) else '        ' end, coalesce(t.tag, 0)
from spell s join conversation c on c.id = s.conversation_id left join lateral unnest(c.tags) t(tag) on true
where s.workspace_id = %(workspace_id)s and s.ended_at is null and s.since >= %(begins)s and s.since < %(ends)s
  and c.workspace_id = %(workspace_id)s;

-- list_open_before: spells that are open and began before an instant, without what belongs to the conversation
select s.conversation_id, s.seq, s.first, s.public, s.since, 0::bigint, 0::bigint, s.account_id,
  coalesce(array_position(%(kinds)s::text[], s.kind), 0)::int2, 1::int2, -9::int2, '        ', 0::bigint
from spell s where s.workspace_id = %(workspace_id)s and s.ended_at is null and s.since < %(begins)s;

-- list_stretches: since when each spell that was open at one of these instants, rising, stood where
select s.conversation_id, s.seq, p.place::int4, coalesce(array_position(%(phases)s::text[], p.said ->> 1), 0)::int2, (p.said ->> 0)::timestamptz
from spell s cross join lateral jsonb_array_elements(s.phases) with ordinality p(said, place)
where s.workspace_id = %(workspace_id)s and s.since < %(last)s and (s.ended_at is null or s.ended_at > %(first)s)
  and width_bucket(s.since, %(instants)s::timestamptz[]) < width_bucket(coalesce(s.ended_at, 'infinity'), %(instants)s::timestamptz[]);

-- lock_days: nobody changes a spell of a day that is over until the transaction ends (migration 0036)
select pg_advisory_xact_lock(hashtext('spell_day'), %(workspace_id)s::integer);

-- list_days_to_pack: days that ended two days ago or earlier, since the first spell that ended, and are not packed in this shape
select d.day::date as day from (
  select min(ended_at) at time zone 'UTC' as since from spell where workspace_id = %(workspace_id)s and ended_at is not null
) s cross join lateral generate_series(s.since::date, (now() at time zone 'UTC')::date - 3, interval '1 day') d(day)
where not exists (select from spell_day k where k.workspace_id = %(workspace_id)s and k.day = d.day::date and k.shape = %(shape)s)
order by d.day limit %(limit)s;

-- keep_day: keeps a packed day
insert into spell_day (workspace_id, day, shape, since, waits, tags)
select %(workspace_id)s, %(day)s, %(shape)s, (select min(since) from spell
  where workspace_id = %(workspace_id)s and ended_at >= %(day)s::date::timestamp at time zone 'UTC'
    and ended_at < (%(day)s::date + 1)::timestamp at time zone 'UTC'), %(waits)s, %(tags)s
on conflict (workspace_id, day) do update set shape = excluded.shape, since = excluded.since, waits = excluded.waits, tags = excluded.tags;

-- is_kept_so: whether a day, if it is packed, holds these bytes
select not exists (select from spell_day
  where workspace_id = %(workspace_id)s and day = %(day)s and (waits <> %(waits)s or tags <> %(tags)s));

-- list_tagged: conversations with people who have one of these tags
select c.id from conversation c join person_tag t on t.person_id = c.person_id and t.workspace_id = c.workspace_id
where c.workspace_id = %(workspace_id)s and t.tag_id = any(%(person_tags)s);

-- list_group_accounts: the accounts of groups
select distinct unnest(accounts) as id from account_group where workspace_id = %(workspace_id)s and id = any(%(groups)s);
