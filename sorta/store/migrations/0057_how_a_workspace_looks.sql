-- The languages that a workspace's team reads, the first of which it writes in; and its colour and picture, for those who look on from outside the team.
alter table workspace add column languages text[] not null default '{en}' check (cardinality(languages) between 1 and 20);
alter table workspace add column colour text check (colour ~ '^#[0-9a-f]{6}$');
-- What its picture is known by, and the picture as it was made here: 256 by 256 at most, in PNG, without anything else that a file can hold.
alter table workspace add column picture text;
create table workspace_picture (
  workspace_id bigint primary key references workspace,
  image bytea not null
);
alter table workspace_picture enable row level security;
alter table workspace_picture force row level security;
create policy in_workspace on workspace_picture using (workspace_id = (select chosen_workspace()))
  with check (workspace_id = (select chosen_workspace()));
grant select, insert, update, delete on workspace_picture to sorta_app;
drop trigger recorded on workspace;
create trigger recorded after insert or update or delete on workspace for each row
  execute function write_record('name,description,time_zone,languages,colour,picture,held_at,held_reason,mail_domains,false_alarms,ask_next_after,needs_second,archived_at', '', 'id');
