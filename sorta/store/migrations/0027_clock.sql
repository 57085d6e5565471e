-- What the clock does, each duty for each workspace (and account, where `target` is one) by itself.
create table duty (
  workspace_id bigint not null references workspace,
  name text not null,
  -- the account it is about, 0 when it is about the workspace
  target bigint not null default 0,
  began_at timestamptz not null,
  -- nobody else does it before; a worker that died loses it then
  lease_until timestamptz not null,
  succeeded_at timestamptz,
  took_ms integer,
  failed_at timestamptz,
  problem text,
  failures integer not null default 0,
  primary key (workspace_id, name, target)
) with (fillfactor = 50);
alter table duty enable row level security;
alter table duty force row level security;
create policy in_workspace on duty using (workspace_id = nullif(current_setting('app.workspace_id', true), '')::bigint)
  with check (workspace_id = nullif(current_setting('app.workspace_id', true), '')::bigint);
grant select, insert, update, delete on duty to sorta_app;

-- When each duty's round last came by, whatever became of it: whether the clock goes at all.
create table clock (
  name text primary key,
  every_seconds real not null,
  came_by timestamptz not null
) with (fillfactor = 50);
grant select, insert, update, delete on clock to sorta_app;

-- A network that does not answer: since when, how often in a row, and when it is asked again.
alter table account
  add column silent_since timestamptz,
  add column silent_tries integer not null default 0,
  add column ask_again_at timestamptz;

-- Signing in: a device somebody has signed in on before is told apart from a stranger's; a session ends when nobody uses it.
alter table session add column seen_at timestamptz not null default now();
create table device (
  token_hash bytea primary key,
  member_id bigint not null references member,
  seen_at timestamptz not null
);
create index device_member on device (member_id);
create index session_member on session (member_id);
grant select, insert, update, delete on device to sorta_app;

-- Each mail is tried by itself; what a mail server refused for good stands at the member, and is tried again after a day.
alter table alert add column mail_next_at timestamptz not null default '-infinity', add column mail_tries integer not null default 0;
alter table member add column mail_refused text, add column mail_refused_at timestamptz;

-- Rows that change often leave room for their next versions beside them, and are swept early.
alter table outbox set (fillfactor = 60, autovacuum_vacuum_scale_factor = 0.02, autovacuum_vacuum_threshold = 200);
alter table conversation set (fillfactor = 80, autovacuum_vacuum_scale_factor = 0.05);
alter table procrastinate_jobs set (autovacuum_vacuum_scale_factor = 0.02, autovacuum_vacuum_threshold = 200);
create index outbox_account_open on outbox (workspace_id, account_id, not_before) where state in ('queued', 'waiting');
