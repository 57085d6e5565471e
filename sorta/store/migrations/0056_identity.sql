-- Signing in by the word of a provider (OpenID Connect): by what name it knows a member, and which of its groups work in a workspace as what.
create table provider_login (
  issuer text not null,
  subject text not null,
  member_id bigint not null references member on delete cascade,
  made_at timestamptz not null,
  used_at timestamptz not null,
  primary key (issuer, subject),
  unique (issuer, member_id)
);
grant select, insert, update, delete on provider_login to sorta_app;
-- Who came by a provider has no password until they set one.
alter table member add column has_password boolean not null default true;
-- A place that a provider's group gives goes with it; one that was given by hand stays.
alter table membership add column by_group boolean not null default false;

create table provider_group (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  name text not null,
  role text not null,
  unique (workspace_id, name),
  foreign key (workspace_id, role) references role
);
alter table provider_group enable row level security;
alter table provider_group force row level security;
create policy in_workspace on provider_group using (workspace_id = (select chosen_workspace()))
  with check (workspace_id = (select chosen_workspace()));
grant select, insert, update, delete on provider_group to sorta_app;
create trigger recorded after insert or update or delete on provider_group for each row execute function write_record('name,role', '', 'id');
