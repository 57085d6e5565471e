"""The ticket office's desk in the demo: connected, and some cases that stand there differently."""

import json
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from demo.load import Loader, sign
from sorta.services import cases, desk, tags
from sorta.services.house import Scope

NAME = "Ticket office"
TOKEN = "tok_ticket_office"
FOLLOW_HOURS = 72
#: Who hands over, how long ago about, the note, and what the desk said: (hours later, state, who, remark).
HANDED: tuple[tuple[str, int, str, tuple[tuple[float, str, str, str], ...]], ...] = (
    (
        "TN",
        150,
        "Charged twice. They have sent the booking number.",
        ((2, "open", "Bodil", "Found both charges."), (27, "solved", "Bodil", "One charge sent back, four days.")),
    ),
    (
        "IB",
        98,
        "Waited in the rain past their slot, wants the entry fee back.",
        ((5, "waiting", "Henning", "Which entrance was it, and what is on the ticket?"),),
    ),
    ("MO", 52, "", ((20, "solved", "Bodil", "New tickets sent by mail."),)),
    ("TN", 30, "Nine days without an answer from us. Please be quick.", ((3, "open", "Henning", ""),)),
    (
        "IB",
        25,
        "Is this one yours?",
        ((6, "returned", "Bodil", "Bought in the garden's shop: Mossgate has to send it back."),),
    ),
)


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


async def hand_over_some(loader: Loader, by: dict[str, Scope], office: Desk, now: datetime) -> None:
    """Refunds and rainy queues that the ticket office took on, each where its time fits."""
    lead = by["MO"]
    tagged = [await tags.get_tag(loader.house, lead, name, make=True) for name in ("refund", "queueing")]
    filters = {"move": "settled", "tag": tagged}
    answer = await desk.list_rows(loader.house, lead, filters=filters, order="newest", cursor=None, limit=60, now=now)
    rows = desk.read_rows(answer)
    for initials, hours, note, told in HANDED:
        about = now - timedelta(hours=hours)
        row = min(rows, key=lambda r: abs(datetime.fromisoformat(r["last_at"]) - about), default=None)
        if row is None:
            return
        rows.remove(row)
        await _hand_over(loader, by[initials], office, row, note, told, now)


async def _hand_over(
    loader: Loader,
    scope: Scope,
    office: Desk,
    row: dict[str, Any],
    note: str,
    told: tuple[tuple[float, str, str, str], ...],
    now: datetime,
) -> None:
    house, ws = loader.house, scope.workspace_id
    when = min(datetime.fromisoformat(row["last_at"]) + timedelta(minutes=20), now - timedelta(minutes=30))
    await cases.hand_over(house, scope, row["id"], desk_id=office.id, note=note, now=when)
    (case,) = (await cases.list_cases(house, scope, conversation_id=row["id"]))["cases"]
    await cases.pass_on(house, ws, case["id"], when + house.undo_for)
    outside = (await loader.outside.get("/control/desk")).json()["cases"][0]
    for hours, state, who, remark in told:
        at = min(when + timedelta(hours=hours), now - timedelta(minutes=5))
        news = {"state": state, "by": who, "remark": remark, "at": at.isoformat(), "tell": False}
        body = json.dumps(await loader.control(f"cases/{outside['id']}", **news))
        headers = sign(office.secret, body)
        await cases.take_told(house, ws, office.id, body.encode(), headers, at + timedelta(seconds=1))
