-- What a workspace is about, and when it was put away: then it is opened by nobody, nothing of it runs and nothing leaves it.
alter table workspace add column description text not null default '' check (length(description) <= 400);
alter table workspace add column archived_at timestamptz;

drop trigger recorded on workspace;
create trigger recorded after insert or update or delete on workspace for each row execute function write_record(
  'name,description,time_zone,held_at,held_reason,mail_domains,false_alarms,ask_next_after,needs_second,archived_at', '', 'id');

-- Which steps of the guided start its Owners have passed over.
alter table workspace add column start_skipped text[] not null default '{}';
