-- count_outgoing: what is on its way, by account and state, and since when the oldest should be out
select account_id, state, count(*) as n, min(leaves_at) as oldest from outbox
where workspace_id = %(workspace_id)s and state in ('queued', 'sending', 'waiting') group by account_id, state;

-- count_unmailed: alerts that should have been mailed and are not
select count(*) from alert_way where workspace_id = %(workspace_id)s and way = 'mail' and sent_at is null and next_at < 'infinity'
  and leaves_at > %(since)s and leaves_at <= %(now)s;

-- count_jobs: jobs by state, and those that a worker left behind
select j.status::text as state, count(*) as n,
  count(*) filter (where j.status = 'doing' and (w.id is null or w.last_heartbeat < %(now)s::timestamptz - interval '1 minute')) as orphaned
from procrastinate_jobs j left join procrastinate_workers w on w.id = j.worker_id group by j.status;

-- get_database: what the database counts of itself
select deadlocks, conflicts, temp_bytes, xact_rollback from pg_stat_database where datname = current_database();
