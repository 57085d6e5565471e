-- What a member wants to hear of when it comes in; nothing chosen of a kind is all of it.
create table alert_watch (
  workspace_id bigint not null references workspace,
  id bigint generated always as identity primary key,
  member_id bigint not null references member,
  accounts bigint[] not null,
  kinds text[] not null,
  words text[] not null,
  check (cardinality(accounts) + cardinality(kinds) + cardinality(words) > 0)
);
create index alert_watch_of on alert_watch (workspace_id, member_id, id);
alter table alert_watch enable row level security;
alter table alert_watch force row level security;
create policy in_workspace on alert_watch using (workspace_id = (select chosen_workspace())) with check (workspace_id = (select chosen_workspace()));
grant select, insert, update, delete on alert_watch to sorta_app;
grant usage on all sequences in schema public to sorta_app;
