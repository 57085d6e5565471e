-- Links by which somebody comes in who has no account yet: a colleague to a workspace, or the first Owner to an empty installation.
create table invitation (
  id bigint generated always as identity primary key,
  -- none: whoever has the link makes the organisation and its first workspace
  workspace_id bigint references workspace,
  email text check (email = lower(email)),
  role text,
  -- of what stands in the link, by which it is found; and itself, sealed, so that it can be mailed and shown
  token_hash bytea not null unique,
  token text,
  made_by bigint references member,
  made_at timestamptz not null,
  expires_at timestamptz not null,
  taken_at timestamptz,
  taken_by bigint references member,
  cancelled_at timestamptz,
  -- whether it was mailed; who reads no mail is given the link
  mail_state text not null check (mail_state in ('none', 'waiting', 'sent', 'refused')),
  mail_tries integer not null default 0,
  mail_next_at timestamptz,
  mail_problem text,
  check (workspace_id is null or (email is not null and role is not null and made_by is not null)),
  check ((token is not null) = (workspace_id is not null and taken_at is null)),
  check ((mail_state = 'waiting') = (mail_next_at is not null))
);
create unique index invitation_pending on invitation (workspace_id, email) where taken_at is null and cancelled_at is null;
create index invitation_to_mail on invitation (workspace_id, mail_next_at) where mail_state = 'waiting';
alter table invitation enable row level security;
alter table invitation force row level security;
create policy in_workspace on invitation using (workspace_id = (select chosen_workspace()))
  with check (workspace_id = (select chosen_workspace()));
-- Whoever has a link belongs nowhere yet: only the one that it names can be read, and taken.
create policy by_token on invitation for select
  using (token_hash = decode(nullif(current_setting('app.invitation', true), ''), 'hex'));
create policy take_by_token on invitation for update
  using (token_hash = decode(nullif(current_setting('app.invitation', true), ''), 'hex'))
  with check (token_hash = decode(nullif(current_setting('app.invitation', true), ''), 'hex'));
-- The first Owner's link is made by who owns the tables, with `init`.
create policy by_owner on invitation to current_user using (true) with check (true);
grant select, insert, update on invitation to sorta_app;
grant usage on all sequences in schema public to sorta_app;
