"""The worker's tasks: deliver one reply; every few seconds, what the clock brings; backfill."""

from datetime import UTC, datetime

from procrastinate import App

from sorta.services import acts, answers, delivery, ingest
from sorta.services.house import House
from sorta.services.workspaces import list_all_workspace_ids


def add_tasks(app: App, house: House) -> None:
    """Register all tasks on the queue's app."""

    @app.task(name=answers.DELIVER)
    async def deliver(workspace_id: int, outbox_id: int) -> None:
        await delivery.deliver(house, workspace_id, outbox_id, datetime.now(UTC))

    # The sixth field of these is seconds.
    @app.periodic(cron="* * * * * */5")
    @app.task(name="tick", queueing_lock="tick")
    async def tick(timestamp: int) -> None:
        """Bring back what was parked; pick up deliveries that nobody has. Safe to run twice."""
        now = datetime.now(UTC)
        for workspace_id in await list_all_workspace_ids(house):
            await acts.return_parked(house, workspace_id, now)
            await delivery.queue_deliverable(house, workspace_id, now)

    @app.periodic(cron="* * * * * */20")
    @app.task(name="backfill", queueing_lock="backfill")
    async def backfill(timestamp: int) -> None:
        """Fill holes that lost deliveries or downtime left."""
        for workspace_id in await list_all_workspace_ids(house):
            await ingest.backfill_all(house, workspace_id, datetime.now(UTC))
