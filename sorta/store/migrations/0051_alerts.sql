-- Alerts by several ways (decision 0050): what applies for who has chosen nothing, quiet hours, digests, text messages.
alter table alert_choice add by_text boolean not null default false, add on_device boolean not null default true;
create table alert_default (
  workspace_id bigint not null references workspace,
  occasion text not null,
  in_app boolean not null,
  on_device boolean not null,
  by_mail boolean not null,
  by_text boolean not null,
  minutes integer not null default 15 check (minutes between 1 and 1440),
  primary key (workspace_id, occasion)
);
create table alert_habit (
  workspace_id bigint not null references workspace,
  member_id bigint not null references member,
  -- by the workspace's clock
  quiet_from time,
  quiet_until time,
  digest text not null default 'at_once' check (digest in ('at_once', 'hourly', 'daily')),
  primary key (workspace_id, member_id)
);
-- An alert's way out of Sorta. What leaves together has one batch, so that the same letter is tried again and no other.
create table alert_way (
  alert_id bigint not null references alert on delete cascade,
  way text not null check (way in ('mail', 'text')),
  workspace_id bigint not null references workspace,
  member_id bigint not null references member,
  leaves_at timestamptz not null,
  next_at timestamptz not null,
  tries integer not null default 0,
  batch bigint,
  sent_at timestamptz,
  problem text,
  primary key (alert_id, way)
);
create index alert_way_due on alert_way (workspace_id, way, next_at) where sent_at is null;
-- What was to be mailed.
alter table alert no force row level security;
insert into alert_way (alert_id, way, workspace_id, member_id, leaves_at, next_at, tries, sent_at, problem)
select id, 'mail', workspace_id, member_id, at, mail_next_at, mail_tries, mailed_at, problem from alert where by_mail;
alter table alert force row level security;
alter table alert drop column by_mail, drop column mailed_at, drop column mail_next_at, drop column mail_tries, drop column problem,
  add on_device boolean not null default true;
-- Where text messages go, once a code that was sent there has been said; and what a gateway said of it.
alter table member add phone text, add text_refused text, add text_refused_at timestamptz;
create table phone_try (
  member_id bigint primary key references member on delete cascade,
  phone text not null,
  code_hash bytea not null,
  sent integer not null default 1,
  tries integer not null default 0,
  began_at timestamptz not null,
  expires_at timestamptz not null
);
grant select, insert, update, delete on phone_try to sorta_app;
do $$
declare t text;
begin
  foreach t in array array['alert_default', 'alert_habit', 'alert_way']
  loop
    execute format('alter table %I enable row level security', t);
    execute format('alter table %I force row level security', t);
    execute format('grant select, insert, update, delete on %I to sorta_app', t);
  end loop;
end $$;
create policy in_workspace on alert_default using (workspace_id = (select chosen_workspace())) with check (workspace_id = (select chosen_workspace()));
create policy in_workspace on alert_habit using (workspace_id = (select chosen_workspace())) with check (workspace_id = (select chosen_workspace()));
create policy in_workspace on alert_way using (workspace_id = (select chosen_workspace())
    and ((select seen_accounts()) is null or exists (select from alert a where a.id = alert_way.alert_id)))
  -- It is written with its alert, in one statement that does not see it yet; what that may be about is asked there.
  with check (workspace_id = (select chosen_workspace()));
create trigger recorded after insert or update or delete on alert_default for each row
  execute function write_record('occasion,in_app,on_device,by_mail,by_text,minutes', '', 'occasion');
