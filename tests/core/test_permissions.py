"""Starting roles: what each may do is written once."""

import pytest

from sorta.core.errors import NotAllowed
from sorta.core.permissions import GRANTS, Permission, Role, check_permission


def test_every_role_sees_and_only_the_owner_may_all() -> None:
    assert all(Permission.SEE in grants for grants in GRANTS.values())
    assert [r for r in Role if GRANTS[r] == frozenset(Permission)] == [Role.OWNER]


@pytest.mark.parametrize("role", [Role.TRAINEE, Role.OBSERVER])
def test_nobody_replies_whose_replies_need_approval_or_who_only_looks_on(role: Role) -> None:
    for permission in (Permission.REPLY_PUBLICLY, Permission.REPLY_PRIVATELY):
        with pytest.raises(NotAllowed, match=role.value.capitalize()):
            check_permission(role, permission)
