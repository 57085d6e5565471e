"""The ticket office's desk in the demo: connected, and some cases that stand there differently."""

import json
from dataclasses import dataclass
from datetime import datetime, timedelta

from demo.load import Loader, Story, sign
from sorta.services import cases
from sorta.services.house import Scope

NAME = "Ticket office"
TOKEN = "tok_ticket_office"
FOLLOW_HOURS = 72


@dataclass(frozen=True)
class Handed:
    """Something for the ticket office: by whom and how many hours ago it was handed over, where and how it was said, the
    note, and what the office told: (hours later, state, who, remark)."""

    by: str
    hours: int
    network: str
    kind: str
    said: str
    note: str
    told: tuple[tuple[float, str, str, str], ...]


HANDED = (
    Handed(
        "TN", 150, "hushline", "private",
        "I paid twice for the same four tickets, booking 46-3310. My bank shows both, eleven seconds apart.",
        "Charged twice. They have sent the booking number.",
        ((2, "open", "Bodil", "Found both charges."), (27, "solved", "Bodil", "One charge sent back, four days.")),
    ),
    Handed(
        "IB", 98, "commonfold", "private",
        "We stood in the rain for fifty minutes past our slot on Saturday and would like the entry fee back, please.",
        "Waited in the rain past their slot, wants the entry fee back.",
        ((5, "waiting", "Henning", "Which entrance was it, and what is on the ticket?"),),
    ),
    Handed(
        "MO", 52, "hushline", "private",
        "The three tickets for my daughter's birthday never arrived, and the party is on Thursday. Booking 49-8125.",
        "",
        ((20, "solved", "Bodil", "New tickets sent by mail."),),
    ),
    Handed(
        "TN", 30, "commonfold", "private",
        "Nine days ago you wrote that the refund for 44-0973 is on its way. It is on a very long way.",
        "Nine days without an answer from us. Please be quick.",
        ((3, "open", "Henning", ""),),
    ),
    Handed(
        "IB", 25, "hushline", "private",
        "I bought two gift tickets in the shop by the glasshouse and the scanner says they do not exist.",
        "Is this one yours?",
        ((6, "returned", "Bodil", "Bought in the garden's shop: Mossgate has to send it back."),),
    ),
)  # fmt: skip


@dataclass(frozen=True)
class Desk:
    """The desk as one workspace knows it."""

    id: int
    secret: str


async def connect(loader: Loader, workspace_id: int) -> Desk:
    """The desk of one workspace."""
    secret = f"whsec_{loader.dice.randbytes(24).hex()}"
    values = {
        "name": NAME,
        "api_url": f"{str(loader.outside.base_url).rstrip('/')}/desk/api",
        "token": TOKEN,
        "hook_secret": secret,
        "follow_hours": FOLLOW_HOURS,
    }
    id = await cases.add_desk(loader.house, workspace_id, values)
    url = f"{loader.sorta_address}/hooks/{workspace_id}/desks/{id}"
    await loader.control("desk", token=TOKEN, hook_url=url, hook_secret=secret)
    return Desk(id, secret)


async def hand_over_some(
    loader: Loader, by: dict[str, Scope], office: Desk, kept: dict[str, Story], now: datetime
) -> None:
    """What the ticket office took on, each at its time."""
    for one in HANDED:
        story = kept[one.said]
        assert story.conversation is not None
        when = now - timedelta(hours=one.hours)
        await _hand_over(loader, by[one.by], office, story.conversation, one, when, now)


async def _hand_over(
    loader: Loader, scope: Scope, office: Desk, conversation_id: int, one: Handed, when: datetime, now: datetime
) -> None:
    house, ws = loader.house, scope.workspace_id
    await cases.hand_over(house, scope, conversation_id, desk_id=office.id, note=one.note, now=when)
    (case,) = (await cases.list_cases(house, scope, conversation_id=conversation_id))["cases"]
    await cases.pass_on(house, ws, case["id"], when + house.undo_for)
    outside = (await loader.outside.get("/control/desk")).json()["cases"][0]
    for hours, state, who, remark in one.told:
        at = min(when + timedelta(hours=hours), now - timedelta(minutes=5))
        news = {"state": state, "by": who, "remark": remark, "at": at.isoformat(), "tell": False}
        body = json.dumps(await loader.control(f"cases/{outside['id']}", **news))
        headers = sign(office.secret, body)
        await cases.take_told(house, ws, office.id, body.encode(), headers, at + timedelta(seconds=1))
