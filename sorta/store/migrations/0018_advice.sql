-- Questions to people without a login, by mail, and what came back.

create table advice (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  conversation_id bigint not null references conversation,
  asked_by bigint not null references member,
  to_address text not null,
  to_name text not null,
  question text not null,
  -- what stands in the address that an answer goes to; nobody can guess it
  token text not null,
  asked_at timestamptz not null,
  -- until when an answer is waited for
  wait_until timestamptz not null,
  state text not null check (state in ('sending', 'asked', 'given', 'overdue', 'withdrawn', 'refused')),
  -- sending: when it is tried next, how often it failed, what was wrong
  next_at timestamptz,
  tries integer not null default 0,
  problem text,
  unique (workspace_id, token)
);
create index advice_conversation on advice (conversation_id, id);
create index advice_sending on advice (workspace_id, next_at) where state = 'sending';
create index advice_waiting on advice (workspace_id, wait_until) where state in ('sending', 'asked');

create table advice_answer (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  advice_id bigint not null references advice,
  message_id text not null,
  sender text not null,
  sender_name text not null,
  subject text not null,
  own text not null,
  quoted text not null,
  -- why it is no answer of a person's, where it is none
  automatic text,
  at timestamptz not null,
  unique (advice_id, message_id)
);

alter table conversation
  -- questions outside that wait for an answer
  add advice_waiting bigint[] not null default '{}';

do $$
declare t text;
begin
  foreach t in array array['advice', 'advice_answer']
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
