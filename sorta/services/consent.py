"""The gate of everything that leaves: which consent words need in this workspace, and by which ways they leave at all. Used by
answers, approvals, scheduling, ruling, advice, cases and the sheet.

`WAYS` declares every way out; a test reads the services' code and fails where something leaves by a way that is not declared, or
whose gate is not passed.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from pydantic import TypeAdapter

from sorta.core.approval import Need, Policy, PolicyBody, Wanted, list_needs
from sorta.core.errors import NeedsApproval
from sorta.core.permissions import HeldRole
from sorta.core.targets import Priority
from sorta.core.words import fold_text
from sorta.services.house import Scope
from sorta.services.reads import Reads
from sorta.services.roles import list_held_roles
from sorta.services.trail import Open
from sorta.store import approvals, sorting

POLICY = TypeAdapter(PolicyBody)


@dataclass(frozen=True, kw_only=True)
class Way:
    """One way out. `where` is the function that sends it off or writes it to be sent. Its gate, one of the functions `through`, is
    called in it or, with `called_by`, in every function that calls it but those named in `wordless`. None where no words of a
    member or a rule go: then `why` says so."""

    where: str
    through: tuple[str, ...] | None = None
    called_by: bool = False
    wordless: tuple[str, ...] = ()
    why: str = ""


_WRITTEN = "Sends off what was written to be sent, as it was."
WAYS: tuple[Way, ...] = (
    # Members' replies: at once, approved, at their time, to the winners of a draw.
    Way(where="answers.commit_reply", through=("find_needs", "check_free_reply"), called_by=True),
    # Rules' replies, and what rules ask of a network.
    Way(where="ruling.Ruling._queue", through=("find_needs",), called_by=True, wordless=("ruling.Ruling._moderate",)),
    Way(where="ruling.Ruling.finish", why="Writes to be sent what `_queue` was given."),
    Way(where="answers.queue_outgoing", why="Writes to be sent what its callers, each a way of its own, let out."),
    Way(where="moderation.moderate", why="An act says no words; it has a permission of its own."),
    Way(where="advice.ask", through=("check_words",)),
    Way(
        where="cases._pass",
        through=("check_words",),
        called_by=True,
        wordless=("cases.hand_over_by_rule", "cases.follow"),
    ),
    Way(where="links.shorten", why="An address, made while words are checked, of what those words name."),
    Way(where="delivery._try", why=_WRITTEN),
    Way(where="delivery._send_reply", why=_WRITTEN),
    Way(where="advice._send", why=_WRITTEN),
    Way(where="cases.pass_on", why=_WRITTEN),
    Way(where="alerts._mail", why="To members, in Sorta's own words."),
    Way(where="alerts._text", why="To members, in Sorta's own words."),
    Way(where="phones.begin", why="To a member, a code."),
    Way(
        where="report_sharing._send",
        why="Figures under a name, of somebody who may export, to members and to listed domains; none while all is held.",
    ),
    Way(where="invitations._send", why="To who is invited by who manages members, in Sorta's own words."),
    Way(where="forgotten._send", why="To a member, in Sorta's own words."),
    Way(where="translating._ask", why="To the installation's own translator."),
)


async def list_active_policies(reads: Reads, roles: dict[int, HeldRole]) -> list[Policy]:
    """The policies that are switched on, each with the members it comes down to now."""
    rows = [row for row in await reads.get(approvals.list_policies) if row["switched_on"]]
    if not rows:
        return []
    teams = {t["id"]: set(t["members"]) for t in await reads.get(sorting.list_teams)}
    found = []
    for row in rows:
        body = POLICY.validate_python(row["body"])
        found.append(Policy(id=row["id"], body=body, approvers=resolve_policy(body, roles, teams)))
    return found


def resolve_policy(body: PolicyBody, roles: Mapping[int, HeldRole], teams: Mapping[int, set[int]]) -> frozenset[int]:
    """The members a policy's approvers come down to now."""
    approvers = set(body.members) & set(roles)
    approvers |= {m for t in body.teams for m in teams.get(t, ())}
    approvers |= {m for m, role in roles.items() if role.key in body.roles}
    return frozenset(approvers)


def join_words(typed: str, filled: str) -> str:
    """What policies judge: the words as they go out, and as they were typed, where a placeholder names what it stands for."""
    return typed if typed.strip() == filled.strip() else f"{filled}\n{typed}"


async def find_needs(
    reads: Reads,
    conversation: Open,
    scope: Scope | None,
    *,
    public: bool,
    text: str,
    account: int | None = None,
) -> tuple[Need, ...]:
    """The consent that a reply needs; `scope` is its author's, None for a rule's. `account` is the one that answers when it is
    not the one that was spoken to."""
    return (await _find(reads, conversation, scope, (public,), text, account))[public]


async def find_needs_of_both(reads: Reads, conversation: Open, scope: Scope) -> dict[bool, tuple[Need, ...]]:
    """The consent that a public and a private reply need whatever they say, by whether they are public."""
    return await _find(reads, conversation, scope, (True, False), "", None)


async def _find(
    reads: Reads,
    conversation: Open,
    scope: Scope | None,
    audiences: Sequence[bool],
    text: str,
    account: int | None,
) -> dict[bool, tuple[Need, ...]]:
    row, facts = conversation.row, conversation.facts
    spoken_by = (row["account_id"],) if account is None else (row["account_id"], account)
    roles = await list_held_roles(reads, spoken_by)
    policies = await list_active_policies(reads, roles)
    asked: dict[str, Any] = {"reads_as": None, "reach": None}
    if any(p.body.when.reads_as or p.body.when.reach_at_least is not None for p in policies):
        asked = await approvals.get_asked(reads.tx, conversation.id)
    found = {}
    for public in audiences:
        wanted = Wanted(
            author=scope.member_id if scope is not None else None,
            role=scope.role if scope is not None else None,
            accounts=spoken_by,
            public=public,
            text=fold_text(text),
            tags=facts.tags,
            priority=Priority(facts.priority),
            reads_as=tuple(asked["reads_as"] or ()),
            reach=asked["reach"],
        )
        found[public] = list_needs(policies, wanted, roles=roles, by_rules=facts.consent_rules)
    return found


async def check_needs_nobody(
    reads: Reads, conversation: Open, scope: Scope, *, public: bool, text: str, account: int | None = None
) -> None:
    """Raise NeedsApproval, saying why, when a reply may not go out without somebody's consent."""
    needs = await find_needs(reads, conversation, scope, public=public, text=text, account=account)
    if needs:
        names = ", ".join(need.name for need in needs)
        raise NeedsApproval(f"It needs approval first: {names}. Your words are kept; ask for approval.")


async def check_words(reads: Reads, conversation: Open, scope: Scope, *, text: str, what: str) -> None:
    """Let words out that cannot wait for consent: a question to somebody outside, a note to another desk.

    The policies judge them as they judge a private reply; that a role's replies all need approval is no matter of these words:
    the way has a permission of its own. `what` names them in a sentence. Raises NeedsApproval.
    """
    needs = [n for n in await find_needs(reads, conversation, scope, public=False, text=text) if n.policy]
    if needs:
        names = ", ".join(need.name for need in needs)
        raise NeedsApproval(
            f"{what} cannot go out in these words, which need consent here: {names}. Say it without them."
        )
