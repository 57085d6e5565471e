"""What an operator watches: gauges of every workspace and of the installation, counted when they are asked for. Used by the API.

docs/operating.md says what each means and what to do.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from datetime import datetime

from sorta.services.alerts import SENT_WITHIN
from sorta.services.duties import stands_still
from sorta.services.house import House, Unavailable
from sorta.services.workspaces import list_working_ids
from sorta.store import accounts as account_store
from sorta.store import duties, metrics


@dataclass(frozen=True, kw_only=True)
class Gauge:
    """One figure; `labels` tell it apart from others of its name."""

    name: str
    value: float
    labels: Mapping[str, str] = field(default_factory=dict)


#: Every gauge with what it says; a name not here is a mistake, and a test holds docs/operating.md to the table.
HELP: Mapping[str, str] = {
    "sorta_database_up": "1 while the database answers",
    "sorta_clock_behind_seconds": "By how many seconds the clock's rounds are late; -1 when they never came by",
    "sorta_duty_age_seconds": "Seconds since a duty last succeeded",
    "sorta_duty_took_seconds": "How long a duty took when it was last done",
    "sorta_duty_failures": "How often in a row a duty has failed",
    "sorta_duty_stands_still": "1 when a duty has not worked for so long that its members are told",
    "sorta_account_silent_seconds": "Seconds since a network stopped answering; 0 while it answers",
    "sorta_account_paused": "1 while an account waits for a new token",
    "sorta_outbox": "Answers and acts on their way, by account and state",
    "sorta_outbox_oldest_seconds": "Seconds that the oldest of them should have been outside for",
    "sorta_mails_unsent": "Alerts that are to be mailed and are not yet",
    "sorta_jobs": "Queued jobs by state",
    "sorta_jobs_orphaned": "Jobs that a worker left behind",
    "sorta_database_deadlocks": "Deadlocks since the database's statistics began",
    "sorta_database_rollbacks": "Transactions rolled back since then",
    "sorta_pool_size": "Connections that this process holds",
    "sorta_pool_waiting": "Requests that wait for one",
    "sorta_streams": "Streams of notices that are open",
    "sorta_stream_queue_longest": "Notices that wait in the longest of their queues",
    "sorta_reading_busy": "Readings of messages begun or waiting",
    "sorta_workshop_busy": "Learnings and parsings begun or waiting",
    "sorta_hashing_busy": "Passwords being looked at or waiting",
}


async def collect(house: House, now: datetime) -> list[Gauge]:
    """Every gauge; while the database is away, those of this process."""
    found = list(_of_this_process(house))
    try:
        async with house.db.connect() as conn:
            behind = await duties.get_behind(conn, now)
            found.append(Gauge(name="sorta_clock_behind_seconds", value=-1 if behind is None else max(0.0, behind)))
            for row in await metrics.count_jobs(conn, now):
                labels = {"state": row["state"]}
                found.append(Gauge(name="sorta_jobs", value=row["n"], labels=labels))
                found.append(Gauge(name="sorta_jobs_orphaned", value=row["orphaned"], labels=labels))
            counted = await metrics.get_database(conn)
            found.append(Gauge(name="sorta_database_deadlocks", value=counted["deadlocks"]))
            found.append(Gauge(name="sorta_database_rollbacks", value=counted["xact_rollback"]))
        for workspace_id in await list_working_ids(house):
            found += await _of_workspace(house, workspace_id, now)
        found.append(Gauge(name="sorta_database_up", value=1))
    except Unavailable:
        found.append(Gauge(name="sorta_database_up", value=0))
    return found


def _of_this_process(house: House) -> Iterator[Gauge]:
    stats = house.db.pool.get_stats()
    streams, longest = house.live.count()
    yield Gauge(name="sorta_pool_size", value=stats.get("pool_size", 0))
    yield Gauge(name="sorta_pool_waiting", value=stats.get("requests_waiting", 0))
    yield Gauge(name="sorta_streams", value=streams)
    yield Gauge(name="sorta_stream_queue_longest", value=longest)
    yield Gauge(name="sorta_reading_busy", value=house.reading.busy)
    yield Gauge(name="sorta_workshop_busy", value=house.workshop.busy)
    yield Gauge(name="sorta_hashing_busy", value=house.hashing.busy)


async def _of_workspace(house: House, workspace_id: int, now: datetime) -> list[Gauge]:
    found: list[Gauge] = []
    workspace = {"workspace": str(workspace_id)}
    async with house.db.transact(workspace_id) as tx:
        rows = await duties.list_duties(tx)
        outgoing = await metrics.count_outgoing(tx)
        unmailed = await metrics.count_unmailed(tx, now - SENT_WITHIN, now)
        connected = await account_store.list_accounts(tx)
    for row in rows:
        labels = {**workspace, "duty": row.name, "account": str(row.target or "")}
        age = (now - (row.succeeded_at or row.began_at)).total_seconds()
        found.append(Gauge(name="sorta_duty_age_seconds", value=max(0.0, age), labels=labels))
        found.append(Gauge(name="sorta_duty_took_seconds", value=(row.took_ms or 0) / 1000, labels=labels))
        found.append(Gauge(name="sorta_duty_failures", value=row.failures, labels=labels))
        found.append(Gauge(name="sorta_duty_stands_still", value=stands_still(row, now), labels=labels))
    for account in connected:
        labels = {**workspace, "account": str(account.id), "network": account.network}
        silent = 0.0 if account.silent_since is None else (now - account.silent_since).total_seconds()
        found.append(Gauge(name="sorta_account_silent_seconds", value=max(0.0, silent), labels=labels))
        found.append(Gauge(name="sorta_account_paused", value=account.paused_reason is not None, labels=labels))
    for one in outgoing:
        labels = {**workspace, "account": str(one["account_id"]), "state": one["state"]}
        late = max(0.0, (now - one["oldest"]).total_seconds())
        found.append(Gauge(name="sorta_outbox", value=one["n"], labels=labels))
        found.append(Gauge(name="sorta_outbox_oldest_seconds", value=late, labels=labels))
    found.append(Gauge(name="sorta_mails_unsent", value=unmailed, labels=workspace))
    return found
