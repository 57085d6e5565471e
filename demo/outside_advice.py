"""Questions by mail in the demo: a vet who answered, and a lawyer who is away."""

import base64
from datetime import datetime, timedelta

from demo.load import Loader, sign
from sorta.services import advice, desk, tags
from sorta.services.house import Scope

#: Whom, what, for how long it is waited, and what came back: (hours later, words, by itself).
ASKED: tuple[tuple[str, str, str, int, tuple[tuple[float, str, bool], ...]], ...] = (
    (
        "lund@harbourvets.example",
        "Dr. Lund",
        "People ask whether the cut on the ray's wing needs stitches. What may I tell them, in one sentence?",
        24,
        (
            (
                0.6,
                "No stitches: a cut like this closes by itself in two to three weeks in clean salt water, and it eats "
                "and swims as always. I would not promise a date.",
                False,
            ),
        ),
    ),
    (
        "legal@castellund.example",
        "Castellund & Co.",
        "May we say in public that no animal was harmed, or only that the ray is looked after?",
        72,
        ((0.1, "Our office is closed until Monday. Your letter will be read then.", True),),
    ),
)


async def ask_some(loader: Loader, scope: Scope, now: datetime) -> None:
    """Two of the open conversations about the ray."""
    await advice.set_domains(loader.house, scope, [address.partition("@")[2] for address, *_ in ASKED])
    tag = await tags.get_tag(loader.house, scope, "animal care", make=True)
    filters = {"move": "our_move", "tag": [tag]}
    answer = await desk.list_rows(loader.house, scope, filters=filters, order="newest", cursor=None, limit=2, now=now)
    for row, (address, name, question, hours, came) in zip(desk.read_rows(answer), ASKED, strict=False):
        when = max(datetime.fromisoformat(row["last_at"]), now - timedelta(hours=3)) + timedelta(minutes=4)
        await advice.ask(
            loader.house,
            scope,
            row["id"],
            to_address=address,
            to_name=name,
            question=question,
            wait_until=when + timedelta(hours=hours),
            now=when,
        )
        await advice.send_due(loader.house, scope.workspace_id, when + loader.house.undo_for)
        letters = (await loader.outside.get("/control/mail")).json()
        letter = next(one for one in letters if address in one["to"])
        for later, words, away in came:
            told = await loader.control("mail/answer", id=letter["id"], text=words, away=away, tell=False)
            body = base64.b64encode(told["letter"].encode()).decode()
            headers = sign(loader.house.mail_secret or "", body)
            at = min(when + timedelta(hours=later), now - timedelta(minutes=2))
            await advice.take_letter(loader.house, body.encode(), headers, at)
