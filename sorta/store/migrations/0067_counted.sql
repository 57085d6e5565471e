-- All that a conversation is counted under: each of its values, and 'all' for itself. Written in line by the planner, as file_under.
create function count_under(p_owner bigint, p_team bigint, p_account bigint, p_kind text, p_public boolean, p_priority smallint,
  p_sentiment_band smallint, p_reads_as text[], p_language text, p_tags bigint[]) returns table (dimension text, value text)
language sql immutable parallel safe as $$
  select * from (values ('all', ''), ('owner', coalesce(p_owner::text, '')), ('team', p_team::text), ('account', p_account::text),
    ('kind', p_kind), ('public', p_public::text), ('priority', p_priority::text), ('sentiment', p_sentiment_band::text),
    ('language', p_language)) v(dimension, value) where v.value is not null
  union all select 'reads_as', r from unnest(p_reads_as) r
  union all select 'tag', t::text from unnest(p_tags) t
$$;
create or replace view tally_said with (security_invoker = true) as
  select c.workspace_id, c.move, d.dimension, d.value, c.sign as n
  from tally_change c cross join lateral count_under(c.owner_id, c.team_id, c.account_id, c.kind, c.public, c.priority, c.sentiment_band,
    c.reads_as, c.language, c.tags) d;
