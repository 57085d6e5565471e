"""Translating what they said and what we write; both texts are kept. Used by the API and services.answers."""

from datetime import datetime
from typing import Any

from sorta.core.errors import Impossible, Invalid, NotFound
from sorta.core.permissions import Permission
from sorta.core.ports import Translated, Translator, Unreachable
from sorta.services.house import House, Scope
from sorta.store import listening

LONGEST = 8000


def _get_translator(house: House) -> Translator:
    if house.translator is None:
        raise Impossible("No translator is connected to this installation.")
    return house.translator


async def _ask(house: House, text: str, source: str | None, target: str) -> Translated:
    if not text.strip() or len(text) > LONGEST:
        raise Invalid(f"Between 1 and {LONGEST} characters can be translated at once.", "text")
    try:
        return await _get_translator(house).translate(text, source=source, target=target)
    except Unreachable as error:
        raise Impossible(f"{error} Nothing is lost; try again in a moment.") from error


async def translate_message(house: House, scope: Scope, id: int, *, target: str, now: datetime) -> dict[str, Any]:
    """A message in another language, kept beside it; asked for once only. Raises NotFound, Impossible."""
    async with house.db.transact(scope.workspace_id) as tx:
        message = await listening.get_translatable(tx, id)
        known = await listening.get_translation(tx, id, target)
    if message is None:
        raise NotFound("There is no such message in this workspace.")
    if known is not None:
        return known
    made = await _ask(house, message["body"], message["language"], target)
    values = {"language": target, "body": made.text, "what": "translated", "rough": made.rough, "engine": made.engine}
    async with house.db.transact(scope.workspace_id) as tx:
        await listening.add_translation(tx, id, {**values, "member_id": scope.member_id, "now": now})
    return values


async def translate_text(house: House, scope: Scope, text: str, *, target: str) -> dict[str, Any]:
    """What a member is writing, in the language of whom they write to. Raises Impossible."""
    scope.check(Permission.SORT)
    made = await _ask(house, text, None, target)
    return {"text": made.text, "language": target, "rough": made.rough, "engine": made.engine}
