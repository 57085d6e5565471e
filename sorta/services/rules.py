"""Rules as members keep them: written, ordered, switched, copied, kept in versions, taken to and from a file. Used by the API."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict, replace
from datetime import datetime, timedelta
from typing import Any

from pydantic import ValidationError

from sorta.core.conflicts import list_warnings
from sorta.core.errors import ChangedElsewhere, Invalid, NotFound
from sorta.core.examples import Example, make_rule_of
from sorta.core.permissions import Permission
from sorta.core.ports import Kind
from sorta.core.reading import list_chances
from sorta.core.rules import (
    AccountIs,
    AddTags,
    AnswerWith,
    Condition,
    Conditions,
    GiveTo,
    HandItOver,
    LetWatch,
    NetworkIs,
    PersonHasTag,
    PostIs,
    Rule,
    RuleBody,
    TellMembers,
    check_body,
)
from sorta.networks.abilities import TABLE
from sorta.services.house import House, Scope
from sorta.services.ruling import BODY, speak
from sorta.services.trail import read_facts
from sorta.store import accounts, cases, groups, people, rules, sorting, texts, trail
from sorta.store.db import Tx
from sorta.store.live import tell

#: Over how many days hits are counted beside a rule.
COUNTED_DAYS = 14
#: Conversations that a rule was met in which are listed at most.
MOST_MET = 5000
#: Kinds of message, several of them.
KINDS = {
    Kind.COMMENT: "comments",
    Kind.REPLY: "replies",
    Kind.MENTION: "mentions",
    Kind.STORY_MENTION: "story mentions",
    Kind.VISITOR_POST: "visitor posts",
    Kind.REVIEW: "reviews",
    Kind.FORM_ENTRY: "form entries",
    Kind.PRIVATE_MESSAGE: "private messages",
    Kind.FOUND: "found messages",
}
MOST_RULES = 300
FORMAT = "sorta-rules/1"


def dump(body: RuleBody) -> dict[str, Any]:
    """A rule as JSON holds it."""
    made: dict[str, Any] = BODY.dump_python(body, mode="json")
    return made


def _read(house: House, row: Mapping[str, Any], spoken: Mapping[str, str | None]) -> Rule:
    body = speak(house, BODY.validate_python(row["body"]), spoken)
    return Rule(id=row["id"], version=row["version"], body=body, on=row["switched_on"])


async def list_rules(house: House, scope: Scope, now: datetime) -> dict[str, Any]:
    """The rules in their order, how often each was met lately, and what to know about them."""
    async with house.db.transact(scope.workspace_id) as tx:
        rows = await rules.list_rules(tx, now - timedelta(days=COUNTED_DAYS))
        waiting = await rules.count_review(tx)
        spoken = await texts.get_languages(tx)
    found = await house.workshop.do(list_warnings, [_read(house, row, spoken) for row in rows])
    warnings = [asdict(w) for w in found]
    return {"rules": rows, "warnings": warnings, "days": COUNTED_DAYS, "to_review": waiting}


async def check_rule(house: House, scope: Scope, body: RuleBody, id: int) -> list[dict[str, Any]]:
    """What to know about a rule that is being written, among the others. Raises Invalid for what it cannot be."""
    async with house.db.transact(scope.workspace_id) as tx:
        tidy = await _check(house, tx, body)
        rows = await rules.list_rules(tx, datetime.min.replace(tzinfo=scope.zone))
        spoken = await texts.get_languages(tx)
    written = put_in([_read(house, r, spoken) for r in rows], id, speak(house, tidy, spoken))
    return [asdict(w) for w in await house.workshop.do(list_warnings, written, id)]


async def make_of(house: House, scope: Scope, conversation_id: int) -> RuleBody:
    """A rule from an example, to be looked over and tried before it is kept. Raises NotFound, also where they have taken back all they
    wrote."""
    scope.check(Permission.MANAGE_RULES)
    async with house.db.transact(scope.workspace_id) as tx:
        row = await trail.get_conversation(tx, conversation_id)
        said = await rules.get_example(tx, conversation_id)
    if row is None or said is None:
        raise NotFound("There is no message of theirs that a rule could be made of.")
    facts = read_facts(row)
    example = Example(
        kind=Kind(said["kind"]),
        chances=list_chances(said["reads_as"], said["evidence"]),
        text=said["body"],
        rating=said["rating"],
        has_link=bool((said["evidence"] or {}).get("links")),
        has_attachment=said["has_attachment"],
        is_on_ad=said["is_on_ad"],
        person_tags=tuple(said["person_tags"]),
        by_hand=facts.by_hand,
        priority=facts.priority,
        owner=facts.owner,
        team=facts.team,
        tags=facts.tags,
        settled_as=facts.settled_as,
    )
    return make_rule_of(example, KINDS)


async def list_met(house: House, scope: Scope, id: int, now: datetime) -> list[int]:
    """The conversations that a rule was met in within the days that are counted, the latest first."""
    async with house.db.transact(scope.workspace_id) as tx:
        return await rules.list_hit_conversations(tx, id, now - timedelta(days=COUNTED_DAYS), MOST_MET)


def put_in(all_rules: Sequence[Rule], id: int, body: RuleBody) -> list[Rule]:
    """The rules with one of them written anew, switched on; 0 is a new one at the bottom."""
    if id == 0:
        return [*all_rules, Rule(id=0, version=0, body=body)]
    return [replace(r, body=body, on=True) if r.id == id else r for r in all_rules]


async def _check(house: House, tx: Tx, body: RuleBody) -> RuleBody:
    """The rule tidied, with all it names found in this workspace. Raises Invalid."""
    tidy = check_body(body)
    members = {m.id for m in await people.list_members(tx)}
    known = {
        "member": members,
        "team": {t["id"] for t in await sorting.list_teams(tx)},
        "tag": {t["id"] for t in await sorting.list_tags(tx)},
        "account": {a.id for a in await accounts.list_accounts(tx)},
        "saved reply": {r["id"] for r in await texts.list_saved_replies(tx)},
        "desk": {d["id"] for d in await cases.list_desks(tx)},
        "account group": {g["id"] for g in await groups.list_groups(tx)},
    }
    for what, id in _list_named(tidy):
        if what == "post":
            if await trail.get_post(tx, id) is None:
                raise Invalid("The rule names a post that is not here.", "when")
        elif what == "network":
            continue
        elif id not in known[what]:
            article = "an" if what[0] in "aeiou" else "a"
            raise Invalid(f"The rule names {article} {what} that is not here.", "then")
    for part in _flatten(tidy.when):
        if isinstance(part, NetworkIs) and not set(part.networks) <= set(TABLE):
            raise Invalid("The rule names a network that is not here.", "when")
    for action in speak(house, tidy, {}).then:
        if isinstance(action, AnswerWith) and action.language is None:
            raise Invalid("Say which language the answer is written for: its words do not tell.", "then")
    return tidy


def _flatten(when: Condition) -> list[Condition]:
    return [inner for part in when.parts for inner in _flatten(part)] if isinstance(when, Conditions) else [when]


def _list_named(body: RuleBody) -> list[tuple[str, int]]:
    """Everything a rule names by number, as (what, number)."""
    named: list[tuple[str, int]] = []
    for part in _flatten(body.when):
        match part:
            case AccountIs():
                named += [("account", a) for a in part.accounts] + [("account group", g) for g in part.groups]
            case PersonHasTag():
                named += [("tag", t) for t in part.tags]
            case PostIs():
                named.append(("post", part.post))
    for action in body.then:
        match action:
            case AddTags():
                named += [("tag", t) for t in action.tags]
            case GiveTo(member=int(member)):
                named.append(("member", member))
            case GiveTo(team=int(team)):
                named.append(("team", team))
            case AnswerWith(saved=int(saved)):
                named.append(("saved reply", saved))
            case HandItOver():
                named.append(("desk", action.desk))
            case LetWatch() | TellMembers():
                named += [("member", m) for m in action.members]
    return named


async def add_rule(house: House, scope: Scope, body: RuleBody, *, on: bool, now: datetime) -> int:
    """A new rule at the bottom; its number. Raises Invalid."""
    scope.check(Permission.MANAGE_RULES)
    async with house.db.transact(scope.workspace_id) as tx:
        return await _add(house, tx, scope, body, on=on, now=now)


def answers_by_itself(body: RuleBody) -> bool:
    """Whether a rule sends words out."""
    return any(isinstance(action, AnswerWith) and not action.offer for action in body.then)


def check_may_let_answer(scope: Scope, *bodies: RuleBody) -> None:
    """Raise NotAllowed when one of the rules answers and the member's own answers need approval: what they may not send
    themselves no rule sends for them."""
    if any(answers_by_itself(body) for body in bodies):
        scope.check(Permission.REPLY_WITHOUT_APPROVAL)


async def _add(house: House, tx: Tx, scope: Scope, body: RuleBody, *, on: bool, now: datetime) -> int:
    check_may_let_answer(scope, body)
    tidy = await _check(house, tx, body)
    if len(await rules.list_rules(tx, now)) >= MOST_RULES:
        raise Invalid(f"A workspace has at most {MOST_RULES} rules.", "name")
    id = await rules.add_rule(tx, body=dump(tidy), on=on, member_id=scope.member_id, now=now)
    await tell(tx, "rules")
    return id


async def set_rule(
    house: House,
    scope: Scope,
    id: int,
    *,
    body: RuleBody | None,
    on: bool | None,
    version: int,
    now: datetime,
    answers: bool = False,
) -> None:
    """A rule as it is from now on. With `answers`, or when it is switched on, it answers again, counted from now. Raises Invalid when somebody changed it since `version`, NotFound."""
    scope.check(Permission.MANAGE_RULES)
    async with house.db.transact(scope.workspace_id) as tx:
        row = await _get(tx, id)
        if row["version"] != version:
            raise Invalid("Somebody changed this rule meanwhile. Look at it again; yours is kept here.", "version")
        was = BODY.validate_python(row["body"])
        # Switching one off, as it is, is anybody's who may change rules.
        if (row["switched_on"] if on is None else on) or body is not None or answers:
            check_may_let_answer(scope, was, body or was)
        switched = row["switched_on"] if on is None else on
        answers = answers or (switched and not row["switched_on"])
        await _put(house, tx, scope, id, body or was, on=switched, answers=answers, now=now)


async def rewrite(house: House, tx: Tx, scope: Scope, id: int, body: RuleBody, now: datetime) -> None:
    """A rule that says the same of something that has become another: in its place, and on or off as it is. Raises Invalid, NotAllowed."""
    scope.check(Permission.MANAGE_RULES)
    row = await _get(tx, id)
    check_may_let_answer(scope, body)
    await _put(house, tx, scope, id, body, on=row["switched_on"], answers=False, now=now)


async def _put(
    house: House, tx: Tx, scope: Scope, id: int, body: RuleBody, *, on: bool, answers: bool, now: datetime
) -> None:
    tidy = await _check(house, tx, body)
    await rules.set_rule(tx, id, body=dump(tidy), on=on, answers=answers, member_id=scope.member_id, now=now)
    await tell(tx, "rules")


async def _get(tx: Tx, id: int) -> dict[str, Any]:
    row = await rules.get_rule(tx, id)
    if row is None:
        raise NotFound("There is no such rule in this workspace.")
    return row


async def copy_rule(house: House, scope: Scope, id: int, now: datetime) -> int:
    """The same rule again at the bottom, switched off."""
    scope.check(Permission.MANAGE_RULES)
    async with house.db.transact(scope.workspace_id) as tx:
        body = BODY.validate_python((await _get(tx, id))["body"])
        return await _add(house, tx, scope, replace(body, name=f"{body.name[:73]}, copy"), on=False, now=now)


async def remove_rule(house: House, scope: Scope, id: int, now: datetime) -> None:
    """Take a rule away; what it did stays explained. Raises NotFound."""
    scope.check(Permission.MANAGE_RULES)
    async with house.db.transact(scope.workspace_id) as tx:
        if not await rules.remove_rule(tx, id, member_id=scope.member_id, now=now):
            raise NotFound("There is no such rule in this workspace.")
        await tell(tx, "rules")


async def set_order(
    house: House, scope: Scope, ids: Sequence[int], now: datetime, *, was: Sequence[int] | None = None
) -> None:
    """The rules in this order. `was` is the order it was made from. Raises Invalid when it is not all of them,
    ChangedElsewhere when somebody else has put them in another order meanwhile."""
    scope.check(Permission.MANAGE_RULES)
    async with house.db.transact(scope.workspace_id) as tx:
        await rules.touch_rules(tx)
        known = [row["id"] for row in await rules.list_rules(tx, now)]
        if sorted(known) != sorted(ids):
            raise Invalid("The rules have changed meanwhile; look at them again.", "ids")
        if was is not None and known != list(was):
            raise ChangedElsewhere("Somebody else has put the rules in another order meanwhile. Look at it, then move.")
        await rules.set_order(tx, ids)
        await tell(tx, "rules")


async def list_versions(house: House, scope: Scope, id: int) -> list[dict[str, Any]]:
    """The versions of a rule, newest first."""
    async with house.db.transact(scope.workspace_id) as tx:
        await _get(tx, id)
        return await rules.list_versions(tx, id)


# -- to and from a file ----------------------------------------------------------------------------------------
# A file names things by their names, so that it can be read where they have other numbers.


async def _get_names(tx: Tx) -> dict[str, dict[int, str]]:
    return {
        "tags": {t["id"]: t["name"] for t in await sorting.list_tags(tx)},
        "teams": {t["id"]: t["name"] for t in await sorting.list_teams(tx)},
        "members": {m.id: m.name for m in await people.list_members(tx)},
        "accounts": {a.id: f"{a.network}/{a.handle}" for a in await accounts.list_accounts(tx)},
        "groups": {g["id"]: g["name"] for g in await groups.list_groups(tx)},
        "saved replies": {r["id"]: r["body"]["name"] for r in await texts.list_saved_replies(tx)},
    }


async def export_rules(house: House, scope: Scope, now: datetime) -> dict[str, Any]:
    """All rules with the names of what they mention."""
    async with house.db.transact(scope.workspace_id) as tx:
        rows = await rules.list_rules(tx, now)
        names = await _get_names(tx)
    return {
        "format": FORMAT,
        "names": {kind: {str(id): name for id, name in by.items()} for kind, by in names.items()},
        "rules": [{"on": row["switched_on"], **row["body"]} for row in rows],
    }


#: Which field of a rule names what.
_FIELDS = {"tags": "tags", "team": "teams", "member": "members", "members": "members", "accounts": "accounts", "groups": "groups", "saved": "saved replies", "desk": "desks"}  # fmt: skip


def _translate(value: Any, numbers: Mapping[str, Mapping[int, int]]) -> Any:
    """A rule of a file with this workspace's numbers."""
    if isinstance(value, list):
        return [_translate(v, numbers) for v in value]
    if not isinstance(value, dict):
        return value
    made = {}
    for key, inner in value.items():
        by = numbers.get(_FIELDS.get(key, ""))
        if by is None or inner is None:
            made[key] = _translate(inner, numbers)
        elif isinstance(inner, list):
            made[key] = [by.get(v, -1) for v in inner]
        else:
            made[key] = by.get(inner, -1)
    return made


async def import_rules(house: House, scope: Scope, given: Mapping[str, Any], now: datetime) -> dict[str, int]:
    """Add the rules of a file at the bottom, switched off, all or none; how many (`count`), and how many were here already
    and are left out (`known`). Raises Invalid with the rule that cannot be read.

    What they name is found by name; a tag that is not here yet is made.
    """
    scope.check(Permission.MANAGE_RULES)
    if given.get("format") != FORMAT:
        raise Invalid(f"This is no file of rules ({FORMAT}).", "format")
    async with house.db.transact(scope.workspace_id) as tx:
        here = await _get_names(tx)
        for name in given["names"].get("tags", {}).values():
            if name.lower() not in {n.lower() for n in here["tags"].values()}:
                scope.check(Permission.MANAGE_TAGS)
                here["tags"][await sorting.add_tag(tx, name)] = name
        numbers = {
            kind: {int(id): _find(name, here.get(kind, {})) for id, name in by.items()}
            for kind, by in given["names"].items()
        }
        here_already = [row["body"] for row in await rules.list_rules(tx, now)]
        known = 0
        for at, one in enumerate(given["rules"], 1):
            try:
                body = read_body(_translate({k: v for k, v in one.items() if k != "on"}, numbers))
                if dump(check_body(body)) in here_already:
                    known += 1
                    continue
                await _add(house, tx, scope, body, on=False, now=now)
            except Invalid as error:
                raise Invalid(f"Rule {at} of the file, ‘{one.get('name', '')}’: {error.message}", "rules") from error
    return {"count": len(given["rules"]) - known, "known": known}


def read_body(value: Any) -> RuleBody:
    """A rule from a file. Raises Invalid with what is wrong and where, in a sentence."""
    try:
        return BODY.validate_python(value)
    except ValidationError as error:
        wrong = error.errors()[0]
        where = _say_where(wrong["loc"])
        match wrong["type"]:
            case "extra_forbidden" | "unexpected_keyword_argument":
                said = f"‘{wrong['loc'][-1]}’ is nothing that stands {where}. Is it spelt right?"
            case "missing":
                said = f"‘{wrong['loc'][-1]}’ is missing {where}."
            case "union_tag_invalid":
                said = f"there is no {wrong['ctx']['tag']!r} {where}."
            case _:
                said = f"{where}, {wrong['msg'][:1].lower()}{wrong['msg'][1:]}."
        raise Invalid(f"{said[:1].upper()}{said[1:]}", "rules") from error


def _say_where(loc: Sequence[int | str]) -> str:
    """'in condition 2, part 1': where in a rule something is wrong."""
    said = [f"{'part' if n else 'condition'} {int(at) + 1}" for n, at in enumerate(loc[2:] if loc[:1] == ("when",) else ()) if isinstance(at, int)]  # fmt: skip
    if loc[:1] == ("then",) and len(loc) > 1:
        said = [f"action {int(loc[1]) + 1}"]
    return f"in {', '.join(said)}" if said else "in the rule"


def _find(name: str, by: Mapping[int, str]) -> int:
    return next((id for id, known in by.items() if known.lower() == name.lower()), -1)


def make_schema() -> dict[str, Any]:
    """The JSON schema of a rule, made from the core's own types."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Rule", **BODY.json_schema()}
