"""The worker's tasks: deliver one reply; every few seconds, what the clock brings; backfill."""

from datetime import UTC, datetime

from procrastinate import App

from sorta.services import (
    acts,
    advice,
    alerts,
    answers,
    approvals,
    attachments,
    cases,
    delivery,
    desk,
    draws,
    hours,
    intake,
    listening,
    scheduling,
    trials,
)
from sorta.services.house import House
from sorta.services.workspaces import list_all_workspace_ids


def add_tasks(app: App, house: House) -> None:
    """Register all tasks on the queue's app."""

    @app.task(name=answers.DELIVER)
    async def deliver(workspace_id: int, outbox_id: int) -> None:
        await delivery.deliver(house, workspace_id, outbox_id, datetime.now(UTC))

    @app.task(name=cases.PASS_ON)
    async def pass_on(workspace_id: int, case_id: int) -> None:
        await cases.pass_on(house, workspace_id, case_id, datetime.now(UTC))

    @app.task(name=hours.RECOUNT)
    async def recount_dues(workspace_id: int) -> None:
        await hours.recount_dues(house, workspace_id)

    @app.task(name=trials.TRY)
    async def try_rules(workspace_id: int, trial_id: int) -> None:
        await trials.run_trial(house, workspace_id, trial_id)

    # The sixth field of these is seconds.
    @app.periodic(cron="* * * * * */5")
    @app.task(name="tick", queueing_lock="tick")
    async def tick(timestamp: int) -> None:
        """Bring back what was parked; pick up deliveries that nobody has; say what is not out; tell of what is late. Safe to run twice."""
        now = datetime.now(UTC)
        for workspace_id in await list_all_workspace_ids(house):
            await advice.send_due(house, workspace_id, now)
            await acts.return_parked(house, workspace_id, now)
            await scheduling.send_due(house, workspace_id, now)
            await delivery.queue_deliverable(house, workspace_id, now)
            await delivery.mark_late(house, workspace_id, now)
            await cases.pass_on_due(house, workspace_id, now)
            await approvals.ask_next(house, workspace_id, now)
            await draws.close_due(house, workspace_id, now)
            await alerts.tell_late(house, workspace_id, now)
            await alerts.mail_alerts(house, workspace_id, now)

    @app.periodic(cron="* * * * * */30")
    @app.task(name="keep_counts", queueing_lock="keep_counts")
    async def keep_counts(timestamp: int) -> None:
        """Fold counts and bring standings up to date."""
        for workspace_id in await list_all_workspace_ids(house):
            await desk.keep_counts(house, workspace_id, datetime.now(UTC))

    @app.periodic(cron="20 3 * * *")
    @app.task(name="sweep", queueing_lock="sweep")
    async def sweep(timestamp: int) -> None:
        """Take away files that were never sent."""
        for workspace_id in await list_all_workspace_ids(house):
            await attachments.sweep(house, workspace_id, datetime.now(UTC))

    @app.periodic(cron="* * * * * */15")
    @app.task(name="listen", queueing_lock="listen")
    async def listen(timestamp: int) -> None:
        """Search the networks for the saved words."""
        for workspace_id in await list_all_workspace_ids(house):
            await listening.listen(house, workspace_id, datetime.now(UTC))

    @app.periodic(cron="* * * * * */20")
    @app.task(name="backfill", queueing_lock="backfill")
    async def backfill(timestamp: int) -> None:
        """Fill holes that lost deliveries or downtime left."""
        for workspace_id in await list_all_workspace_ids(house):
            await intake.backfill_all(house, workspace_id, datetime.now(UTC))
