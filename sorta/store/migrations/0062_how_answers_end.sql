-- How answers end: the line that closes those of an account, with {initials} and {first name} of whoever writes; and whether sending
-- one settles the conversation unless it is said otherwise.
alter table account add column sign_off text not null default '' check (length(sign_off) <= 80);
alter table workspace add column send_settles boolean not null default false;
drop trigger recorded on account;
create trigger recorded after insert or update or delete on account for each row
  execute function write_record('network,name,handle,external_id,api_url,lacking,disconnected_at,sign_off', 'token,hook_secret', 'id');
drop trigger recorded on workspace;
create trigger recorded after insert or update or delete on workspace for each row
  execute function write_record('name,description,time_zone,languages,colour,picture,send_settles,held_at,held_reason,mail_domains,false_alarms,ask_next_after,needs_second,archived_at', '', 'id');
