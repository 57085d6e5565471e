"""Who may do what: permissions and the starting roles (PRODUCT.md 8). Checked in services only."""

from enum import StrEnum

from sorta.core.errors import NotAllowed


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


class Role(StrEnum):
    """The starting roles."""

    OWNER = "owner"
    LEAD = "lead"
    RESPONDER = "responder"
    TRAINEE = "trainee"
    OBSERVER = "observer"


_RESPONDER = frozenset(
    {
        Permission.SEE,
        Permission.SORT,
        Permission.REPLY_PUBLICLY,
        Permission.REPLY_PRIVATELY,
        Permission.REPLY_WITHOUT_APPROVAL,
        Permission.MODERATE,
        Permission.MANAGE_TAGS,
    }
)

#: A trainee's replies all need approval.
GRANTS: dict[Role, frozenset[Permission]] = {
    Role.OWNER: frozenset(Permission),
    Role.LEAD: _RESPONDER
    | {
        Permission.APPROVE,
        Permission.MANAGE_REPLIES,
        Permission.EXPORT,
        Permission.MANAGE_RULES,
        Permission.MANAGE_MEMBERS,
        Permission.HOLD_OUTGOING,
    },
    Role.RESPONDER: _RESPONDER,
    Role.TRAINEE: frozenset({Permission.SEE, Permission.SORT, Permission.REPLY_PUBLICLY, Permission.REPLY_PRIVATELY}),
    Role.OBSERVER: frozenset({Permission.SEE}),
}

_NEEDED_FOR = {
    Permission.SEE: "see this workspace",
    Permission.SORT: "change conversations",
    Permission.REPLY_PUBLICLY: "reply publicly",
    Permission.REPLY_PRIVATELY: "reply privately",
    Permission.REPLY_WITHOUT_APPROVAL: "reply without approval",
    Permission.APPROVE: "approve replies",
    Permission.MODERATE: "act on what others wrote on a network",
    Permission.MANAGE_REPLIES: "change saved replies and links",
    Permission.MANAGE_TAGS: "add tags",
    Permission.EXPORT: "export",
    Permission.MANAGE_ACCOUNTS: "manage accounts",
    Permission.MANAGE_RULES: "change rules, policies, working hours and targets",
    Permission.MANAGE_MEMBERS: "say when others work",
    Permission.HOLD_OUTGOING: "hold what goes out",
}


def check_permission(role: Role, permission: Permission) -> None:
    """Raise NotAllowed, in words, unless the role holds the permission."""
    if permission not in GRANTS[role]:
        raise NotAllowed(
            f"Your role here ({role.value.capitalize()}) may not {_NEEDED_FOR[permission]}. "
            "Ask an Owner of the workspace."
        )
