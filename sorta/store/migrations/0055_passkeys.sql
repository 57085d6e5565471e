-- Passkeys (WebAuthn): keys that a member's device or security key keeps, and shows only after it has seen who uses it. One is a second step, and
-- more than a password by itself. They belong to no workspace, as members do.
create table member_passkey (
  id bigint generated always as identity primary key,
  member_id bigint not null references member on delete cascade,
  credential_id bytea not null unique,
  -- its public key, as the device attested it (WebAuthn, 6.5.2)
  credential bytea not null,
  sign_count bigint not null,
  name text not null,
  made_at timestamptz not null,
  used_at timestamptz
);
create index passkey_of on member_passkey (member_id);
-- What was answered once is not answered twice. A challenge is sealed and kept by who was asked: it stands here from its answer to its end.
create table answered_challenge (
  challenge_hash bytea primary key,
  expires_at timestamptz not null
);
create index answered_challenge_until on answered_challenge (expires_at);
-- What devices know a member by: nothing of theirs, and nobody else's (WebAuthn, 14.6.1).
alter table member add column user_handle bytea not null unique default uuid_send(gen_random_uuid());

-- Whether a member shows more than a password: codes of an app, or a passkey.
create function has_second(p_member bigint) returns boolean language sql stable
return exists (select from public.second_factor f where f.member_id = p_member and f.confirmed_at is not null)
  or exists (select from public.member_passkey p where p.member_id = p_member);

grant select, insert, update, delete on member_passkey, answered_challenge to sorta_app;
