"""Finding people by name or handle and messages by their words, and making them ready for it. Used by the API, the clock and the desk's filters."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from sorta.core import finding as core
from sorta.core.finding import Term, excerpt, finds_something, list_asked, part, read_search, write_query, write_vector
from sorta.services.filters import make_pattern
from sorta.services.house import House, Scope
from sorta.store import finding as store

#: Made ready in one round of the clock: some tenths of a second of work.
AT_ONCE = 2000
#: For who found nothing: so many of the last messages are looked through for words, and so many words are known of.
LOOKED_THROUGH, MOST_WORDS = 5000, 20_000


async def find(house: House, scope: Scope, words: str, limit: int = 8) -> dict[str, Any]:
    """People and messages, of what one sees in this workspace; each message with the piece that shows why, and where in it what was found stands. `is_ready` is
    False while older messages cannot be found by words yet."""
    terms = read_search(words)
    asks = finds_something(terms)
    async with house.db.transact(scope.workspace_id) as tx:
        people = (
            await store.find_people(tx, patterns=make_patterns(terms), pattern=make_pattern(words), limit=limit)
            if asks
            else []
        )
        messages = (
            await store.find_messages(tx, query=write_query(terms), words=list_asked(terms), limit=limit + 1)
            if asks
            else []
        )
        is_ready = not await store.has_unread(tx)
    shown = []
    for one in messages[:limit]:
        piece = excerpt(one["body"], terms)
        shown.append({**one, "body": piece.text, "marks": [list(mark) for mark in piece.marks]})
    return {"people": people, "messages": shown, "has_more": len(messages) > limit, "is_ready": is_ready}


async def suggest(house: House, scope: Scope, words: str) -> str | None:
    """What somebody who found nothing may have meant, of the words that stand in what they see; None where that would find nothing either."""
    terms = read_search(words)
    if not finds_something(terms):
        return None
    async with house.db.transact(scope.workspace_id) as tx:
        known = await store.list_known(tx, messages=LOOKED_THROUGH, limit=MOST_WORDS)
    meant = await house.workshop.do(core.suggest, terms, known)
    if meant is None:
        return None
    found = await find(house, scope, meant, limit=1)
    return meant if found["people"] or found["messages"] else None


def make_patterns(terms: tuple[Term, ...]) -> list[str]:
    """Each term as it may stand anywhere in a folded name or handle."""
    return [make_pattern(" ".join(term.words)) for term in terms if not term.is_not]


def fold_names(name: str, handle: str) -> str:
    """A name and a handle as people are found by them; the signs of a script without spaces stand by themselves, as in what is asked."""
    return " ".join((*part(name), *part(handle)))


async def note_words(house: House, workspace_id: int, now: datetime) -> int:
    """Make ready what cannot be found yet: messages from before, or whose words were changed, and names; how many. Run by the worker's clock."""
    async with house.db.transact(workspace_id) as tx:
        messages = await store.list_unread(tx, AT_ONCE)
        names = await store.list_unfolded(tx, AT_ONCE)
    if not messages and not names:
        return 0
    vectors, folded = await house.workshop.do(_make_ready, messages, names)
    async with house.db.transact(workspace_id) as tx:
        await store.set_words(tx, vectors)
        await store.set_folded(tx, folded)
    return len(messages) + len(names)


def _make_ready(
    messages: Sequence[tuple[int, str]], names: Sequence[tuple[int, str, str]]
) -> tuple[list[tuple[int, str, str]], list[tuple[int, str, str, str]]]:
    return (
        [(id, body, write_vector(body)) for id, body in messages],
        [(id, name, handle, fold_names(name, handle)) for id, name, handle in names],
    )
