-- What the number on the browser's tab counts: what waits for the member, for their teams, or for all.
alter table member add column tab text not null default 'all' check (tab in ('mine', 'team', 'all'));
