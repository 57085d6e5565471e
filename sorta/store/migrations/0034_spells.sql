-- Answer spells (docs/metrics.md): each stretch in which they waited for us, told by core.spells from the trail; the hours and
-- targets that held when; since when a member has a conversation open to answer it.

create table spell (
  workspace_id bigint not null references workspace,
  conversation_id bigint not null references conversation,
  -- the trail's number of what opened it
  seq integer not null,
  account_id bigint not null,
  network text not null,
  kind text not null,
  public boolean not null,
  -- the first of its conversation
  first boolean not null,
  since timestamptz not null,
  -- where it stood since when: [[instant, phase], ...], the first since the beginning
  phases jsonb not null,
  ended_at timestamptz,
  ended_by text check (ended_by in ('answered', 'outside', 'settled', 'handed_over', 'removed')),
  how text,
  ended_seq integer,
  member_id bigint references member,
  rule_id bigint,
  reply_id bigint,
  -- as they stood when it ended; while it is open the conversation's own count
  owner_id bigint,
  team_id bigint,
  priority smallint,
  language text,
  sentiment smallint,
  tags bigint[],
  -- how long it was, on the clock and in the working time that held then, and where it stood meanwhile; seconds
  clock_s double precision,
  work_s double precision,
  parked_s double precision,
  review_s double precision,
  advice_s double precision,
  case_s double precision,
  -- how long its author had the conversation open to write in it before sending
  handling_s real,
  due timestamptz,
  primary key (conversation_id, seq),
  check ((ended_at is null) = (ended_by is null)),
  check (ended_at is null or (ended_at >= since and clock_s is not null and work_s is not null and due is not null
    and priority is not null and parked_s is not null and review_s is not null and advice_s is not null and tags is not null))
);
create index spell_ended on spell (workspace_id, ended_at) where ended_at is not null;
create index spell_open on spell (workspace_id, since) where ended_at is null;
create index spell_opened on spell (workspace_id, since) where first;
alter table spell enable row level security;
alter table spell force row level security;
create policy in_workspace on spell using (workspace_id = (select chosen_workspace()))
  with check (workspace_id = (select chosen_workspace()));
grant select, insert, update, delete on spell to sorta_app;

create table promise_kept (
  workspace_id bigint not null references workspace,
  begins timestamptz not null,
  time_zone text not null,
  week jsonb not null,
  special jsonb not null,
  targets jsonb not null,
  primary key (workspace_id, begins)
);
alter table promise_kept enable row level security;
alter table promise_kept force row level security;
create policy in_workspace on promise_kept using (workspace_id = (select chosen_workspace()))
  with check (workspace_id = (select chosen_workspace()));
grant select, insert, update on promise_kept to sorta_app;
-- What held before is not known: the hours there are now count for it.
alter table workspace_hours no force row level security;
insert into promise_kept (workspace_id, begins, time_zone, week, special, targets)
select h.workspace_id, '1970-01-01 00:00+00', w.time_zone, h.week, h.special, h.targets
from workspace_hours h join workspace w on w.id = h.workspace_id;
alter table workspace_hours force row level security;

-- Conversations whose spells have been told; what an earlier version took in is told by `python -m sorta.main tell-spells`.
alter table workspace add spells_told boolean not null default true;
update workspace set spells_told = false;

alter table presence add since timestamptz;

-- Who oversees sees reports.
alter table role no force row level security;
update role set permissions = array_append(permissions, 'see_reports')
where key in ('owner', 'lead', 'observer') and not 'see_reports' = any(permissions);
alter table role force row level security;
