-- Spells of days that are over, packed as columns, so that reports read them at the speed of their bytes (decision 0036). A day is
-- packed by the clock two days after its end, and forgotten by whatever changes one of its spells; reports read its rows until then.
create table spell_day (
  workspace_id bigint not null references workspace,
  -- the universal day on which they ended
  day date not null,
  -- which columns there are, in which order and of which types: packed otherwise, it is packed anew
  shape text not null,
  -- when the earliest of them began; null where none ended
  since timestamptz,
  waits bytea not null,
  tags bytea not null,
  primary key (workspace_id, day)
);
alter table spell_day alter waits set storage external, alter tags set storage external;
alter table spell_day enable row level security;
alter table spell_day force row level security;
create policy in_workspace on spell_day using (workspace_id = (select chosen_workspace()))
  with check (workspace_id = (select chosen_workspace()));
grant select, insert, update, delete on spell_day to sorta_app;

-- Whoever packs holds the same lock alone: a change is either seen by it, or comes after it and forgets what it packed.
create function forget_spell_day() returns trigger language plpgsql as $$
begin
  perform pg_advisory_xact_lock_shared(hashtext('spell_day'), coalesce(new.workspace_id, old.workspace_id)::integer);
  delete from spell_day where workspace_id = coalesce(new.workspace_id, old.workspace_id)
    and day in ((old.ended_at at time zone 'UTC')::date, (new.ended_at at time zone 'UTC')::date);
  return null;
end
$$;
-- What ended within a day is in no packed one.
create trigger forget_spell_day_added after insert on spell for each row
  when (new.ended_at < now() - interval '1 day') execute function forget_spell_day();
create trigger forget_spell_day_changed after update on spell for each row
  when (old is distinct from new and (old.ended_at < now() - interval '1 day' or new.ended_at < now() - interval '1 day'))
  execute function forget_spell_day();
create trigger forget_spell_day_gone after delete on spell for each row
  when (old.ended_at < now() - interval '1 day') execute function forget_spell_day();
