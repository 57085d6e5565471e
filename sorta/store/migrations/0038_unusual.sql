-- Hours in which far more comes in than usual, told of while they last; and how many false alarms a month are accepted for that.
alter table workspace add false_alarms real not null default 1 check (false_alarms > 0 and false_alarms <= 31);
create table unusual_hour (
  workspace_id bigint not null references workspace,
  begins_at timestamptz not null,
  came integer not null,
  expected real not null,
  primary key (workspace_id, begins_at)
);
alter table unusual_hour enable row level security;
alter table unusual_hour force row level security;
create policy in_workspace on unusual_hour using (workspace_id = (select chosen_workspace()))
  with check (workspace_id = (select chosen_workspace()));
grant select, insert, update, delete on unusual_hour to sorta_app;

-- What went out by an account, for its health.
create index outbox_by_account on outbox (workspace_id, account_id, queued_at);
