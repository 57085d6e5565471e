-- The list of a draw's entries is fixed at the deadline, before anybody can read the seed; one open draw a post.

alter table draw
  -- when the list was fixed, and the list: entries and what was left out, as they are published, with the messages behind them
  add column closed_at timestamptz,
  add column listed jsonb,
  add column entries_sha256 text,
  -- the public value that was named beforehand, once it is known
  add column public_value text;
update draw set closed_at = drawn_at where drawn_at is not null;
-- Of several that were open under one post the first goes on.
update draw d set cancelled_at = now() where drawn_at is null and cancelled_at is null and exists (select from draw e
  where e.post_id = d.post_id and e.id < d.id and e.drawn_at is null and e.cancelled_at is null);
create unique index draw_open on draw (post_id) where drawn_at is null and cancelled_at is null;
create index draw_due on draw (workspace_id, deadline) where closed_at is null and cancelled_at is null;

-- Nobody reads a seed while people can still enter: not a member, not the application. It is opened once the list is fixed.
revoke select on draw from sorta_app;
grant select (id, workspace_id, post_id, rules, commitment, made_by, announced_at, deadline, drawn_by, drawn_at, certificate, picked,
  cancelled_at, closed_at, listed, entries_sha256, public_value) on draw to sorta_app;
create function open_seed(p_workspace bigint, p_draw bigint) returns text language sql stable security definer
  set search_path = public as $$
  select seed from draw where id = p_draw and workspace_id = p_workspace and closed_at is not null and listed is not null
    and workspace_id = nullif(current_setting('app.workspace_id', true), '')::bigint
$$;
revoke execute on function open_seed from public;
grant execute on function open_seed to sorta_app;
