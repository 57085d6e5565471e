-- An answer that is not outside yet: since when it should be, why it is not, and what rests on it.

alter table conversation
  -- the reply on whose going out the settling, or the parking, rests
  add column settled_on bigint,
  add column parked_on bigint,
  -- the newest answer that was given on the network itself
  add column answered_until timestamptz;

alter table outbox
  -- when its time for taking it back was over and it was first to go
  add column leaves_at timestamptz,
  -- why it is not out although it should be; told to its author once
  add column stuck text,
  -- a try ended without a word: the network may have it all the same
  add column maybe_out boolean not null default false;
update outbox set leaves_at = not_before;
alter table outbox alter column leaves_at set not null;
create index outbox_late on outbox (workspace_id, leaves_at) where state in ('queued', 'sending', 'waiting') and stuck is null;
create index outbox_stuck on outbox (workspace_id, account_id) where stuck is not null and state in ('queued', 'sending', 'waiting');
