-- Accounts by their networks' leave (OAuth 2.0): what renews the token, when that ends, what is still to be allowed there; and accounts that were
-- disconnected: what they said and were told stays, nothing comes in or goes out by them.
alter table account
  add refresh_token text,
  add token_ends_at timestamptz,
  -- nobody else renews it before; a network that does not answer is asked again later
  add renew_at timestamptz,
  -- [{words, address}]
  add lacking jsonb not null default '[]',
  add disconnected_at timestamptz,
  add disconnected_by bigint references member;
create index account_to_renew on account (workspace_id, renew_at) where renew_at is not null;

-- Somebody is at a network's page and is asked for leave; the state in their address leads back here, once.
create table grant_try (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  state_hash bytea not null unique,
  member_id bigint not null references member,
  network text not null,
  -- sealed (RFC 7636, 4.1)
  verifier text not null,
  made_at timestamptz not null,
  expires_at timestamptz not null,
  used_at timestamptz
);
create index grant_try_old on grant_try (workspace_id, expires_at);
alter table grant_try enable row level security;
alter table grant_try force row level security;
create policy in_workspace on grant_try using (workspace_id = (select chosen_workspace())) with check (workspace_id = (select chosen_workspace()));
grant select, insert, update, delete on grant_try to sorta_app;

drop trigger recorded on account;
create trigger recorded after insert or update or delete on account for each row
  execute function write_record('network,name,handle,external_id,api_url,lacking,disconnected_at', 'token,hook_secret', 'id');
