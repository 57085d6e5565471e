-- Prize draws: what was announced with the seed's commitment, and the certificate once it was drawn.

create table draw (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  post_id bigint not null references post,
  rules jsonb not null,
  -- kept to ourselves until it is drawn
  seed text not null,
  commitment text not null,
  made_by bigint not null references member,
  announced_at timestamptz not null,
  deadline timestamptz not null,
  drawn_by bigint references member,
  drawn_at timestamptz,
  certificate jsonb,
  -- the messages behind the winners and those who stand in, in their order
  picked bigint[],
  cancelled_at timestamptz
);
create index draw_list on draw (workspace_id, id);

create table draw_notice (
  draw_id bigint not null references draw,
  message_id bigint not null references message,
  workspace_id bigint not null references workspace,
  member_id bigint not null references member,
  at timestamptz not null,
  outcome text not null check (outcome in ('sent', 'asked')),
  primary key (draw_id, message_id)
);

do $$
declare t text;
begin
  foreach t in array array['draw', 'draw_notice']
  loop
    execute format('alter table %I enable row level security', t);
    execute format('alter table %I force row level security', t);
    execute format('create policy in_workspace on %I using (workspace_id = '
      'nullif(current_setting(''app.workspace_id'', true), '''')::bigint) with check (workspace_id = '
      'nullif(current_setting(''app.workspace_id'', true), '''')::bigint)', t);
    execute format('grant select, insert, update, delete on %I to sorta_app', t);
  end loop;
end $$;
-- What was announced stays as it was.
revoke delete on draw from sorta_app;
grant usage on all sequences in schema public to sorta_app;
