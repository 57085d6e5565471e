-- A draft can be shown to colleagues while it is written.
alter table draft add column shared boolean not null default false;
