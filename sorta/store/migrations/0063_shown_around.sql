-- Whether a member has been shown around the desk: once, and never again.
alter table member add column shown_around boolean not null default false;
