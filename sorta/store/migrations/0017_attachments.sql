-- Files to be sent along. What is in them lies outside the database, under its hash.

create table attachment (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  conversation_id bigint not null references conversation,
  member_id bigint not null references member,
  sha256 text not null,
  media_type text not null,
  name text not null,
  size integer not null,
  made_at timestamptz not null,
  -- since when an answer holds it; until then it can be taken away again
  used_at timestamptz
);
create index attachment_conversation on attachment (conversation_id);
create index attachment_unused on attachment (workspace_id, made_at) where used_at is null;
create index attachment_content on attachment (workspace_id, sha256);

alter table draft add column attachments bigint[] not null default '{}';

alter table attachment enable row level security;
alter table attachment force row level security;
create policy in_workspace on attachment
  using (workspace_id = nullif(current_setting('app.workspace_id', true), '')::bigint)
  with check (workspace_id = nullif(current_setting('app.workspace_id', true), '')::bigint);
grant select, insert, update, delete on attachment to sorta_app;
grant usage on all sequences in schema public to sorta_app;
