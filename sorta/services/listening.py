"""Listening: saved words searched for on the networks that allow it. Used by the API and the worker's clock.

What is found comes in by the way everything comes in, as a conversation of kind 'found'.
"""

from datetime import datetime
from typing import Any

import structlog

from sorta.core.bounds import bound
from sorta.core.errors import Impossible, Invalid, NotFound, Unreadable
from sorta.core.finding import can_match, finds_something, list_whole_words, matches, read_search
from sorta.core.permissions import Permission
from sorta.core.ports import MessageSeen, Seen, Unreachable
from sorta.networks.abilities import TABLE
from sorta.services.accounts import get_account, make_ref
from sorta.services.house import House, Scope
from sorta.services.ingest import take_in
from sorta.store import listening

log = structlog.get_logger()
#: Pages read in one go; the rest comes with the next tick.
_PAGES = 5


async def list_listening(house: House, scope: Scope) -> list[dict[str, Any]]:
    """The saved words, with how many finds each has brought and what went wrong last."""
    async with house.db.transact(scope.workspace_id) as tx:
        return await listening.list_listening(tx)


async def add_listening(house: House, scope: Scope, *, words: str, account_id: int, now: datetime) -> int:
    """Search for words from an account from now on. Raises Invalid, Impossible."""
    scope.check(Permission.MANAGE_TAGS)
    said = " ".join(words.split()).lower()
    if not 2 <= len(said) <= 80:
        raise Invalid("Give 2 to 80 characters to listen for.", "words")
    terms = read_search(said, typing=False)
    if not finds_something(terms):
        raise Invalid(
            f"‘{said}’ can never be found: it has no letters or digits, or says only what is not to be there.", "words"
        )
    if not can_match(terms):
        raise Invalid(f"‘{said}’ can never be found: it asks for what must not be there.", "words")
    account = await get_account(house, scope.workspace_id, account_id)
    abilities = TABLE[account.network]
    if not abilities.search:
        raise Impossible(f"{abilities.name} lets nobody search what others say.")
    if not list_whole_words(said, beginnings=abilities.search_beginnings):
        raise Impossible(
            f"{abilities.name} searches for whole words only: give one that does not end in a star as well."
        )
    async with house.db.transact(scope.workspace_id) as tx:
        return await listening.add_listening(tx, said, account_id, scope.member_id, now)


async def delete_listening(house: House, scope: Scope, id: int) -> None:
    """Stop searching; what was found stays. Raises NotFound."""
    scope.check(Permission.MANAGE_TAGS)
    async with house.db.transact(scope.workspace_id) as tx:
        if not await listening.delete_listening(tx, id):
            raise NotFound("Nobody listens for that any more.")


async def listen(house: House, workspace_id: int, now: datetime, *, account_id: int | None = None) -> None:
    """Search for everything saved, or for what is searched from one account; one that fails says why and holds up no other."""
    async with house.db.transact(workspace_id) as tx:
        saved = await listening.list_listening(tx)
    for one in saved:
        if account_id is not None and one["account_id"] != account_id:
            continue
        await _listen_for(house, workspace_id, one, now)


async def _listen_for(house: House, workspace_id: int, one: dict[str, Any], now: datetime) -> None:
    account = await get_account(house, workspace_id, one["account_id"])
    # A network knows words; what the rest of it means is what it means when one finds.
    terms = read_search(one["words"], typing=False)
    asked = list_whole_words(one["words"], beginnings=TABLE[account.network].search_beginnings)
    network, ref = house.networks[account.network], make_ref(house, account)
    cursor, found, problem = one["cursor"], 0, None
    for _ in range(_PAGES):
        try:
            page = await network.search(ref, " ".join(asked), cursor)
        except Unreachable as error:
            problem = str(error)
            log.warning("listening put off", words=one["words"], account=account.id, reason=problem)
            break
        seens: list[Seen] = []
        for activity in page.activities:
            try:
                read = network.read_found(activity, ref)
                seen = bound(read) if read is not None else None
            except Unreadable as error:
                log.warning("found something unreadable", account=account.id, reason=error.message)
                continue
            if isinstance(seen, MessageSeen) and matches(terms, seen.body):
                seens.append(seen)
        found += await take_in(house, account, seens, now) if seens else 0
        cursor = page.cursor
        if not page.more:
            break
    async with house.db.transact(workspace_id) as tx:
        await listening.set_asked(tx, one["id"], cursor=cursor, problem=problem, found=found, now=now)
