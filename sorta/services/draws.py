"""Prize draws among a post's commenters: announced with a committed seed, drawn once, certified, winners written to. Used by the API."""

import secrets
from collections.abc import Sequence
from datetime import datetime
from typing import Any

from pydantic import TypeAdapter

from sorta.core.answers import Extras
from sorta.core.draw import (
    DrawRules,
    Entry,
    Excluded,
    Said,
    check_rules,
    commit,
    draw,
    list_entries,
    make_certificate,
)
from sorta.core.errors import Invalid, NeedsApproval, NotFound, SortaError, TooLate
from sorta.core.permissions import Permission
from sorta.services import answers, approvals
from sorta.services.filters import make_pattern
from sorta.services.house import House, Scope
from sorta.services.texts import fill_saved_reply
from sorta.store import draws, sorting, trail
from sorta.store.db import Conn

RULES = TypeAdapter(DrawRules)
SAID = TypeAdapter(list[Said])
SEED_BITS = 128


async def announce(house: House, scope: Scope, post_id: int, rules: DrawRules, now: datetime) -> int:
    """Fix a draw with its seed before its deadline; its number. What was fixed is not changed any more.

    Raises Invalid for the rules, NotFound for a post that is not here.
    """
    scope.check(Permission.DRAW_PRIZES)
    tidy = check_rules(rules, now)
    seed = secrets.randbits(SEED_BITS)
    async with house.db.transact(scope.workspace_id) as conn:
        if await trail.get_post(conn, scope.workspace_id, post_id) is None:
            raise NotFound("There is no such post in this workspace.")
        if not set(tidy.staff) <= {t["id"] for t in await sorting.list_tags(conn, scope.workspace_id)}:
            raise Invalid("The draw names a tag that is not here.", "staff")
        return await draws.add_draw(
            conn,
            scope.workspace_id,
            {
                "post_id": post_id,
                "rules": RULES.dump_python(tidy, mode="json"),
                "seed": str(seed),
                "commitment": commit(seed),
                "deadline": tidy.deadline,
                "member_id": scope.member_id,
                "now": now,
            },
        )


async def list_draws(house: House, scope: Scope) -> list[dict[str, Any]]:
    """All draws, the latest first."""
    async with house.db.transact(scope.workspace_id) as conn:
        return await draws.list_draws(conn, scope.workspace_id)


async def list_posts(house: House, scope: Scope, words: str) -> list[dict[str, Any]]:
    """Posts of ours that people have spoken under."""
    async with house.db.transact(scope.workspace_id) as conn:
        return await draws.list_posts(conn, scope.workspace_id, make_pattern(words) if words.strip() else None)


async def _get(conn: Conn, scope: Scope, id: int) -> dict[str, Any]:
    row = await draws.get_draw(conn, scope.workspace_id, id)
    if row is None:
        raise NotFound("There is no such draw in this workspace.")
    return row


async def _list_entries(
    conn: Conn, scope: Scope, row: dict[str, Any]
) -> tuple[DrawRules, tuple[Entry, ...], tuple[Excluded, ...]]:
    rules = RULES.validate_python(row["rules"])
    said = SAID.validate_python(await draws.list_said(conn, scope.workspace_id, row["post_id"]))
    return rules, *list_entries(said, rules)


async def get_draw(house: House, scope: Scope, id: int) -> dict[str, Any]:
    """One draw: until it is drawn with who would take part now, afterwards with the certificate. Raises NotFound."""
    async with house.db.transact(scope.workspace_id) as conn:
        row = await _get(conn, scope, id)
        # Once it is drawn the certificate says who took part, whatever is under the post by now.
        entries, excluded = ((), ()) if row["certificate"] else (await _list_entries(conn, scope, row))[1:]
        notices = {n["message_id"]: n for n in await draws.list_notices(conn, scope.workspace_id, id)}
        conversations = await draws.find_conversations(conn, scope.workspace_id, row["picked"] or [])
    certificate = row["certificate"]
    told = certificate or {
        "entries": [{"number": e.number, "name": e.name, "handle": e.handle, "at": e.at} for e in entries],
        "excluded": [{"name": x.name, "handle": x.handle, "reason": x.reason} for x in excluded],
    }
    by_number = {e["number"]: e for e in told["entries"]}
    places = [*certificate["winners"], *certificate["reserves"]] if certificate else []
    return {
        **{k: v for k, v in row.items() if k not in ("certificate", "picked", "seed")},
        "seed": certificate and certificate["seed"],
        "entries": told["entries"],
        "excluded": told["excluded"],
        "places": [
            {
                **by_number[number],
                "place": n + 1,
                "is_reserve": n >= len(certificate["winners"]),
                "conversation_id": conversations.get(message),
                "notice": notices.get(message),
            }
            for n, (number, message) in enumerate(zip(places, row["picked"] or [], strict=True))
        ],
    }


async def draw_now(house: House, scope: Scope, id: int, now: datetime) -> None:
    """Draw, once, after the deadline. Raises NotFound, TooLate when it was drawn or cancelled, Invalid before the
    deadline or when nobody takes part."""
    scope.check(Permission.DRAW_PRIZES)
    async with house.db.transact(scope.workspace_id) as conn:
        row = await _get(conn, scope, id)
        if row["drawn_at"] is not None or row["cancelled_at"] is not None:
            raise TooLate("It was drawn or cancelled before; a draw is drawn once.")
        if now < row["deadline"]:
            raise Invalid("The deadline has not passed yet: people may still enter.", "deadline")
        rules, entries, excluded = await _list_entries(conn, scope, row)
        if not entries:
            raise Invalid("Nobody takes part: there is nothing to draw.", "entries")
        seed = int(row["seed"])
        certificate = make_certificate(
            rules,
            post={"title": row["title"], "url": row["url"], "network": row["network"]},
            seed=seed,
            announced_at=row["announced_at"],
            drawn_at=now,
            entries=entries,
            excluded=excluded,
        )
        winners, reserves = draw(entries, rules, seed)
        by_number = {e.number: e.message for e in entries}
        await draws.set_drawn(
            conn,
            scope.workspace_id,
            id,
            certificate=certificate,
            picked=[by_number[n] for n in (*winners, *reserves)],
            member_id=scope.member_id,
            now=now,
        )


async def cancel(house: House, scope: Scope, id: int, now: datetime) -> None:
    """It will not be drawn; that it was announced stays on the list. Raises NotFound, TooLate."""
    scope.check(Permission.DRAW_PRIZES)
    async with house.db.transact(scope.workspace_id) as conn:
        await _get(conn, scope, id)
        if not await draws.cancel_draw(conn, scope.workspace_id, id, now):
            raise TooLate("It was drawn or cancelled before.")


async def get_certificate(house: House, scope: Scope, id: int) -> dict[str, Any]:
    """The certificate. Raises NotFound while there is none."""
    async with house.db.transact(scope.workspace_id) as conn:
        row = await _get(conn, scope, id)
    if row["certificate"] is None:
        raise NotFound("It has not been drawn yet; there is no certificate.")
    found: dict[str, Any] = row["certificate"]
    return found


async def notify(
    house: House, scope: Scope, id: int, *, saved_reply: int, places: Sequence[int], now: datetime
) -> list[dict[str, Any]]:
    """Write to winners with a saved reply, in public under what they said; how it went for each place.

    An answer that needs approval is asked for; nobody is written to twice. Raises NotFound, Invalid for a draw that
    was not drawn yet or places that there are not.
    """
    scope.check(Permission.DRAW_PRIZES)
    async with house.db.transact(scope.workspace_id) as conn:
        row = await _get(conn, scope, id)
        if not row["picked"]:
            raise Invalid("It has not been drawn yet.", "id")
        if not set(places) <= set(range(1, len(row["picked"]) + 1)):
            raise Invalid("There is no such place in this draw.", "places")
        messages = {place: row["picked"][place - 1] for place in dict.fromkeys(places)}
        conversations = await draws.find_conversations(conn, scope.workspace_id, list(messages.values()))
    report = []
    for place, message in messages.items():
        conversation = conversations[message]
        try:
            outcome = await _write_to(house, scope, id, message, conversation, saved_reply, now)
            report.append({"place": place, "outcome": outcome, "reason": None})
        except SortaError as error:
            report.append({"place": place, "outcome": "left", "reason": error.message})
    return report


async def _write_to(
    house: House, scope: Scope, id: int, message: int, conversation: int, saved_reply: int, now: datetime
) -> str:
    """Claim the winner first, so that two members at once write to nobody twice; give the claim back if it fails."""
    text = await fill_saved_reply(house, scope, saved_reply, conversation)
    async with house.db.transact(scope.workspace_id) as conn:
        row = await trail.get_conversation(conn, scope.workspace_id, conversation)
        made = await draws.add_notice(
            conn, scope.workspace_id, id, message, member_id=scope.member_id, outcome="sent", now=now
        )
    if row is None or not made:
        raise TooLate("They have been written to already.")
    given: dict[str, Any] = {"public": True, "text": text, "seen_seq": row["seq"], "settle": False, "now": now}
    extras = Extras(saved_reply=saved_reply)
    try:
        try:
            await answers.reply(house, scope, conversation, **given, extras=extras)
            return "sent"
        except NeedsApproval:
            await approvals.propose(house, scope, conversation, **given, extras=extras)
            async with house.db.transact(scope.workspace_id) as conn:
                await draws.set_notice(conn, scope.workspace_id, id, message, "asked")
            return "asked"
    except SortaError:
        async with house.db.transact(scope.workspace_id) as conn:
            await draws.delete_notice(conn, scope.workspace_id, id, message)
        raise
