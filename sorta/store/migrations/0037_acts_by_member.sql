-- What a member did since when: for their day.
create index trail_by_member on trail (workspace_id, member_id, at) where member_id is not null;
