"""Account groups: what makes one, and when passing a conversation on crosses from one to another. Used by services."""

from collections.abc import Collection, Mapping

from sorta.core.titles import check_title

LONGEST_NAME = 60
MOST_GROUPS = 200


def check_group(name: str, others: Collection[str]) -> str:
    """A group's name as it is kept; `others` are the names there are. Raises Invalid."""
    return check_title(name, "A group’s name", LONGEST_NAME, others=others, one="a group")


def crosses_groups(groups: Mapping[int, Collection[int]], giver: int, taker: int) -> bool:
    """Whether a conversation goes from the members of some of its account's groups to others': `groups` are those groups with their
    members. Who is in none of them is no stranger to any."""
    of_giver = {group for group, members in groups.items() if giver in members}
    of_taker = {group for group, members in groups.items() if taker in members}
    return bool(of_giver) and bool(of_taker) and of_giver.isdisjoint(of_taker)
