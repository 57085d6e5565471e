"""What is kept for how long: one table of periods, swept in small batches. Used by the clock and shown in Setup."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from sorta.services import attachments
from sorta.services.house import House
from sorta.store import retention as store


@dataclass(frozen=True, kw_only=True)
class Kept:
    """A kind of row and how long it is kept; `name` is its statement's. `above` rows belong to no workspace."""

    name: str
    says: str
    period: timedelta
    above: bool = False


#: What is not named here is kept for good: conversations, their trail, messages, answers, people, cases, draws.
PERIODS: Sequence[Kept] = (
    Kept(name="alerts", says="What members were told", period=timedelta(days=90)),
    Kept(name="aside_taken", says="What was kept aside and taken in after all", period=timedelta(days=30)),
    Kept(name="aside", says="What was kept aside and nobody took in", period=timedelta(days=365)),
    Kept(name="early_changes", says="Edits and removals of messages that never came", period=timedelta(days=30)),
    Kept(name="clicks", says="Clicks on short links", period=timedelta(days=800)),
    Kept(name="clicks_apart", says="Clicks of programs and members, which are not counted", period=timedelta(days=90)),
    Kept(name="translations", says="Translations, made again when asked for", period=timedelta(days=180)),
    Kept(name="rule_hits", says="What rules did, once it needs no look any more", period=timedelta(days=400)),
    Kept(name="read_marks", says="How far members had read what was settled", period=timedelta(days=180)),
    Kept(name="hook_events", says="What programs were told", period=timedelta(days=30)),
    Kept(name="grant_tries", says="Tries at a network’s page", period=timedelta(days=1)),
    Kept(name="invitations", says="Invitations nobody took, once they have run out", period=timedelta(days=30)),
    Kept(
        name="acts_done", says="Likes, removals and the like, once the network has done them", period=timedelta(days=90)
    ),
    Kept(name="tally_zeros", says="Counts that have come to nothing", period=timedelta(0)),
    Kept(name="security_events", says="The security log", period=timedelta(days=400), above=True),
    Kept(name="sessions", says="Sessions that have run out", period=timedelta(days=1), above=True),
    Kept(name="devices", says="Devices nobody signs in on any more", period=timedelta(days=180), above=True),
    Kept(name="sign_in_failures", says="Failed tries to sign in", period=timedelta(days=1), above=True),
    Kept(name="password_links", says="Links for a forgotten password", period=timedelta(days=1), above=True),
    Kept(name="phone_tries", says="Codes for a phone’s number", period=timedelta(days=1), above=True),
    Kept(name="jobs", says="Jobs that failed or were left behind", period=timedelta(hours=1), above=True),
)
#: Rows deleted in one transaction, and batches of a kind in one sweep: what is left waits for the next.
BATCH, MOST_BATCHES = 1000, 50


async def sweep(house: House, workspace_id: int, now: datetime) -> int:
    """Delete what is older than its period, and files that were never sent; how many rows. Run by the worker's clock."""
    count = 0
    for kept in PERIODS:
        for _ in range(MOST_BATCHES):
            async with house.db.connect() if kept.above else house.db.transact(workspace_id) as conn:
                gone = await store.delete_batch(conn, workspace_id, kept.name, now - kept.period, BATCH)
            count += gone
            if gone < BATCH:
                break
    return count + await attachments.sweep(house, workspace_id, now)
