-- One text per mode and conversation; two places that write one text hear of each other. Keys as a member wants them.

alter table draft add column rev integer not null default 1;
alter table draft drop constraint draft_pkey;
alter table draft add primary key (member_id, conversation_id, mode);

alter table member add column single_keys text not null default 'plain' check (single_keys in ('plain', 'alt', 'off'));
