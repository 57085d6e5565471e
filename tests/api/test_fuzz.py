"""Deliveries and letters bent at random: whatever comes, it is taken in, kept aside or refused; nothing is lost, nothing is a 500.

Structure-aware: each begins as one that the stand-in's networks or a mail program would write, and is bent in its parts and its
bytes. Every case has a number that makes it again; those that once found something stand in FOUND and are run each time.
`SORTA_FUZZ` says how many there are (10,000 in `make fuzz`).
"""

import base64
import copy
import json
import os
import random
from collections import Counter
from typing import Any

import pytest

from outside.networks import NETWORKS
from sorta.core.errors import Unreadable
from sorta.core.ports import Echo, EditSeen, MessageSeen, PostSeen, ReactionSeen, RemovalSeen
from sorta.services import advice, desk, intake
from tests.api.conftest import Client
from tests.api.test_hooks import sign
from tests.services.test_advice import SECRET, PostBox, ask, send
from tests.world import World

pytestmark = pytest.mark.anyio
HOW_MANY = int(os.environ.get("SORTA_FUZZ", "400"))
PARTS = 4
#: Cases that found something, by number.
FOUND: dict[str, tuple[int, ...]] = {"deliveries": (), "letters": (2683, 3896)}
ATOMS: tuple[Any, ...] = (
    None, True, False, 0, -1, 1.5, 10**400, "", " ", "x" * 5000, "\x00", "\ud800", "é" * 300, "👨‍👩‍👧" * 50, "%s%n", "' or 1=1 --",
    "<b>&#0;</b>", "9999-12-31T23:59:59Z", "0001-01-01T00:00:00+14:00", "2026-02-30T00:00:00Z", "2026-11-20T12:00:00", "javascript:x",
    "http://[::1", "https://www.w3.org/ns/activitystreams#Public", [], {}, [[]], [None], {"id": None}, {"type": ["Note", 1]}, "Create",
    "Delete", "Update", "Like", "Note", "Tombstone", "Person", "\u202e\u2066\ufeff", "1e999", "NaN",
)  # fmt: skip


def walk(value: Any, path: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    """Every place in a value."""
    found = [path] if path else []
    for key, part in value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ():
        found += walk(part, (*path, key))
    return found


def bend(activity: Any, dice: random.Random) -> str:
    """A few parts replaced, removed, doubled, moved or made deep; now and then the text itself cut or spoilt."""
    bent = copy.deepcopy(activity)
    for _ in range(dice.choice((1, 1, 1, 2, 3, 6))):
        *way, last = dice.choice(walk(bent) or [("id",)])
        at = bent
        for key in way:
            at = at[key]
        how = dice.randrange(8)
        if how == 0 and isinstance(at, dict):
            at.pop(last, None)
        elif how == 1:
            at[last] = [copy.deepcopy(at[last]) for _ in range(dice.choice((1, 2, 12)))]
        elif how == 2 and isinstance(at, dict):
            at[dice.choice(("id", "type", "object", "content", "published", "to", "inReplyTo"))] = copy.deepcopy(
                at[last]
            )
        elif how == 3:
            for _ in range(dice.choice((3, 30, 60))):
                at[last] = {"object": at[last]}
        else:
            at[last] = copy.deepcopy(dice.choice(ATOMS))
        if not isinstance(bent, dict) or not bent:
            bent = {"id": bent}
    text = json.dumps(bent, ensure_ascii=dice.random() < 0.5)
    if dice.random() < 0.15:
        cut = dice.randrange(len(text))
        text = text[:cut] + dice.choice(("", "}", "\x00", '"', text)) + text[cut + dice.randrange(20) :]
    return text


def cases(what: str, part: int) -> list[int]:
    return [*FOUND[what], *range(part, HOW_MANY // 2, PARTS)]


async def list_models(world: World) -> list[tuple[str, Any]]:
    """What networks say when nobody bends it: each kind on each, an edit, a removal, a like."""
    models = [
        (network, await world.say("Is it open?", network=network, kind=kind, handle="fuzz"))
        for network in world.accounts
        for kind in NETWORKS[network].kinds
        if kind != "reply"
    ]
    first = next(said for network, said in models if network == "commonfold")
    actor = first["actor"]
    models += [
        ("commonfold", {**first, "type": "Update", "object": {**first["object"], "content": "Was it?"}}),
        ("commonfold", {**first, "type": "Delete", "object": first["object"]["id"]}),
        ("commonfold", {"type": "Like", "id": f"{first['id']}/like", "actor": actor, "object": first["object"]["id"]}),
    ]
    return models


@pytest.mark.parametrize("part", range(PARTS))
async def test_a_bent_delivery_is_taken_in_kept_aside_or_refused(anyone: Client, world: World, part: int) -> None:
    models = await list_models(world)
    taken: list[tuple[int, str, str]] = []
    for case in cases("deliveries", part):
        dice = random.Random(f"delivery {case}")
        network, model = dice.choice(models)
        body = bend(model, dice)
        raw = body.encode("utf-8", "surrogatepass")
        try:
            headers = sign(raw.decode())
        except UnicodeDecodeError:
            continue
        answer = await anyone.post(
            f"/hooks/{world.workspace_id}/{world.accounts[network].id}", content=raw, headers=headers
        )
        assert answer.status_code in (202, 413, 422), (case, answer.status_code, answer.text)
        if answer.status_code == 202:
            taken.append((case, network, body))
    assert taken
    lost = [case for case, network, body in taken if not await is_somewhere(world, network, body)]
    assert lost == []
    async with world.house.db.transact(world.workspace_id) as tx:
        rows = await (
            await tx.execute("select external_id from message group by account_id, external_id having count(*) > 1")
        ).fetchall()
    assert rows == []


async def is_somewhere(world: World, network: str, body: str) -> bool:
    """Whether what was answered with 202 stands where it belongs: with its words, or aside with its reason."""
    account = world.accounts[network]
    async with world.house.db.transact(world.workspace_id) as tx:
        try:
            seen = intake.read_body(world.house, account, body)
        except Unreadable:
            seen = None
        if isinstance(seen, MessageSeen | PostSeen):
            table = "message" if isinstance(seen, MessageSeen) else "post"
            query = f"select 1 from {table} where account_id = %s and external_id = %s"
            # An id with what no column holds is aside.
            known = [account.id, intake._make_storable(seen.external_id)]
            if await (await tx.execute(query, known)).fetchone():  # type: ignore[arg-type]
                return True
        # A like, an echo, a change of what came before or has still to come.
        if isinstance(seen, Echo | EditSeen | RemovalSeen | ReactionSeen):
            return True
        kept = [account.id, intake._make_storable(body)]
        found = await tx.execute("select 1 from aside where account_id = %s and body = %s and reason <> ''", kept)
        return await found.fetchone() is not None


HEADS = b"From: Dr. Lund <vet@clinic.example>\r\nTo: TO\r\nSubject: Re: The ray\r\n"
LETTERS = (
    HEADS + b"Message-ID: <a@b.example>\r\nIn-Reply-To: <advice-1@brinewick.example>\r\n\r\nNo.\r\n\r\n> Does it?\r\n",
    HEADS + b"Content-Type: text/html; charset=iso-8859-1\r\nContent-Transfer-Encoding: quoted-printable\r\n\r\n<p>N=F8</p><blockquote>x",
    HEADS + b"Content-Type: multipart/alternative; boundary=\"b\"\r\n\r\n--b\r\nContent-Type: text/plain; charset=utf-8\r\n\r\nyes\r\n--b\r\n"
    b"Content-Type: text/html\r\nContent-Transfer-Encoding: base64\r\n\r\nPHA+eWVzPC9wPg==\r\n--b--\r\n",
    HEADS + b"Subject: =?utf-8?B?w6R0?= =?x?Q?=ZZ?=\r\nDate: Fri, 20 Nov 2026 12:00:00 +0100\r\nAuto-Submitted: auto-replied\r\n\r\nAway",
)  # fmt: skip
PIECES = (
    b"", b"\x00", b"\xff\xfe", b"\r\n", b"\n", b"\r", b": ", b"--b\r\n", b"=?utf-8?Q?=", b'"' * 50, b"(" * 50, b"<" * 50, b"> " * 30, b"=",
    b"Content-Type: message/rfc822\r\n\r\n", b"Content-Transfer-Encoding: x-uuencode\r\n", b"charset=nothing", b"boundary=", b";" * 40,
    b"\xed\xa0\x80", b"A" * 2000, b"@", b",", b"&#x110000;", b"<![CDATA[", b"-- \r\n",
)  # fmt: skip


def spoil(letter: bytes, dice: random.Random) -> bytes:
    """Pieces put in, taken out, doubled or changed."""
    spoilt = bytearray(letter)
    for _ in range(dice.choice((1, 2, 4, 12))):
        at = dice.randrange(len(spoilt) + 1)
        until = min(len(spoilt), at + dice.choice((0, 0, 1, 3, 40)))
        how = dice.randrange(3)
        spoilt[at:until] = dice.choice(PIECES) if how else bytes(spoilt[at:until]) * 2 or dice.randbytes(3)
    return bytes(spoilt)


@pytest.mark.parametrize("part", range(PARTS))
async def test_a_spoilt_letter_is_kept_or_given_back(anyone: Client, world: World, part: int) -> None:
    box = PostBox()
    for name, value in (("post", box), ("mail_secret", SECRET)):
        object.__setattr__(world.house, name, value)
    await advice.set_domains(world.house, world.scopes["noor"], ["clinic.example"])
    id = await world.hear("The ray has a cut")
    await ask(world, id)
    await send(world)
    to = str(box.letters[0]["Reply-To"]).encode()
    told: Counter[int] = Counter()
    for case in cases("letters", part):
        dice = random.Random(f"letter {case}")
        raw = base64.b64encode(spoil(dice.choice(LETTERS), dice).replace(b"TO", to, 1)).decode()
        if dice.random() < 0.05:
            raw = raw[: dice.randrange(len(raw))] + dice.choice(("=", "é", "\n", "*"))
        answer = await anyone.post("/hooks/mail", content=raw.encode(), headers=sign(raw, secret=SECRET))
        assert answer.status_code in (202, 404, 422), (case, answer.status_code, answer.text)
        told[answer.status_code] += 1
        if answer.status_code == 202:
            kept = (await desk.get_sheet(world.house, world.scopes["mara"], id, world.now))["advice"][0]["answers"]
            assert kept, case
    assert told[202]
