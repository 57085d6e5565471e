-- Answers to be sent later, and how often an account has been spoken to lately.

create table scheduled_reply (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  conversation_id bigint not null references conversation,
  author_id bigint not null references member,
  public boolean not null,
  body text not null,
  settle boolean not null,
  extras jsonb not null default '{}',
  -- the newest number of the trail that its author has seen
  seen_seq integer not null,
  send_at timestamptz not null,
  made_at timestamptz not null,
  state text not null default 'waiting' check (state in ('waiting', 'sent', 'cancelled', 'stopped')),
  problem text,
  ended_at timestamptz
);
create unique index scheduled_reply_one on scheduled_reply (conversation_id) where state = 'waiting';
create index scheduled_reply_due on scheduled_reply (workspace_id, send_at) where state = 'waiting';

alter table scheduled_reply enable row level security;
alter table scheduled_reply force row level security;
create policy in_workspace on scheduled_reply using (workspace_id = nullif(current_setting('app.workspace_id', true), '')::bigint)
  with check (workspace_id = nullif(current_setting('app.workspace_id', true), '')::bigint);
grant select, insert, update, delete on scheduled_reply to sorta_app;
grant usage on all sequences in schema public to sorta_app;

alter table outbox
  -- when the network was last asked, for its limit of requests a minute
  add column tried_at timestamptz;
create index outbox_tried on outbox (account_id, tried_at) where tried_at is not null;
