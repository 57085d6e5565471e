-- What was said before an account was connected: left where it is until it is asked for, over a range (decision 0051).
-- From when on an account is read by itself; null is from its beginning, as it was until now.
alter table account add reads_from timestamptz;
create table earlier_run (
  workspace_id bigint not null references workspace,
  id bigint generated always as identity primary key,
  account_id bigint not null references account,
  since timestamptz not null,
  until timestamptz not null,
  -- whether what has no answer stays open; else it is settled as of the last that was said
  stays_open boolean not null,
  cursor text,
  -- activities looked at, how many there are where the network says so, and messages that were new
  seen integer not null default 0,
  expected integer,
  taken integer not null default 0,
  state text not null default 'waiting' check (state in ('waiting', 'done', 'stopped')),
  tries integer not null default 0,
  next_at timestamptz not null,
  problem text,
  made_by bigint not null references member,
  made_at timestamptz not null,
  ended_at timestamptz
);
create unique index earlier_run_one on earlier_run (account_id) where state = 'waiting';
create index earlier_run_listed on earlier_run (workspace_id, account_id, id);
alter table earlier_run enable row level security;
alter table earlier_run force row level security;
create policy in_workspace on earlier_run using (workspace_id = (select chosen_workspace())
    and ((select seen_accounts()) is null or account_id = any ((select seen_accounts())::bigint[])))
  with check (workspace_id = (select chosen_workspace()) and ((select seen_accounts()) is null or account_id = any ((select seen_accounts())::bigint[])));
grant select, insert, update, delete on earlier_run to sorta_app;
grant usage on all sequences in schema public to sorta_app;
create trigger recorded after insert or update or delete on earlier_run for each row
  execute function write_record('account_id,since,until,stays_open', '', 'id');
