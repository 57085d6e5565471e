"""Which replies need consent, whose, and how many of them (docs/trade.md 8). Used by services.approvals and services.answers.

Several policies that match must all be met; one person's consent counts for each policy that names them. Nobody
consents to their own words.
"""

import hashlib
import json
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from sorta.core.errors import Invalid
from sorta.core.exact import Exact
from sorta.core.permissions import HeldRole, Permission
from sorta.core.reading import ReadsAs
from sorta.core.targets import Priority
from sorta.core.words import Folded, check_pattern, find_all
from sorta.core.working_time import WorkingTime

LONGEST_NAME = 80


@dataclass(frozen=True, kw_only=True)
class PolicyWhen(Exact):
    """When a reply needs consent: all that is said here must hold; what is left empty is not asked. Roles go by key."""

    roles: tuple[str, ...] = ()
    accounts: tuple[int, ...] = ()
    public: bool | None = None
    tags: tuple[int, ...] = ()
    priority_at_least: Priority | None = None
    words: tuple[str, ...] = ()
    reads_as: tuple[ReadsAs, ...] = ()
    reach_at_least: int | None = None


@dataclass(frozen=True, kw_only=True)
class PolicyBody(Exact):
    """A policy as somebody writes it: when, who may consent, and how many of them it takes."""

    name: str
    when: PolicyWhen
    members: tuple[int, ...] = ()
    teams: tuple[int, ...] = ()
    roles: tuple[str, ...] = ()
    count: int = 1


@dataclass(frozen=True, kw_only=True)
class Policy:
    """A policy in force; `approvers` are the members it comes down to now."""

    id: int
    body: PolicyBody
    approvers: frozenset[int]


@dataclass(frozen=True, kw_only=True)
class Wanted:
    """A reply somebody wants to send. `author` and `role` are None for what a rule would send; `reads_as` and `reach`
    are those of what it answers, `accounts` the one that was spoken to and the one that answers."""

    author: int | None
    role: HeldRole | None
    accounts: tuple[int, ...]
    public: bool
    text: Folded
    tags: tuple[int, ...] = ()
    priority: Priority = Priority.NORMAL
    reads_as: tuple[str, ...] = ()
    reach: int | None = None


@dataclass(frozen=True, kw_only=True)
class Need:
    """Consent that is needed: by how many of these members, and why. `policy` 0 is that of a role or of a rule."""

    policy: int
    name: str
    count: int
    members: tuple[int, ...]
    words: tuple[str, ...] = ()


def check_policy(body: PolicyBody) -> PolicyBody:
    """The policy as it is kept. Raises Invalid with what is wrong."""
    name = " ".join(body.name.split())
    if not 1 <= len(name) <= LONGEST_NAME:
        raise Invalid(f"A policy has a name of 1 to {LONGEST_NAME} characters.", "name")
    if body.count not in (1, 2):
        raise Invalid("Consent of one or of two is asked for.", "count")
    if not (body.members or body.teams or body.roles):
        raise Invalid("Say who may consent: members, teams or roles.", "members")
    words = tuple(dict.fromkeys(check_pattern(w) for w in body.when.words))
    reach = body.when.reach_at_least
    if reach is not None and not 0 <= reach <= 100:
        raise Invalid("Reach goes from 0 to 100.", "reach_at_least")
    when = PolicyWhen(**{**body.when.__dict__, "words": words})
    return PolicyBody(**{**body.__dict__, "name": name, "when": when})


def matches(when: PolicyWhen, wanted: Wanted) -> tuple[str, ...] | None:
    """The words of the reply behind it when a policy matches, else None."""
    if when.roles and (wanted.role is None or wanted.role.key not in when.roles):
        return None
    if when.accounts and not set(wanted.accounts) & set(when.accounts):
        return None
    if when.public is not None and wanted.public != when.public:
        return None
    if when.tags and set(when.tags).isdisjoint(wanted.tags):
        return None
    if when.priority_at_least is not None and wanted.priority < when.priority_at_least:
        return None
    if when.reads_as and set(when.reads_as).isdisjoint(wanted.reads_as):
        return None
    if when.reach_at_least is not None and (wanted.reach is None or wanted.reach < when.reach_at_least):
        return None
    found = find_all(when.words, wanted.text)
    return None if when.words and not found else found


def list_needs(
    policies: Iterable[Policy],
    wanted: Wanted,
    *,
    roles: Mapping[int, HeldRole],
    by_rules: Sequence[str] = (),
) -> tuple[Need, ...]:
    """All consent that a reply needs. `roles` are those of the members here; `by_rules` the names of rules that asked
    for consent on the conversation. Never the author, never somebody who may not approve; when that leaves too few, it
    waits for as many all the same (`has_too_few`)."""
    may = frozenset(m for m, role in roles.items() if Permission.APPROVE in role.grants)
    needs: list[Need] = []

    def add(policy: int, name: str, count: int, approvers: frozenset[int], words: tuple[str, ...] = ()) -> None:
        able = (approvers & may) - {wanted.author}
        needs.append(Need(policy=policy, name=name, count=count, members=tuple(sorted(able)), words=words))

    if wanted.role is not None and Permission.REPLY_WITHOUT_APPROVAL not in wanted.role.grants:
        add(0, f"Replies of a {wanted.role.name}", 1, may)
    for name in by_rules:
        add(0, f"The rule “{name}”", 1, may)
    for policy in policies:
        words = matches(policy.body.when, wanted)
        if words is not None:
            add(policy.id, policy.body.name, policy.body.count, policy.approvers, words)
    return tuple(needs)


def fingerprint(*, text: str, links: Mapping[str, str], files: Iterable[int], account: int | None, public: bool) -> str:
    """What consent is given to: SHA-256, in hexadecimal, of the words, where their links lead, the files beside them, the
    account that says them and who can read them. Whatever of it changes, it is something else."""
    said = {"text": text, "links": dict(links), "files": list(files), "account": account, "public": public}
    return hashlib.sha256(json.dumps(said, sort_keys=True, ensure_ascii=False).encode()).hexdigest()


def has_too_few(need: Need) -> bool:
    """Whether fewer members may consent than have to: it waits until others may."""
    return len(need.members) < need.count


def list_warnings(policy: Policy, roles: Mapping[int, HeldRole]) -> tuple[str, ...]:
    """What to know about a policy as it stands: sentences. Members it names who may not approve do not count."""
    able = {m for m in policy.approvers if m in roles and Permission.APPROVE in roles[m].grants}
    warnings = []
    barred = [m for m in policy.body.members if m not in able]
    if barred:
        who, count = ("One", "does") if len(barred) == 1 else (len(barred), "do")
        warnings.append(f"{who} of the members it names may not approve and {count} not count.")
    if len(able) < policy.body.count:
        warnings.append(
            f"It needs {policy.body.count} and {len(able) or 'nobody'} may consent: what it holds up waits."
        )
    elif len(able) == policy.body.count:
        warnings.append(
            "When one of those who may consent writes the answer themselves, too few are left and it waits."
        )
    return tuple(warnings)


def list_open_needs(needs: Iterable[Need], consents: Iterable[int], author: int) -> tuple[Need, ...]:
    """The needs that are not met yet by these members' consent."""
    given = frozenset(consents) - {author}
    return tuple(need for need in needs if len(given & set(need.members)) < need.count)


def may_consent(needs: Iterable[Need], consents: Iterable[int], author: int, member: int) -> bool:
    """Whether a member's consent would meet something that is still needed."""
    given = frozenset(consents)
    open_needs = list_open_needs(needs, given, author)
    return member != author and member not in given and any(member in need.members for need in open_needs)


#: How many working minutes somebody has at least before the next is asked, and how many when nothing is due.
SHORTEST_WAIT = 5
WAIT_WITHOUT_DUE = 4 * 60


@dataclass(frozen=True, kw_only=True)
class Asked:
    """Somebody whose consent was asked for at `at`; from `until` on the next one is asked too."""

    member: int
    at: datetime
    until: datetime


def get_wait_until(now: datetime, due: datetime | None, share: int, hours: WorkingTime) -> datetime:
    """Until when whoever is asked now has time before the next is asked: `share` percent of the working time left until
    it is due. It falls into working hours: nobody is asked next at night because somebody slept."""
    if due is None:
        return hours.add_working_minutes(now, WAIT_WITHOUT_DUE)
    left = hours.working_minutes_between(now, due) if due > now else 0
    return hours.add_working_minutes(now, max(SHORTEST_WAIT, int(left * share / 100)))


def list_to_ask(
    needs: Iterable[Need],
    consents: Sequence[int],
    author: int,
    *,
    asked: Sequence[Asked],
    away: Collection[int],
    now: datetime,
) -> tuple[int, ...]:
    """Whom to ask now: for each need that is not met so many members as it still takes, in the need's order.

    Whoever was asked counts while their time runs and they are not away. Those who are away are asked only when nobody
    else is left.
    """
    given = frozenset(consents)
    before = {a.member for a in asked}
    answering = {a.member for a in asked if a.until > now and a.member not in away}
    chosen: list[int] = []
    for need in list_open_needs(needs, consents, author):
        able = [m for m in need.members if m != author and m not in given]
        missing = need.count - len(given & set(need.members)) - len((answering | set(chosen)) & set(able))
        left = [m for m in able if m not in before and m not in chosen]
        present = [m for m in left if m not in away]
        chosen += (present or left)[: max(0, missing)]
    return tuple(chosen)
