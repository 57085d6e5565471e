"""Roles as sets of permissions: what each starting role may do is written once, and nobody hands out more than they have."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorta.core.errors import Invalid, NotAllowed
from sorta.core.permissions import (
    STARTING,
    WORDS,
    HeldRole,
    Permission,
    Role,
    check_owner_stays,
    check_permission,
    check_role,
    check_within,
)

GRANTS = st.frozensets(st.sampled_from(list(Permission)))


def make(grants: frozenset[Permission], name: str = "Night shift") -> HeldRole:
    return HeldRole(key="own-1", name=name, grants=grants)


def test_every_role_sees_and_only_the_owner_may_all() -> None:
    assert all(Permission.SEE in role.grants for role in STARTING.values())
    assert [key for key, role in STARTING.items() if role.grants == frozenset(Permission)] == [Role.OWNER]
    assert set(WORDS) == set(Permission)


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
            check_permission(STARTING[role], permission)
        else:
            with pytest.raises(NotAllowed, match=role.value.capitalize()):
                check_permission(STARTING[role], permission)


@given(GRANTS, GRANTS)
def test_nobody_hands_out_what_they_do_not_hold(mine: frozenset[Permission], given: frozenset[Permission]) -> None:
    if given <= mine:
        check_within(make(mine), make(given))
    else:
        with pytest.raises(NotAllowed, match="does not hold"):
            check_within(make(mine), make(given))


@given(GRANTS, st.lists(GRANTS, max_size=4))
def test_however_roles_are_made_of_roles_nobody_comes_to_more(
    mine: frozenset[Permission], tries: list[frozenset[Permission]]
) -> None:
    role = make(mine)
    for grants in tries:
        try:
            check_within(role, make(grants))
        except NotAllowed:
            continue
        role = make(grants)
        assert role.grants <= mine


def test_a_role_is_tidied_and_always_sees() -> None:
    assert check_role("  Night   shift ", [Permission.SORT]) == ("Night shift", {Permission.SEE, Permission.SORT})
    for name in ("", " ", "x" * 41):
        with pytest.raises(Invalid) as told:
            check_role(name, [])
        assert told.value.field == "name"
    with pytest.raises(Invalid, match="able to reply"):
        check_role("x", [Permission.REPLY_WITHOUT_APPROVAL])


def test_the_last_owner_stays() -> None:
    check_owner_stays({1: "owner", 2: "owner", 3: "lead"}, 1, "lead")
    check_owner_stays({1: "owner", 2: "lead"}, 2, "observer")
    check_owner_stays({1: "owner", 2: "lead"}, 1, "owner")
    with pytest.raises(Invalid, match="at least one Owner"):
        check_owner_stays({1: "owner", 2: "lead"}, 1, "lead")
