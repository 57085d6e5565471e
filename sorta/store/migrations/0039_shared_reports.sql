-- Reports that somebody without an account may read by a link, and that are mailed at their times.
create table shared_report (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  name text not null check (length(name) between 1 and 60),
  -- what it is about: period, comparison, how waits are counted, filters
  ask jsonb not null,
  -- what is shown besides the figures
  parts text[] not null,
  -- of what stands in the link, by which it is found; and itself, sealed, for those who may share
  token_hash bytea not null unique,
  token text not null,
  made_by bigint not null references member,
  made_at timestamptz not null,
  expires_at timestamptz not null,
  revoked_at timestamptz,
  opened integer not null default 0,
  opened_at timestamptz,
  -- how often it was opened in the minute that began then
  minute_at timestamptz,
  in_minute integer not null default 0,
  -- mailing: to whom, every 'week' or 'month', on which day of it (from 0 and 1), at which hour of the workspace's clock; when next
  mail_to text[] not null default '{}',
  mail_every text check (mail_every in ('week', 'month')),
  mail_day smallint,
  mail_hour smallint,
  mail_next_at timestamptz,
  check ((mail_every is null) = (mail_next_at is null) and (mail_every is null) = (cardinality(mail_to) = 0))
);
create index shared_report_mailed on shared_report (workspace_id, mail_next_at) where mail_next_at is not null;
alter table shared_report enable row level security;
alter table shared_report force row level security;
create policy in_workspace on shared_report using (workspace_id = (select chosen_workspace()))
  with check (workspace_id = (select chosen_workspace()));
-- Whoever opens one belongs to no workspace: only the one asked for by what stands in its link can be read so.
create policy by_token on shared_report for select
  using (token_hash = decode(nullif(current_setting('app.report', true), ''), 'hex'));
grant select, insert, update, delete on shared_report to sorta_app;

create table report_letter (
  report_id bigint not null references shared_report,
  workspace_id bigint not null references workspace,
  -- the time it was to go out at, and to whom
  due_at timestamptz not null,
  to_address text not null,
  state text not null default 'waiting' check (state in ('waiting', 'sent', 'refused', 'dropped')),
  tries integer not null default 0,
  next_at timestamptz not null,
  problem text,
  primary key (report_id, due_at, to_address)
);
create index report_letter_waiting on report_letter (workspace_id, next_at) where state = 'waiting';
alter table report_letter enable row level security;
alter table report_letter force row level security;
create policy in_workspace on report_letter using (workspace_id = (select chosen_workspace()))
  with check (workspace_id = (select chosen_workspace()));
grant select, insert, update, delete on report_letter to sorta_app;
grant usage on all sequences in schema public to sorta_app;
