-- What a file shows, for whoever cannot see it; and the workspace's own files, kept to be sent along with answers.
alter table attachment add column description text not null default '' check (length(description) <= 1000);

create table library_file (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  member_id bigint not null references member,
  sha256 text not null,
  media_type text not null,
  name text not null,
  size integer not null,
  description text not null default '' check (length(description) <= 1000),
  made_at timestamptz not null
);
create unique index library_file_content on library_file (workspace_id, sha256);

alter table library_file enable row level security;
alter table library_file force row level security;
create policy in_workspace on library_file using (workspace_id = (select chosen_workspace())) with check (workspace_id = (select chosen_workspace()));
grant select, insert, update, delete on library_file to sorta_app;
grant usage on all sequences in schema public to sorta_app;
create trigger recorded after insert or update or delete on library_file for each row
  execute function write_record('name,description', '', 'id');
