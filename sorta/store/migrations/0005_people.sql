-- People as records: facts, follow-ups, joining; what suggests that two are one; the live feed's order;
-- saved words searched for on networks; translations.

alter table person add joined_to bigint references person;
create index person_by_standing on person (workspace_id, (coalesce(standing, -1)) desc, id) where joined_to is null;
create index person_by_name on person (workspace_id, lower(name), id) where joined_to is null;

create table person_fact (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  person_id bigint not null references person,
  name text not null check (length(name) between 1 and 40),
  value text not null check (length(value) between 1 and 2000),
  member_id bigint not null references member,
  at timestamptz not null
);
create index person_fact_of on person_fact (person_id);

create table follow_up (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  person_id bigint not null references person,
  member_id bigint not null references member,
  words text not null check (length(words) between 1 and 400),
  due_at timestamptz not null,
  made_by bigint not null references member,
  made_at timestamptz not null,
  done_by bigint references member,
  done_at timestamptz
);
create index follow_up_of on follow_up (person_id);
create index follow_up_due on follow_up (workspace_id, member_id, due_at) where done_at is null;

-- Mail addresses and customer numbers that somebody has written or that the team has saved.
create table person_mark (
  workspace_id bigint not null references workspace,
  kind text not null check (kind in ('mail', 'number')),
  value text not null,
  person_id bigint not null references person,
  primary key (workspace_id, kind, value, person_id)
);
create index person_mark_of on person_mark (person_id);

-- Two made one, and what was moved, so that it can be taken apart again.
create table person_join (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  kept_id bigint not null references person,
  gone_id bigint not null references person,
  member_id bigint not null references member,
  at timestamptz not null,
  moved jsonb not null,
  undone_at timestamptz
);
create index person_join_kept on person_join (kept_id) where undone_at is null;

create index message_feed on message (workspace_id, arrived_at) where inbound;
create index reaction_feed on reaction (workspace_id, at);

create table listening (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  words text not null check (length(words) between 2 and 80),
  account_id bigint not null references account,
  member_id bigint not null references member,
  made_at timestamptz not null,
  cursor text,
  problem text,
  found integer not null default 0,
  asked_at timestamptz,
  unique (account_id, words)
);

create table translation (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  message_id bigint not null references message,
  language text not null,
  body text not null,
  -- 'translated' holds what a message says in that language; 'written' what a member wrote before it was translated
  what text not null check (what in ('translated', 'written')),
  rough boolean not null,
  engine text not null,
  member_id bigint not null references member,
  at timestamptz not null,
  unique (message_id, language, what)
);

do $$
declare t text;
begin
  foreach t in array array['person_fact', 'follow_up', 'person_mark', 'person_join', 'listening', 'translation']
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
