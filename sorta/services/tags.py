"""A workspace's tags as its team keeps them: made, renamed, under headings, retired, merged, and what uses them. Used by the API and the clock."""

from collections.abc import Collection, Mapping
from datetime import datetime
from typing import Any

from sorta.core.errors import Invalid, NotFound
from sorta.core.events import TagMerged
from sorta.core.permissions import Permission
from sorta.core.titles import check_title
from sorta.services import policies, rules
from sorta.services.consent import POLICY
from sorta.services.house import House, Scope
from sorta.services.reads import Reads
from sorta.services.trail import writing
from sorta.store import approvals, sorting
from sorta.store import rules as rule_store
from sorta.store.db import Tx
from sorta.store.live import tell

LONGEST_NAME = 40
LONGEST_HEADING = 40
#: Conversations, and people, that get another tag in one go of the clock.
AT_ONCE = 200
#: What of a view's address names tags.
_IN_VIEWS = ("tag", "person_tag")


def check_name(name: str, others: Collection[str] = ()) -> str:
    """A tag's name as it is kept. Raises Invalid."""
    return check_title(name, "A tag", LONGEST_NAME, others=others, one="a tag")


async def list_tags(house: House, scope: Scope) -> list[dict[str, Any]]:
    """Every tag with what has it: conversations (`open` of them not settled), people, and the rules, policies and draws that name it."""
    async with house.db.transact(scope.workspace_id) as tx:
        tags = await sorting.list_tags(tx)
        tagged = await sorting.count_tagged(tx)
        people = await sorting.count_tagged_people(tx)
        naming = await sorting.list_naming_tags(tx)
    return [
        {
            **tag,
            "conversations": tagged.get(tag["id"], (0, 0))[0],
            "open": tagged.get(tag["id"], (0, 0))[1],
            "people": people.get(tag["id"], 0),
            "named_by": [_say(one) for one in naming if one["tag"] == tag["id"]],
        }
        for tag in tags
    ]


def _say(one: Mapping[str, Any]) -> str:
    return f"{one['what']} “{one['name']}”"


async def get_tag(house: House, scope: Scope, name: str, *, make: bool) -> int:
    """As `find_tag`, in a transaction of its own."""
    scope.check(Permission.SORT)
    async with house.db.transact(scope.workspace_id) as tx:
        return await find_tag(Reads(tx), scope, name, make=make)


async def find_tag(reads: Reads, scope: Scope, name: str, *, make: bool) -> int:
    """The number of a tag by its name; of one that was merged, that of the one it is now. With `make` one that there is not is made.
    Raises Invalid for one that is retired, or that there is not."""
    said = check_name(name)
    tags = {t["name"].lower(): t for t in await reads.get(sorting.list_tags)}
    tag = tags.get(said.lower())
    if tag is None:
        if not make:
            raise Invalid("There is no such tag.", "name")
        scope.check(Permission.MANAGE_TAGS)
        reads.forget(sorting.list_tags)
        return await sorting.add_tag(reads.tx, said)
    if tag["merged_into"] is not None:
        return int(tag["merged_into"])
    if tag["retired"] and make:
        raise Invalid(f"The tag {tag['name']} is retired. It can be brought back in Setup, under Tags.", "name")
    return int(tag["id"])


async def add_tag(house: House, scope: Scope, *, name: str, heading: str) -> int:
    """A new tag; its number. Raises Invalid."""
    scope.check(Permission.MANAGE_TAGS)
    async with house.db.transact(scope.workspace_id) as tx:
        await sorting.lock_tags(tx)
        here = await sorting.list_tags(tx)
        said = check_name(name, [t["name"] for t in here])
        id = await sorting.add_tag(tx, said, _check_heading(heading))
        await tell(tx, "tags")
    return id


def _check_heading(heading: str) -> str:
    said = " ".join(heading.split())
    return check_title(said, "A heading", LONGEST_HEADING, where="heading") if said else ""


async def set_tag(
    house: House, scope: Scope, id: int, *, name: str, heading: str, retired: bool, now: datetime
) -> None:
    """What a tag is called, what it stands under, and whether it is retired: offered no more, and kept where it is.

    Raises NotFound, NotAllowed, and Invalid for a name that another has, for one that was merged, or when it is to be retired and a
    rule, policy or draw names it.
    """
    scope.check(Permission.MANAGE_TAGS)
    async with house.db.transact(scope.workspace_id) as tx:
        tag, others = await _get(tx, id)
        said = check_name(name, [t["name"] for t in others])
        if retired and not tag["retired"] and (naming := await _list_naming(tx, id)):
            raise Invalid(f"The {_say(naming[0])} names it. Change that first, then it can be retired.", "retired")
        await sorting.set_tag(tx, id, name=said, heading=_check_heading(heading), retired=retired, now=now)
        await tell(tx, "tags")


async def _get(tx: Tx, id: int) -> tuple[dict[str, Any], list[dict[str, Any]]]:
    """A tag that is one still, and the others; nobody changes any until the transaction ends."""
    await sorting.lock_tags(tx)
    tags = await sorting.list_tags(tx)
    tag = next((t for t in tags if t["id"] == id), None)
    if tag is None:
        raise NotFound("There is no such tag in this workspace.")
    if tag["merged_into"] is not None:
        into = next(t["name"] for t in tags if t["id"] == tag["merged_into"])
        raise Invalid(f"{tag['name']} was merged into {into}, which stands for it.", "id")
    return tag, [t for t in tags if t["id"] != id]


async def _list_naming(tx: Tx, id: int) -> list[dict[str, Any]]:
    return [one for one in await sorting.list_naming_tags(tx) if one["tag"] == id]


async def merge_tag(house: House, scope: Scope, id: int, *, into: int, now: datetime) -> None:
    """One tag becomes another: for conversations and people (in the background, by `merge_on`), rules, policies, saved views and reports.

    It cannot be taken back. Raises NotFound, Invalid for itself, a retired one, or one that an open draw names, NotAllowed when
    rules or policies name it and the member may not change those.
    """
    scope.check(Permission.MANAGE_TAGS)
    async with house.db.transact(scope.workspace_id) as tx:
        _, others = await _get(tx, id)
        target = next((t for t in others if t["id"] == into), None)
        if target is None:
            raise Invalid("Say which other tag it becomes.", "into")
        if target["retired"]:
            raise Invalid(f"{target['name']} is retired. Bring it back first.", "into")
        naming = await _list_naming(tx, id)
        if draw := next((one for one in naming if one["what"] == "prize draw"), None):
            raise Invalid(
                f"The {_say(draw)} leaves out people with this tag. Wait for its end, or call it off.", "into"
            )
        if naming:
            await _swap_in_rules(house, tx, scope, id, into, now)
            await _swap_in_policies(tx, scope, id, into, now)
        for view in await sorting.list_all_views(tx):
            swapped = swap_in_query(view["query"], id, into)
            if swapped != view["query"]:
                await sorting.set_view_query(tx, view["id"], swapped)
        await sorting.merge_tag(tx, id, into, now)
        await tell(tx, "tags")


async def _swap_in_rules(house: House, tx: Tx, scope: Scope, id: int, into: int, now: datetime) -> None:
    for row in await rule_store.list_rules(tx, now):
        body = swap_tags(row["body"], id, into)
        if body != row["body"]:
            await rules.rewrite(house, tx, scope, row["id"], rules.read_body(body), now)


async def _swap_in_policies(tx: Tx, scope: Scope, id: int, into: int, now: datetime) -> None:
    for row in await approvals.list_policies(tx):
        body = swap_tags(row["body"], id, into)
        if body != row["body"]:
            await policies.rewrite(tx, scope, row["id"], POLICY.validate_python(body), on=row["switched_on"], now=now)


def swap_tags(body: Any, id: int, into: int) -> Any:
    """A rule's or policy's body with one tag in place of another, each once."""
    if isinstance(body, list):
        return [swap_tags(one, id, into) for one in body]
    if not isinstance(body, dict):
        return body
    return {
        key: _swap(value, id, into) if key == "tags" and isinstance(value, list) else swap_tags(value, id, into)
        for key, value in body.items()
    }


def swap_in_query(query: Mapping[str, Any], id: int, into: int) -> dict[str, Any]:
    """A view's address with one tag in place of another, each once; its numbers stand as words."""
    made = dict(query)
    for key in _IN_VIEWS:
        value = made.get(key)
        if isinstance(value, list):
            made[key] = _swap(value, str(id), str(into))
        elif value == str(id):
            made[key] = str(into)
    return made


def _swap(values: list[Any], one: Any, other: Any) -> list[Any]:
    return list(dict.fromkeys(other if value == one else value for value in values))


async def merge_on(house: House, workspace_id: int, now: datetime) -> int:
    """Give conversations and people who still have a tag that is another by now that one, some at a time; how many. For the clock."""
    async with house.db.transact(workspace_id) as tx:
        found = await sorting.list_to_merge(tx, AT_ONCE)
        people = await sorting.merge_people(tx, AT_ONCE)
    for one in found:
        async with writing(house, workspace_id, now) as ledger:
            conversation = await ledger.get(one["conversation_id"])
            if one["tag"] in conversation.facts.tags:
                ledger.add(conversation, TagMerged(tag=one["tag"], into=one["into_tag"]))
    return len(found) + people
