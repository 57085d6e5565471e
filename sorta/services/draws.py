"""Prize draws among a post's commenters: announced with a committed seed, closed at the deadline, drawn once, certified, winners
written to. Used by the API and the worker."""

import secrets
from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import Any

from pydantic import TypeAdapter

from sorta.core.answers import Extras
from sorta.core.draw import (
    DrawRules,
    SaidUnder,
    check_public_value,
    check_rules,
    commit,
    digest,
    list_entries,
    list_shown,
    make_certificate,
)
from sorta.core.errors import Invalid, NeedsApproval, NotFound, SortaError, TooLate
from sorta.core.permissions import Permission
from sorta.services import answers, approvals
from sorta.services.filters import make_pattern
from sorta.services.house import House, Scope
from sorta.services.texts import fill_saved_reply
from sorta.store import draws, sorting, trail
from sorta.store.db import Tx
from sorta.store.live import tell

RULES = TypeAdapter(DrawRules)
SAID = TypeAdapter(list[SaidUnder])
SEED_BYTES = 32


async def announce(house: House, scope: Scope, post_id: int, rules: DrawRules, now: datetime) -> int:
    """Fix a draw with its seed before its deadline; its number. What was fixed is not changed any more.

    Raises Invalid for the rules or while another draw under the post is open, NotFound for a post that is not here.
    """
    scope.check(Permission.DRAW_PRIZES)
    tidy = check_rules(rules, now)
    # Nobody reads it again before the list of entries is fixed: see the migration of `open_seed`.
    seed = secrets.token_hex(SEED_BYTES)
    async with house.db.transact(scope.workspace_id) as tx:
        if await trail.get_post(tx, post_id) is None:
            raise NotFound("There is no such post in this workspace.")
        if not set(tidy.staff) <= {t["id"] for t in await sorting.list_tags(tx)}:
            raise Invalid("The draw names a tag that is not here.", "staff")
        if await draws.has_open(tx, post_id):
            raise Invalid("A draw under this post is open already. Draw or cancel that one first.", "post_id")
        return await draws.add_draw(
            tx,
            {
                "post_id": post_id,
                "rules": RULES.dump_python(tidy, mode="json"),
                "seed": seed,
                "commitment": commit(seed),
                "deadline": tidy.deadline,
                "member_id": scope.member_id,
                "now": now,
            },
        )


async def list_draws(house: House, scope: Scope) -> list[dict[str, Any]]:
    """All draws, the latest first."""
    async with house.db.transact(scope.workspace_id) as tx:
        return await draws.list_draws(tx)


async def list_posts(house: House, scope: Scope, words: str) -> list[dict[str, Any]]:
    """Posts of ours that people have spoken under."""
    async with house.db.transact(scope.workspace_id) as tx:
        return await draws.list_posts(tx, make_pattern(words) if words.strip() else None)


async def _get(tx: Tx, id: int) -> dict[str, Any]:
    row = await draws.get_draw(tx, id)
    if row is None:
        raise NotFound("There is no such draw in this workspace.")
    return row


async def _list_now(tx: Tx, row: dict[str, Any]) -> dict[str, Any]:
    """Who takes part by now and what is left out, as they are published, with the messages behind the entries."""
    rules = RULES.validate_python(row["rules"])
    said = SAID.validate_python(await draws.list_said(tx, row["post_id"]))
    entries, excluded = list_entries(said, rules)
    return {
        "entries": list_shown(entries),
        "excluded": [{"name": x.name, "handle": x.handle, "reason": x.reason} for x in excluded],
        "messages": [e.message for e in entries],
    }


async def close_due(house: House, workspace_id: int, now: datetime) -> int:
    """Fix the list of entries of every draw whose deadline has passed; how many. Run by the worker's clock."""
    async with house.db.transact(workspace_id) as tx:
        ids = await draws.list_to_close(tx, now)
    for id in ids:
        await _close(house, workspace_id, id, now)
    return len(ids)


async def _close(house: House, workspace_id: int, id: int, now: datetime) -> None:
    """Fix the list of entries, once; its digest stands beside it from then on. Nothing when it is fixed already."""
    async with house.db.transact(workspace_id) as tx:
        row = await draws.get_draw(tx, id)
        if row is None or row["closed_at"] is not None or row["cancelled_at"] is not None or now < row["deadline"]:
            return
        listed = await _list_now(tx, row)
        await draws.set_closed(tx, id, listed=listed, entries_sha256=digest(listed["entries"]), now=now)
        await tell(tx, "draws")


async def get_draw(house: House, scope: Scope, id: int) -> dict[str, Any]:
    """One draw: until its list is fixed with who would take part now, then with the list, afterwards with the certificate.
    Raises NotFound."""
    async with house.db.transact(scope.workspace_id) as tx:
        row = await _get(tx, id)
        # Once the list is fixed it says who takes part, whatever is under the post by now.
        told = row["certificate"] or row["listed"] or await _list_now(tx, row)
        notices = {n["message_id"]: n for n in await draws.list_notices(tx, id)}
        conversations = await draws.find_conversations(tx, row["picked"] or [])
    certificate = row["certificate"]
    by_number = {e["number"]: e for e in told["entries"]}
    places = [*certificate["winners"], *certificate["reserves"]] if certificate else []
    return {
        **{k: v for k, v in row.items() if k not in ("certificate", "picked", "listed")},
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


async def draw_now(house: House, scope: Scope, id: int, now: datetime, *, public_value: str = "") -> None:
    """Draw, once, from the list that was fixed at the deadline. `public_value` is what was named when it was announced.

    Raises NotFound, TooLate when it was drawn or cancelled, Invalid before the deadline, when nobody takes part, or for the
    public value.
    """
    scope.check(Permission.DRAW_PRIZES)
    # Where the worker has not come to it the list is fixed first, in a transaction of its own: only then is the seed opened.
    await _close(house, scope.workspace_id, id, now)
    async with house.db.transact(scope.workspace_id) as tx:
        row = await _get(tx, id)
        if row["drawn_at"] is not None or row["cancelled_at"] is not None:
            raise TooLate("It was drawn or cancelled before; a draw is drawn once.")
        if now < row["deadline"]:
            raise Invalid("The deadline has not passed yet: people may still enter.", "deadline")
        rules, listed = RULES.validate_python(row["rules"]), row["listed"]
        if not listed["entries"]:
            raise Invalid("Nobody takes part: there is nothing to draw.", "entries")
        value = check_public_value(rules, public_value)
        seed = await draws.open_seed(tx, id)
        assert seed is not None
        earlier = await draws.list_earlier(tx, row["post_id"], id)
        certificate = make_certificate(
            rules,
            post={"title": row["title"], "url": row["url"], "network": row["network"]},
            seed=seed,
            public_value=value,
            announced_at=row["announced_at"],
            closed_at=row["closed_at"],
            drawn_at=max(now, row["closed_at"] + timedelta(microseconds=1)),
            listed=listed["entries"],
            excluded=listed["excluded"],
            earlier=[_describe_earlier(one) for one in earlier],
        )
        message = dict(zip((e["number"] for e in listed["entries"]), listed["messages"], strict=True))
        await draws.set_drawn(
            tx,
            id,
            certificate=certificate,
            picked=[message[n] for n in (*certificate["winners"], *certificate["reserves"])],
            public_value=value,
            member_id=scope.member_id,
            now=now,
        )
        await tell(tx, "draws")


def _describe_earlier(row: dict[str, Any]) -> dict[str, Any]:
    ended = row["drawn_at"] or row["cancelled_at"]
    return {
        "name": row["name"],
        "announced_at": row["announced_at"].isoformat(),
        "commitment": row["commitment"],
        "outcome": "drawn" if row["drawn_at"] else "cancelled",
        "at": ended.isoformat() if ended else None,
    }


async def cancel(house: House, scope: Scope, id: int, now: datetime) -> None:
    """It will not be drawn; that it was announced stays on the list. Raises NotFound, TooLate."""
    scope.check(Permission.DRAW_PRIZES)
    async with house.db.transact(scope.workspace_id) as tx:
        await _get(tx, id)
        if not await draws.cancel_draw(tx, id, now):
            raise TooLate("It was drawn or cancelled before.")


async def get_certificate(house: House, scope: Scope, id: int) -> dict[str, Any]:
    """The certificate. Raises NotFound while there is none."""
    async with house.db.transact(scope.workspace_id) as tx:
        row = await _get(tx, id)
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
    async with house.db.transact(scope.workspace_id) as tx:
        row = await _get(tx, id)
        if not row["picked"]:
            raise Invalid("It has not been drawn yet.", "id")
        if not set(places) <= set(range(1, len(row["picked"]) + 1)):
            raise Invalid("There is no such place in this draw.", "places")
        messages = {place: row["picked"][place - 1] for place in dict.fromkeys(places)}
        conversations = await draws.find_conversations(tx, list(messages.values()))
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
    async with house.db.transact(scope.workspace_id) as tx:
        row = await trail.get_conversation(tx, conversation)
        made = await draws.add_notice(tx, id, message, member_id=scope.member_id, outcome="sent", now=now)
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
            async with house.db.transact(scope.workspace_id) as tx:
                await draws.set_notice(tx, id, message, "asked")
            return "asked"
    except SortaError:
        async with house.db.transact(scope.workspace_id) as tx:
            await draws.delete_notice(tx, id, message)
        raise
