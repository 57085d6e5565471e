"""Who may do what: permissions and the starting roles (PRODUCT.md 8). Checked in services only."""

from enum import StrEnum

from sorta.core.errors import NotAllowed


class Permission(StrEnum):
    """What a role can hold."""

    SEE = "see"
    SORT = "sort"
    REPLY_PUBLICLY = "reply_publicly"
    REPLY_PRIVATELY = "reply_privately"
    MANAGE_ACCOUNTS = "manage_accounts"


class Role(StrEnum):
    """The starting roles."""

    OWNER = "owner"
    LEAD = "lead"
    RESPONDER = "responder"
    TRAINEE = "trainee"
    OBSERVER = "observer"


_RESPONDER = frozenset({Permission.SEE, Permission.SORT, Permission.REPLY_PUBLICLY, Permission.REPLY_PRIVATELY})

#: A trainee's replies all need approval; as long as nothing can be approved, none goes out.
GRANTS: dict[Role, frozenset[Permission]] = {
    Role.OWNER: frozenset(Permission),
    Role.LEAD: _RESPONDER,
    Role.RESPONDER: _RESPONDER,
    Role.TRAINEE: frozenset({Permission.SEE, Permission.SORT}),
    Role.OBSERVER: frozenset({Permission.SEE}),
}

_NEEDED_FOR = {
    Permission.SEE: "see this workspace",
    Permission.SORT: "change conversations",
    Permission.REPLY_PUBLICLY: "reply publicly",
    Permission.REPLY_PRIVATELY: "reply privately",
    Permission.MANAGE_ACCOUNTS: "manage accounts",
}


def check_permission(role: Role, permission: Permission) -> None:
    """Raise NotAllowed, in words, unless the role holds the permission."""
    if permission not in GRANTS[role]:
        raise NotAllowed(
            f"Your role here ({role.value.capitalize()}) may not {_NEEDED_FOR[permission]}. "
            "Ask an Owner of the workspace."
        )
