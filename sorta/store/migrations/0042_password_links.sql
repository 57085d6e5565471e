-- Links by which somebody who has forgotten their password sets another; they belong to no workspace, as members do.
create table password_link (
  token_hash bytea primary key,
  member_id bigint not null references member on delete cascade,
  made_at timestamptz not null,
  expires_at timestamptz not null,
  used_at timestamptz
);
create index password_link_of on password_link (member_id);
grant select, insert, update, delete on password_link to sorta_app;
