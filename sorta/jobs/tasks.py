"""What is queued for the worker: deliver one reply, pass a case on, count dues anew, try a rule, play days again, mail a password's link. What the clock brings is in jobs.clock."""

from datetime import UTC, datetime

from procrastinate import App

from sorta.services import answers, cases, delivery, forgotten, hours, replays, trials
from sorta.services.house import House


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

    @app.task(name=replays.PLAY)
    async def play_what_if(workspace_id: int, replay_id: int) -> None:
        await replays.run(house, workspace_id, replay_id, datetime.now(UTC))

    @app.task(name=forgotten.MAIL)
    async def mail_password_link(email: str) -> None:
        await forgotten.mail_link(house, email, datetime.now(UTC))
