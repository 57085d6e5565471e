-- Tags as a team keeps them: under a heading, retired (they stay where they are and are offered no more), or merged into another.
alter table tag
  add column heading text not null default '' check (length(heading) <= 40),
  add column retired_at timestamptz,
  add column merged_into bigint references tag check (merged_into <> id),
  add check (merged_into is null or retired_at is not null);
create index tag_merged on tag (workspace_id, merged_into) where merged_into is not null;
create trigger recorded after insert or update or delete on tag for each row
  execute function write_record('name,heading,retired_at,merged_into', '', 'id');
create unique index team_name on team (workspace_id, lower(name));
