-- Asking people outside by mail is a permission of its own: whoever may answer without approval had it until now.
-- The owner of a table is bound by its policies only while they are forced.
alter table role no force row level security;
update role set permissions = array_append(permissions, 'ask_outside')
where 'reply_without_approval' = any(permissions) and not 'ask_outside' = any(permissions);
alter table role force row level security;

-- The mail domains that people outside can be asked at; those that were asked so far stay.
alter table workspace add column mail_domains text[] not null default '{}';
alter table advice no force row level security;
update workspace w set mail_domains = coalesce((select array_agg(distinct lower(split_part(a.to_address, '@', 2)))
  from advice a where a.workspace_id = w.id), '{}');
alter table advice force row level security;
