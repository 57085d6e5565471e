"""Starting roles: what each may do is written once."""

import pytest

from sorta.core.errors import NotAllowed
from sorta.core.permissions import GRANTS, Permission, Role, check_permission


def test_every_role_sees_and_only_the_owner_may_all() -> None:
    assert all(Permission.SEE in grants for grants in GRANTS.values())
    assert [r for r in Role if GRANTS[r] == frozenset(Permission)] == [Role.OWNER]


@pytest.mark.parametrize("role", list(Role))
def test_who_only_looks_on_does_not_reply_and_a_trainee_not_without_approval(role: Role) -> None:
    expected = {
        Permission.REPLY_PUBLICLY: role is not Role.OBSERVER,
        Permission.REPLY_PRIVATELY: role is not Role.OBSERVER,
        Permission.REPLY_WITHOUT_APPROVAL: role not in (Role.OBSERVER, Role.TRAINEE),
        Permission.APPROVE: role in (Role.OWNER, Role.LEAD),
    }
    for permission, may in expected.items():
        if may:
            check_permission(role, permission)
        else:
            with pytest.raises(NotAllowed, match=role.value.capitalize()):
                check_permission(role, permission)
