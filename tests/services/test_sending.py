"""Whatever goes wrong while something is sent, a fault of our own too, is written down, tried again, and holds up nothing else."""

import asyncio
from collections.abc import Awaitable, Callable
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from functools import partial
from typing import Any, get_args

import pytest

from sorta.api.schemas.outgoing import LetterEntry
from sorta.core.alerting import Wants
from sorta.core.errors import NotAllowed
from sorta.core.permissions import STARTING, Role
from sorta.core.ports import DeskRefused, LetterRefused, Moderation, Unreachable
from sorta.core.retry import GIVE_UP_AFTER, PAUSES, GiveUp, TryAgain
from sorta.services import advice, alerts, delivery, invitations, moderation, outgoing, programs, report_sharing
from sorta.services.sending import BROKEN, Sent, attempt
from tests.services import test_advice, test_alerts, test_cases, test_invitations, test_programs, test_report_sharing
from tests.services.test_acts import reply
from tests.services.test_alerts import texting
from tests.services.test_ways_out import FUNCTIONS
from tests.world import World

pytestmark = pytest.mark.anyio
__all__ = ["texting"]


class Breaks:
    """Whatever it is asked, it breaks, as nobody has foreseen; then it is as what stands behind it."""

    def __init__(self, behind: Any, *asked: str) -> None:
        self.behind, self.asked, self.is_broken = behind, asked, True

    def __getattr__(self, name: str) -> Any:
        if name not in self.asked or not self.is_broken:
            return getattr(self.behind, name)

        async def break_down(*_: object, **__: object) -> None:
            raise ZeroDivisionError("a slip of our own")

        return break_down


@dataclass
class Scene:
    """Something on its way: what sends what is due at a time, what breaks, where its trouble stands, and when it may leave."""

    send: Callable[[datetime], Awaitable[object]]
    breaks: Breaks
    trouble: str
    begins: datetime


async def set_on_network(world: World) -> Breaks:
    breaks = Breaks(world.house.networks["commonfold"], "send", "moderate")
    world.house = replace(world.house, networks={**world.house.networks, "commonfold": breaks})
    return breaks


def set_post(world: World) -> Breaks:
    breaks = Breaks(test_advice.PostBox(), "send")
    world.house = replace(world.house, post=breaks, address="https://desk.example", mail_secret=test_advice.SECRET)
    return breaks


OUTBOX = "select problem from outbox where state <> 'delivered'"


async def put_reply(world: World) -> Scene:
    breaks = await set_on_network(world)
    await reply(world, await world.hear("How long is the queue?"), "Short.")
    return Scene(partial(delivery.deliver_due, world.house, 1), breaks, OUTBOX, world.after(seconds=11))


async def put_like(world: World) -> Scene:
    breaks = await set_on_network(world)
    said = await world.say("Lovely rays")
    await world.take(said)
    message = (await world.find(said["object"]["id"])).id
    await moderation.moderate(world.house, world.scopes["mara"], message, what=Moderation.LIKE, now=world.now)
    return Scene(partial(delivery.deliver_due, world.house, 1), breaks, OUTBOX, world.after(seconds=11))


async def put_case(world: World) -> Scene:
    breaks = Breaks(world.house.case_desk, "open", "add")
    world.house = replace(world.house, case_desk=breaks)
    await test_cases.hand_over(world, await world.hear("I want my money back"))

    async def send(at: datetime) -> bool:
        return await test_cases.pass_on(world, seconds=(at - world.now).total_seconds())

    trouble = "select problem from support_case where next_at is not null"
    return Scene(send, breaks, trouble, world.after(seconds=11))


async def put_question(world: World) -> Scene:
    breaks = set_post(world)
    await advice.set_domains(world.house, world.scopes["noor"], ["clinic.example"])
    await test_advice.ask(world, await world.hear("The ray is bleeding!"))
    trouble = "select problem from advice where state = 'sending'"
    return Scene(partial(advice.send_due, world.house, 1), breaks, trouble, world.after(seconds=11))


async def put_mail(world: World) -> Scene:
    breaks = set_post(world)
    await test_alerts.tell(world, "one")
    trouble = "select problem from alert_way where way = 'mail' and sent_at is null"
    return Scene(partial(alerts.mail_alerts, world.house, 1), breaks, trouble, world.now)


async def put_text(world: World) -> Scene:
    await alerts.set_choice(world.house, world.scopes["mara"], "late", Wants(text=True))
    await test_alerts.confirm(world, await test_alerts.sign_in_as(world, "mara"))
    await test_alerts.tell(world, "one")
    breaks = Breaks(world.house.texting, "send")
    world.house = replace(world.house, texting=breaks)
    trouble = "select problem from alert_way where way = 'text' and sent_at is null"
    return Scene(partial(alerts.text_alerts, world.house, 1), breaks, trouble, world.now)


async def put_report(world: World) -> Scene:
    breaks = set_post(world)
    await test_report_sharing.share(world, mail_to=["mara@brinewick.example"], mailing=test_report_sharing.WEEKLY)
    due = (await test_report_sharing.look(world))[0]["mail_next_at"]
    trouble = "select problem from report_letter where state <> 'sent'"
    return Scene(partial(report_sharing.mail_reports, world.house, 1), breaks, trouble, due)


async def put_invitation(world: World) -> Scene:
    breaks = set_post(world)
    await test_invitations.invite(world, "ann@brinewick.example")
    trouble = "select mail_problem from invitation where mail_state <> 'sent'"
    return Scene(partial(invitations.mail_invitations, world.house, 1), breaks, trouble, world.now)


async def put_event(world: World) -> Scene:
    test_programs.Program(world)
    breaks = Breaks(world.house.program_post, "tell")
    world.house = replace(world.house, program_post=breaks)
    await test_programs.add_hook(world, "arrivals")
    await world.hear("Is the pool open?")
    trouble = "select problem from hook_event where state <> 'sent'"
    return Scene(partial(programs.tell_programs, world.house, 1), breaks, trouble, datetime.now(UTC))


#: What does not go out by a network, as a page calls it.
LETTERS = {
    put_case: "case",
    put_question: "question",
    put_mail: "alert_mail",
    put_text: "alert_text",
    put_report: "report",
    put_invitation: "invitation",
    put_event: "event",
}
WAYS = (put_reply, put_like, *LETTERS)
#: By the module that sends: what puts something on its way there.
SENDERS = {
    "advice": put_question,
    "alerts": put_mail,
    "cases": put_case,
    "delivery": put_reply,
    "invitations": put_invitation,
    "programs": put_event,
    "report_sharing": put_report,
}


def test_whatever_waits_to_be_sent_is_tried_here_and_has_a_name() -> None:
    senders = {where.partition(".")[0] for where, calls in FUNCTIONS.items() if calls & {"attempt", "send_once"}}
    # A link for a forgotten password is sent once: who waits for it asks again.
    assert senders - {"sending", "forgotten"} == set(SENDERS)
    assert set(SENDERS.values()) <= set(WAYS)
    assert set(get_args(LetterEntry.model_fields["what"].annotation)) == set(LETTERS.values())


@pytest.mark.usefixtures("texting")
@pytest.mark.parametrize("put", WAYS, ids=lambda put: put.__name__[4:])
async def test_a_slip_of_our_own_is_said_and_what_it_held_up_goes_out_after_it(
    world: World, put: Callable[[World], Awaitable[Scene]]
) -> None:
    scene = await put(world)

    async def get_troubles() -> list[str | None]:
        async with world.house.db.transact(world.workspace_id) as tx:
            return [row[0] for row in await (await tx.execute(scene.trouble)).fetchall()]

    async def list_letters(who: str = "noor") -> list[dict[str, Any]]:
        found = await outgoing.get_outgoing(world.house, world.scopes[who], scene.begins + timedelta(seconds=1))
        return list(found["letters"])

    assert await list_letters() == []
    await scene.send(scene.begins)
    assert await get_troubles() == [BROKEN]
    # What goes by a network waits in its own list; of the rest a page says what it is, to whom, and when it is tried again.
    what = LETTERS.get(put)
    assert [(one["what"], one["problem"], one["tries"]) for one in await list_letters()] == (
        [(what, BROKEN, 1)] if what else []
    )
    assert all(one["next_at"] > scene.begins and one["to_whom"] for one in await list_letters())
    scene.breaks.is_broken = False
    # Whoever has mended what was broken need not wait for the next try.
    tried = await outgoing.try_letters(world.house, world.scopes["noor"], scene.begins + timedelta(seconds=1))
    assert tried == (1 if what else 0)
    await scene.send(scene.begins + (timedelta(seconds=2) if what else timedelta(minutes=10)))
    assert await get_troubles() == []
    assert await list_letters() == []


@pytest.mark.usefixtures("texting")
@pytest.mark.parametrize(
    ("put", "seen_by"),
    [
        (put_question, {"noor", "mara", "ilse"}),
        (put_case, {"noor", "mara", "ilse"}),
        (put_mail, {"noor", "mara"}),
        (put_report, {"noor", "mara"}),
        (put_invitation, {"noor", "mara"}),
        (put_event, {"noor"}),
    ],
)
async def test_letters_are_shown_to_whom_they_concern_and_tried_by_them_only(
    world: World, put: Callable[[World], Awaitable[Scene]], seen_by: set[str]
) -> None:
    scene = await put(world)
    await scene.send(scene.begins)
    told, tried = set(), set()
    for n, who in enumerate(("ilse", "mara", "noor"), 1):
        at = scene.begins + timedelta(milliseconds=n)
        if (await outgoing.get_outgoing(world.house, world.scopes[who], at))["letters"]:
            told.add(who)
        if await outgoing.try_letters(world.house, world.scopes[who], at):
            tried.add(who)
            # It breaks again, and waits again.
            await scene.send(at)
    assert told == tried == seen_by
    with pytest.raises(NotAllowed):
        await outgoing.try_letters(world.house, replace(world.scopes["ilse"], role=STARTING[Role.OBSERVER]), at)


async def test_what_was_given_up_is_shown_for_a_week_and_not_tried_again(world: World) -> None:
    scene = await put_invitation(world)
    later = scene.begins
    for days in (0, 1, 2, 3):
        later = scene.begins + timedelta(days=days)
        await scene.send(later)
    (given_up,) = (await outgoing.get_outgoing(world.house, world.scopes["noor"], later))["letters"]
    assert given_up["next_at"] is None
    assert given_up["problem"].startswith("Given up after")
    assert await outgoing.try_letters(world.house, world.scopes["noor"], later) == 0
    assert (await outgoing.get_outgoing(world.house, world.scopes["noor"], later + timedelta(days=8)))["letters"] == []


def fail(error: BaseException | None) -> Callable[[], Awaitable[None]]:
    async def send() -> None:
        if error is not None:
            raise error

    return send


@pytest.mark.parametrize(
    ("error", "since", "ending"),
    [
        (None, 0, Sent()),
        (Unreachable("away"), 0, "again away"),
        (KeyError("x"), 0, f"again {BROKEN}"),
        (LetterRefused("no such box"), 0, GiveUp(reason="no such box", is_refused=True)),
        (DeskRefused("closed"), 0, GiveUp(reason="closed", is_refused=True)),
        (Unreachable("away"), 3, GiveUp(reason="Given up after 3 tries: away")),
        (KeyError("x"), 3, GiveUp(reason=f"Given up after 3 tries: {BROKEN}")),
    ],
)
async def test_how_a_try_ends(error: Exception | None, since: int, ending: object) -> None:
    now = datetime(2026, 11, 20, 12, tzinfo=UTC)
    ended = await attempt(fail(error), "test", 1, tries=3, since=now - timedelta(days=since), now=now)
    if isinstance(ended, TryAgain):
        assert ended.at == now + timedelta(seconds=PAUSES[2])
        assert ending == f"again {ended.reason}"
    else:
        assert ended == ending


async def test_what_is_news_for_a_short_time_only_is_given_up_sooner() -> None:
    now = datetime(2026, 11, 20, 12, tzinfo=UTC)
    given = {"tries": 1, "since": now - timedelta(hours=2), "now": now}
    assert isinstance(await attempt(fail(Unreachable("away")), "test", 1, **given), TryAgain)
    ended = await attempt(fail(Unreachable("away")), "test", 1, **given, over_after=timedelta(hours=2))
    assert ended == GiveUp(reason="Given up after 1 tries: away")
    assert timedelta(hours=2) < GIVE_UP_AFTER


async def test_being_stopped_is_no_slip() -> None:
    """A worker that ends must end: what it was sending is picked up when its claim is over."""
    with pytest.raises(asyncio.CancelledError):
        await attempt(
            fail(asyncio.CancelledError()),
            "test",
            1,
            tries=1,
            since=datetime.now(UTC),
            now=datetime.now(UTC),
        )
