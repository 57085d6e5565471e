-- Saved replies with their use, and the workspace's links: kept ones by name, short ones in what goes out, their clicks.

create table saved_reply (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  body jsonb not null,
  changed_by bigint not null references member,
  changed_at timestamptz not null,
  archived_at timestamptz
);
create unique index saved_reply_shortcut on saved_reply (workspace_id, (body ->> 'shortcut'))
  where archived_at is null and body ->> 'shortcut' <> '';

-- One answer that was made with a saved reply; `answered` is the message it answered.
create table saved_reply_use (
  message_id bigint primary key references message,
  workspace_id bigint not null references workspace,
  saved_reply_id bigint not null references saved_reply,
  answered_id bigint references message,
  member_id bigint references member,
  at timestamptz not null
);
create index saved_reply_use_of on saved_reply_use (saved_reply_id, at);
create index saved_reply_use_latest on saved_reply_use (workspace_id, at desc, message_id desc);

-- A short link: one for each target and account that answers with it.
create table link (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  slug text not null unique,
  target text not null,
  account_id bigint references account,
  made_by bigint references member,
  made_at timestamptz not null
);
create unique index link_of on link (workspace_id, coalesce(account_id, 0), md5(target));

create table kept_link (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  name text not null,
  target text not null,
  changed_by bigint not null references member,
  changed_at timestamptz not null,
  unique (workspace_id, name)
);

create table click (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  link_id bigint not null references link,
  at timestamptz not null,
  -- why it is not counted: 'program' or 'member'
  apart text check (apart in ('program', 'member'))
);
create index click_of on click (link_id, at);

do $$
declare t text;
begin
  foreach t in array array['saved_reply', 'saved_reply_use', 'link', 'kept_link', 'click']
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

-- Whoever opens a short link belongs to no workspace: only the one link asked for by its slug can be read so.
create policy by_slug on link for select using (slug = nullif(current_setting('app.slug', true), ''));

-- What comes with a reply beside its words: {written: [text, language], saved_reply, ...}.
alter table proposal add extras jsonb not null default '{}';
update proposal set extras = jsonb_build_object('written', jsonb_build_array(written -> 'text', written -> 'language'))
where written is not null;
alter table proposal drop written;
