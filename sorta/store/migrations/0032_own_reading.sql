-- What a workspace's own reading was learned from, how it compares, and the weights of the one in use.

create table own_reading (
  workspace_id bigint not null references workspace,
  id bigint generated always as identity,
  learned_at timestamptz not null,
  -- the hash of the written texts it was learned with: others make other weights
  based_on text not null,
  -- how many messages members had said something of by then
  said integer not null check (said > 0),
  state text not null check (state in ('in_use', 'no_better', 'taken_back', 'followed')),
  -- see core.own_reading.Comparison
  compared jsonb not null,
  -- kept while it is in use
  weights bytea,
  ended_at timestamptz,
  ended_by bigint references member,
  primary key (workspace_id, id),
  check ((state = 'in_use') = (weights is not null))
);
create unique index own_reading_in_use on own_reading (workspace_id) where state = 'in_use';
alter table own_reading enable row level security;
alter table own_reading force row level security;
create policy in_workspace on own_reading using (workspace_id = (select chosen_workspace()))
  with check (workspace_id = (select chosen_workspace()));
grant select, insert, update on own_reading to sorta_app;
