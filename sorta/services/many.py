"""What is done to several conversations at once, with an honest report of what was not done and why. Used by the API."""

from collections.abc import Awaitable, Callable, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from sorta.core.answers import Extras
from sorta.core.errors import Impossible, NotFound, SortaError
from sorta.core.permissions import Permission
from sorta.core.ports import Moderation
from sorta.core.texts import fill_in, fits
from sorta.services import answers, moderation, translating
from sorta.services.house import PRESENT_FOR, House, Scope
from sorta.services.reads import Reads
from sorta.services.texts import SAVED_REPLY, get_values
from sorta.services.trail import Ledger, together, writing
from sorta.store import desk, people, texts
from sorta.store.db import Conflict, Tx

#: How many are done in one transaction: so long others wait who would do something to one of them.
AT_ONCE = 25
Do = Callable[[int], Awaitable[int]]


@dataclass
class Report:
    """What was done, each with its number in the trail, and what was not, each with why."""

    done: dict[int, int] = field(default_factory=dict)
    failed: dict[int, str] = field(default_factory=dict)

    def tell(self, ids: Sequence[int]) -> dict[str, list[dict[str, Any]]]:
        """In the order that was asked for."""
        return {
            "done": [{"id": id, "seq": self.done[id]} for id in ids if id in self.done],
            "failed": [{"id": id, "reason": self.failed[id]} for id in ids if id in self.failed],
        }


class _Torn(Exception):
    """Something failed when half of it was done."""


async def do_many(ids: Sequence[int], do: Do) -> dict[str, list[dict[str, Any]]]:
    """One act on several conversations: each its own transaction, so that one that fails holds up no other."""
    unique = list(dict.fromkeys(ids))
    report = Report()
    await _do_each(unique, do, report)
    return report.tell(unique)


async def do_together(
    house: House, scope: Scope, ids: Sequence[int], do: Do, now: datetime, *, apart: bool = False
) -> dict[str, list[dict[str, Any]]]:
    """As `do_many`, some at a time in one transaction: for acts that write through `trail.writing` and ask nobody outside.

    One that is refused holds up no other. Where a transaction as a whole comes to nothing, each of its acts is tried by itself.
    With `apart` what one has written before it was refused is taken back alone: for acts that may.
    """
    unique = list(dict.fromkeys(ids))
    report = Report()
    # In the order of their numbers: two who do this at once then wait for each other and not across.
    ordered = sorted(unique)
    for start in range(0, len(ordered), AT_ONCE):
        some, attempt = ordered[start : start + AT_ONCE], Report()
        try:
            async with together(house, scope.workspace_id, now, some) as ledger:
                await _do_each(some, do, attempt, ledger, apart=apart)
        except (_Torn, Conflict):
            attempt = Report()
            await _do_each(some, do, attempt)
        report.done |= attempt.done
        report.failed |= attempt.failed
    return report.tell(unique)


async def _do_each(
    ids: Sequence[int], do: Do, report: Report, ledger: Ledger | None = None, *, apart: bool = False
) -> None:
    """Raises _Torn when one that failed has left something in the ledger that it shares with the others."""
    for id in ids:
        before = ledger.size if ledger is not None else 0
        try:
            if ledger is not None and apart:
                async with ledger.tx.transaction():
                    report.done[id] = await do(id)
            else:
                report.done[id] = await do(id)
        except SortaError as error:
            if ledger is not None and ledger.size != before:
                raise _Torn from error
            report.failed[id] = error.message


async def answer_with(
    house: House, scope: Scope, conversation_id: int, *, saved_reply: int, settle: bool, seen_seq: int, now: datetime
) -> int:
    """Answer as they spoke to us with the words of a saved reply, made out to them; the act's number in the trail.

    Whatever holds for an answer that is written holds for this one. Raises NotFound; Impossible where the reply is not written for the
    account or the language, where nothing of theirs waits or a colleague is writing; and what `answers.reply` raises.
    """
    async with writing(house, scope.workspace_id, now) as ledger:
        conversation = await ledger.get(conversation_id)
        public = bool(conversation.row["public"])
        answers.check_may_reply(scope, public=public)
        text = await _write(ledger.reads, saved_reply, conversation_id)
        if not conversation.facts.unanswered:
            raise Impossible("Nothing of theirs waits for an answer.")
        await _check_alone(ledger.tx, scope, conversation_id, now)
        extras = Extras(saved_reply=saved_reply)
        return await answers.add_reply(
            ledger, conversation, scope, public=public, text=text, seen_seq=seen_seq, settle=settle, extras=extras
        )


async def _write(reads: Reads, saved_reply: int, conversation_id: int) -> str:
    asked = await texts.get_asked(reads.tx, conversation_id)
    kept = await texts.get_saved_reply(reads.tx, saved_reply)
    if asked is None:
        raise NotFound("There is no such conversation in this workspace.")
    if kept is None or kept["archived_at"] is not None:
        raise NotFound("There is no such saved reply in this workspace.")
    body = SAVED_REPLY.validate_python(kept["body"])
    groups = frozenset(asked["groups"])
    if not fits(body, account=asked["account_id"], groups=groups, language=None):
        raise Impossible(f"“{body.name}” is not written for {asked['account_name']}.")
    if not fits(body, account=asked["account_id"], groups=groups, language=asked["language"]):
        raise Impossible(f"“{body.name}” is not written in the language they write in.")
    return fill_in(body.text, await get_values(reads, asked["person_name"], asked["account_name"]))


async def _check_alone(tx: Tx, scope: Scope, conversation_id: int, now: datetime) -> None:
    """Raise Impossible while a colleague is writing there."""
    for other in await desk.list_presence(tx, now - PRESENT_FOR):
        if (other.conversation_id, other.doing) == (conversation_id, "writing") and other.member_id != scope.member_id:
            names = await people.list_names(tx)
            raise Impossible(f"{names.get(other.member_id, 'A colleague')} is writing an answer there.")


async def moderate_last(house: House, scope: Scope, conversation_id: int, *, what: Moderation, now: datetime) -> int:
    """Ask the network for one act on the last message of theirs; the act's number in the trail. Raises as `moderation.moderate`."""
    scope.check(Permission.MODERATE)
    last = await _get_last(house, scope, conversation_id)
    _, seq = await moderation.moderate(house, scope, last["message_id"], what=what, now=now)
    return seq


async def translate_last(house: House, scope: Scope, conversation_id: int, *, language: str, now: datetime) -> int:
    """The last message of theirs in another language, kept beside it; the newest number of the trail, for nothing is added to it.

    Raises NotFound, Impossible where it is in that language or no translator answers.
    """
    scope.check(Permission.SORT)
    last = await _get_last(house, scope, conversation_id)
    if last["language"] == language:
        raise Impossible("It is in that language already.")
    await translating.translate_message(house, scope, last["message_id"], target=language, now=now)
    return int(last["seq"])


async def _get_last(house: House, scope: Scope, conversation_id: int) -> dict[str, Any]:
    """The last message of theirs (`message_id`, `language`) and the newest number of its trail (`seq`). Raises NotFound."""
    async with house.db.transact(scope.workspace_id) as tx:
        asked = await texts.get_asked(tx, conversation_id)
    if asked is None or asked["message_id"] is None:
        raise NotFound("There is no message of theirs in this conversation.")
    return asked
