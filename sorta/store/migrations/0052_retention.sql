-- How long kinds of things are kept where a workspace has chosen; null is for good. What is not here is kept as services.retention has it.
create table retention_choice (
  workspace_id bigint not null references workspace,
  name text not null,
  days integer check (days > 0),
  primary key (workspace_id, name)
);
alter table retention_choice enable row level security;
alter table retention_choice force row level security;
create policy in_workspace on retention_choice using (workspace_id = (select chosen_workspace())) with check (workspace_id = (select chosen_workspace()));
grant select, insert, update, delete on retention_choice to sorta_app;
create trigger recorded after insert or update or delete on retention_choice for each row execute function write_record('name,days', '', 'name');
-- Who was heard of long ago is erased by the clock, for nobody.
alter table erasure alter column made_by drop not null;
