-- list_accounts: each account as it stands: the last that came and went out, what waits, and what was refused or kept aside since an instant
select a.id as account_id, a.network, a.name, a.handle, a.paused_reason, a.silent_since, a.disconnected_at, a.token_ends_at,
  a.refresh_token is not null as renews,
  (select m.arrived_at from message m where m.workspace_id = a.workspace_id and m.account_id = a.id and m.inbound
    and m.arrived_at >= %(long_ago)s order by m.arrived_at desc limit 1) as last_in_at,
  (select max(coalesce(o.tried_at, o.queued_at)) from outbox o where o.workspace_id = a.workspace_id and o.account_id = a.id
    and o.queued_at >= %(long_ago)s and o.state = 'delivered') as last_out_at,
  w.waiting, w.waiting_since,
  (select count(*) from outbox o where o.workspace_id = a.workspace_id and o.account_id = a.id and o.state = 'refused'
    and o.queued_at >= %(since)s) as refused,
  (select count(*) from aside x where x.workspace_id = a.workspace_id and x.account_id = a.id and x.taken_at is null
    and x.received_at >= %(since)s) as aside
from account a cross join lateral (select count(*) as waiting, min(o.queued_at) as waiting_since from outbox o
  where o.workspace_id = a.workspace_id and o.account_id = a.id and o.state in ('queued', 'sending', 'waiting')) w
where a.workspace_id = %(workspace_id)s order by a.id;

-- list_hours: what came in to each account in each hour since an instant, and how long after it was said there it was here
select m.account_id, floor(extract(epoch from m.arrived_at - %(since)s) / 3600)::int as hour, count(*) as came,
  percentile_cont(0.5) within group (order by greatest(0, extract(epoch from m.arrived_at - m.sent_at)))::float8 as lag_half,
  max(greatest(0, extract(epoch from m.arrived_at - m.sent_at)))::float8 as lag_worst
from message m where m.workspace_id = %(workspace_id)s and m.inbound and m.arrived_at >= %(since)s and m.arrived_at < %(until)s
group by m.account_id, hour order by m.account_id, hour;

-- list_lags: the same over all of that time
select m.account_id, count(*) as came,
  percentile_cont(0.5) within group (order by greatest(0, extract(epoch from m.arrived_at - m.sent_at)))::float8 as lag_half,
  max(greatest(0, extract(epoch from m.arrived_at - m.sent_at)))::float8 as lag_worst
from message m where m.workspace_id = %(workspace_id)s and m.inbound and m.arrived_at >= %(since)s and m.arrived_at < %(until)s
group by m.account_id;
