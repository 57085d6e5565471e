-- Policies that say which replies need consent, and replies that wait for it.

create table policy (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  switched_on boolean not null,
  body jsonb not null,
  changed_by bigint not null references member,
  changed_at timestamptz not null,
  removed_at timestamptz
);

create table proposal (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  conversation_id bigint not null references conversation,
  author_id bigint not null references member,
  public boolean not null,
  -- without the handle that a network wants in front
  body text not null,
  settle boolean not null,
  -- what it was before it was translated: {text, language}
  written jsonb,
  state text not null check (state in ('waiting', 'approved', 'sent_back', 'withdrawn')),
  made_at timestamptz not null,
  -- the newest number of the trail that its author, or who confirmed it later, has seen
  seen_seq integer not null,
  -- [{policy, name, count, members, words}]
  needs jsonb not null,
  -- [{member, at}]
  consents jsonb not null default '[]',
  -- what its author wrote, when an approver has changed it
  before_edit text,
  edited_by bigint references member,
  reason text,
  decided_by bigint references member,
  decided_at timestamptz,
  message_id bigint references message
);
create unique index proposal_waiting on proposal (conversation_id) where state = 'waiting';
create index proposal_of on proposal (workspace_id, state, id);

alter table conversation
  add proposal_waiting boolean not null default false,
  -- names of rules that asked for consent
  add consent_rules text[] not null default '{}';

do $$
declare t text;
begin
  foreach t in array array['policy', 'proposal']
  loop
    execute format('alter table %I enable row level security', t);
    execute format('alter table %I force row level security', t);
    execute format('create policy in_workspace on %I using (workspace_id = '
      'nullif(current_setting(''app.workspace_id'', true), '''')::bigint) with check (workspace_id = '
      'nullif(current_setting(''app.workspace_id'', true), '''')::bigint)', t);
    execute format('grant select, insert, update, delete on %I to sorta_app', t);
  end loop;
end $$;
grant usage on all sequences in schema public to sorta_app;
