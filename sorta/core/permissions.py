"""Who may do what: permissions, and roles as named sets of them (docs/trade.md 8). Checked in services only."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from enum import StrEnum

from sorta.core.errors import Invalid, NotAllowed

LONGEST_NAME = 40


class Permission(StrEnum):
    """What a role can hold."""

    SEE = "see"
    SORT = "sort"
    REPLY_PUBLICLY = "reply_publicly"
    REPLY_PRIVATELY = "reply_privately"
    REPLY_WITHOUT_APPROVAL = "reply_without_approval"
    APPROVE = "approve"
    MODERATE = "moderate"
    MANAGE_REPLIES = "manage_replies"
    MANAGE_TAGS = "manage_tags"
    EXPORT = "export"
    MANAGE_ACCOUNTS = "manage_accounts"
    MANAGE_RULES = "manage_rules"
    MANAGE_MEMBERS = "manage_members"
    HOLD_OUTGOING = "hold_outgoing"
    DRAW_PRIZES = "draw_prizes"
    ASK_OUTSIDE = "ask_outside"
    SEE_REPORTS = "see_reports"


class Role(StrEnum):
    """The keys of the starting roles; those a workspace adds have keys of their own."""

    OWNER = "owner"
    LEAD = "lead"
    RESPONDER = "responder"
    TRAINEE = "trainee"
    OBSERVER = "observer"


@dataclass(frozen=True, kw_only=True)
class HeldRole:
    """A role as a workspace has it: members and policies name it by its key."""

    key: str
    name: str
    grants: frozenset[Permission]


_RESPONDER = frozenset(
    {
        Permission.SEE,
        Permission.SORT,
        Permission.REPLY_PUBLICLY,
        Permission.REPLY_PRIVATELY,
        Permission.REPLY_WITHOUT_APPROVAL,
        Permission.MODERATE,
        Permission.MANAGE_TAGS,
        Permission.ASK_OUTSIDE,
    }
)

_GRANTS: dict[Role, frozenset[Permission]] = {
    Role.OWNER: frozenset(Permission),
    Role.LEAD: frozenset(Permission) - {Permission.MANAGE_ACCOUNTS},
    Role.RESPONDER: _RESPONDER,
    # A trainee's replies all need approval.
    Role.TRAINEE: frozenset({Permission.SEE, Permission.SORT, Permission.REPLY_PUBLICLY, Permission.REPLY_PRIVATELY}),
    Role.OBSERVER: frozenset({Permission.SEE, Permission.SEE_REPORTS}),
}
#: What a new workspace begins with. The Owner's always holds everything; the others can be changed.
STARTING: dict[Role, HeldRole] = {
    role: HeldRole(key=role.value, name=role.value.capitalize(), grants=grants) for role, grants in _GRANTS.items()
}

#: Each permission after 'may' or 'may not'.
WORDS: dict[Permission, str] = {
    Permission.SEE: "see this workspace",
    Permission.SORT: "change conversations",
    Permission.REPLY_PUBLICLY: "reply publicly",
    Permission.REPLY_PRIVATELY: "reply privately",
    Permission.REPLY_WITHOUT_APPROVAL: "reply without approval",
    Permission.APPROVE: "approve replies",
    Permission.MODERATE: "act on what others wrote on a network",
    Permission.MANAGE_REPLIES: "change saved replies, links and the library",
    Permission.MANAGE_TAGS: "add tags",
    Permission.EXPORT: "export",
    Permission.MANAGE_ACCOUNTS: "manage accounts",
    Permission.MANAGE_RULES: "change rules, policies, working hours and targets",
    Permission.MANAGE_MEMBERS: "manage members, their roles and when they work",
    Permission.HOLD_OUTGOING: "hold what goes out",
    Permission.DRAW_PRIZES: "draw prizes",
    Permission.ASK_OUTSIDE: "ask people outside by mail",
    Permission.SEE_REPORTS: "see reports",
}


#: What reaches over every account of a workspace: it rests in who sees the accounts of their groups only.
OVER_ALL = frozenset(
    {
        Permission.MANAGE_REPLIES,
        Permission.MANAGE_ACCOUNTS,
        Permission.MANAGE_RULES,
        Permission.MANAGE_MEMBERS,
        Permission.HOLD_OUTGOING,
    }
)


def limit_role(role: HeldRole) -> HeldRole:
    """What a role holds for who sees the accounts of their groups only."""
    return replace(role, name=f"{role.name}, limited to groups", grants=role.grants - OVER_ALL)


def check_permission(role: HeldRole, permission: Permission) -> None:
    """Raise NotAllowed, in words, unless the role holds the permission."""
    if permission not in role.grants:
        raise NotAllowed(f"Your role here ({role.name}) may not {WORDS[permission]}. Ask an Owner of the workspace.")


def check_role(name: str, grants: Iterable[Permission]) -> tuple[str, frozenset[Permission]]:
    """A role's name and permissions as they are kept; whoever works here sees it. Raises Invalid."""
    said = " ".join(name.split())
    if not 1 <= len(said) <= LONGEST_NAME:
        raise Invalid(f"A role has a name of 1 to {LONGEST_NAME} characters.", "name")
    held = frozenset(grants) | {Permission.SEE}
    if Permission.REPLY_WITHOUT_APPROVAL in held and held.isdisjoint(
        {Permission.REPLY_PUBLICLY, Permission.REPLY_PRIVATELY}
    ):
        raise Invalid("To reply without approval a role has to be able to reply.", "permissions")
    return said, held


def check_within(giver: HeldRole, *others: HeldRole) -> None:
    """Raise NotAllowed unless the giver's own role holds all that these hold: nobody hands out more than they have,
    nor changes what somebody is who has more."""
    more = sorted(WORDS[p] for other in others for p in other.grants - giver.grants)
    if more:
        raise NotAllowed(f"Your role here ({giver.name}) does not hold all of that itself: {', '.join(more)}.")


def check_owner_stays(roles: Mapping[int, str], member: int, key: str) -> None:
    """Raise Invalid when the workspace would be left without an Owner. `roles` are the members' keys now."""
    owners = {m for m, held in roles.items() if held == Role.OWNER}
    if owners == {member} and key != Role.OWNER:
        raise Invalid("A workspace keeps at least one Owner. Make somebody else an Owner first.", "role")
