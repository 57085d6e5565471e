-- A second step at signing in: a secret shared with an app that shows codes (RFC 6238), and codes on paper for when that is lost. They belong to
-- no workspace, as members do. A session of somebody who has one is not whole until it was shown; sessions say where they are.
create table second_factor (
  member_id bigint primary key references member on delete cascade,
  secret text not null,
  made_at timestamptz not null,
  confirmed_at timestamptz,
  -- the last span of 30 seconds whose code was taken: none is taken twice
  last_step bigint not null default 0
);
create table recovery_code (
  member_id bigint not null references member on delete cascade,
  code_hash bytea not null,
  used_at timestamptz,
  primary key (member_id, code_hash)
);
alter table session add column id bigint generated always as identity;
alter table session add column whole boolean not null default true;
alter table session add column came_from text not null default '';
alter table session add column agent text not null default '';
create index session_of on session (member_id);
alter table workspace add column needs_second boolean not null default false;
grant select, insert, update, delete on second_factor, recovery_code to sorta_app;
