-- Whose consent has been asked for, one after the other, and after which share of the time left the next is asked.

alter table proposal
  -- [{member, at, until}]
  add column asked jsonb not null default '[]';
alter table workspace
  -- percent of the time that was left when somebody was asked
  add column ask_next_after smallint not null default 50 check (ask_next_after between 10 and 90);
