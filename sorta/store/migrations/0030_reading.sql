-- What a message reads as are several things at once, each with a chance; where it is not sure, the row says so.

drop view tally_said;
drop index conversation_by_reading;
alter table message alter column reads_as type text[]
  using case when evidence is null then null when reads_as is null then '{}'::text[] else array[reads_as] end;
alter table conversation alter column reads_as type text[] using case when reads_as is null then '{}'::text[] else array[reads_as] end;
alter table tally_change alter column reads_as type text[] using case when reads_as is null then '{}'::text[] else array[reads_as] end;

-- evidence: {chances, tones, words by label, sentiment_words, links, bare_mention, first_contact, corrected}. What was read by cue
-- words has no chances; its words belong to the one label it had.
alter table message no force row level security;
update message set evidence = evidence || jsonb_build_object('chances', '{}'::jsonb, 'tones', '{}'::jsonb, 'corrected', '[]'::jsonb,
  'words', case when cardinality(reads_as) = 1 then jsonb_build_object(reads_as[1], evidence->'words') else '{}'::jsonb end)
where evidence is not null;
alter table message force row level security;

-- core.reading.BAND; no sentiment is no tone.
alter table conversation drop column sentiment_band;
alter table conversation add column sentiment_band smallint generated always as
  (case when sentiment >= 0.25 then 1 when sentiment <= -0.25 then -1 when sentiment is not null then 0 end) stored;

-- Each thing it can read as has an index of its own: one column that holds several cannot be walked in the order of due.
create index conversation_question on conversation (workspace_id, move, sort_due, sort_rank, id)
  where move <> 'settled' and 'question' = any(reads_as);
create index conversation_complaint on conversation (workspace_id, move, sort_due, sort_rank, id)
  where move <> 'settled' and 'complaint' = any(reads_as);
create index conversation_praise on conversation (workspace_id, move, sort_due, sort_rank, id)
  where move <> 'settled' and 'praise' = any(reads_as);
create index conversation_thanks on conversation (workspace_id, move, sort_due, sort_rank, id)
  where move <> 'settled' and 'thanks' = any(reads_as);
create index conversation_spam on conversation (workspace_id, move, sort_due, sort_rank, id)
  where move <> 'settled' and 'spam' = any(reads_as);
create index conversation_not_sure on conversation (workspace_id, move, sort_due, sort_rank, id)
  where move <> 'settled' and 'not_sure' = any(reads_as);
create index conversation_by_sentiment on conversation (workspace_id, sentiment_band, move, sort_due, sort_rank, id)
  where move <> 'settled' and sentiment_band is not null;

create view tally_said with (security_invoker = true) as
  select c.workspace_id, c.move, d.dimension, d.value, c.sign as n
  from tally_change c cross join lateral (
    select * from (values ('all', ''), ('owner', coalesce(c.owner_id::text, '')), ('team', c.team_id::text),
      ('account', c.account_id::text), ('kind', c.kind), ('public', c.public::text),
      ('priority', c.priority::text), ('sentiment', c.sentiment_band::text),
      ('language', c.language)) v(dimension, value) where v.value is not null
    union all select 'reads_as', r from unnest(c.reads_as) r
    union all select 'tag', t::text from unnest(c.tags) t) d;
grant select on tally_said to sorta_app;

-- The bands have moved: the counts are made anew.
alter table conversation no force row level security;
alter table tally no force row level security;
alter table tally_change no force row level security;
delete from tally_change;
delete from tally;
insert into tally (workspace_id, move, dimension, value, n)
select c.workspace_id, c.move, d.dimension, d.value, count(*)
from conversation c cross join lateral (
  select * from (values ('all', ''), ('owner', coalesce(c.owner_id::text, '')), ('team', c.team_id::text),
    ('account', c.account_id::text), ('kind', c.kind), ('public', c.public::text), ('priority', c.priority::text),
    ('sentiment', c.sentiment_band::text), ('language', c.language)) v(dimension, value) where v.value is not null
  union all select 'reads_as', r from unnest(c.reads_as) r
  union all select 'tag', t::text from unnest(c.tags) t) d
group by 1, 2, 3, 4;
alter table conversation force row level security;
alter table tally force row level security;
alter table tally_change force row level security;

-- What a member said a message reads as is kept as its labels with spaces between; nothing is none of them.
update correction set now = '' where field = 'reads_as' and now is null;
update correction set was = '' where field = 'reads_as' and was is null;
