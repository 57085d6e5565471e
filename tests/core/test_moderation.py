"""What can be done on which network, straight from the table of docs/trade.md 7."""

import pytest

from sorta.core.moderation import get_moderation_obstacle
from sorta.core.ports import Moderation
from sorta.networks.abilities import TABLE

CAN = {
    "commonfold": {"like", "hide", "delete", "block"},
    "pixfern": {"like", "hide", "delete", "block"},
    "quillet": {"like", "repost"},
    "loopreel": {"like", "hide", "delete"},
    "workbarn": {"like", "delete"},
    "verdica": set(),
    "hushline": {"block"},
}
LIMITS = {"quillet": 300, "loopreel": 150}


@pytest.mark.parametrize("network", TABLE)
def test_the_table_is_the_demos(network: str) -> None:
    abilities = TABLE[network]
    can = {
        what.value
        for what in (Moderation.LIKE, Moderation.HIDE, Moderation.DELETE, Moderation.REPOST, Moderation.BLOCK)
        if get_moderation_obstacle(abilities, what, public=True, inbound=True, removed=False) is None
    }
    assert can == CAN[network]
    assert abilities.length_limit == LIMITS.get(network, abilities.length_limit)


def test_what_cannot_be_done_says_why() -> None:
    quillet = TABLE["quillet"]
    ask = {"public": True, "inbound": True, "removed": False}
    assert "only its own" in (get_moderation_obstacle(quillet, Moderation.DELETE, **ask) or "")
    assert get_moderation_obstacle(quillet, Moderation.DELETE, **{**ask, "inbound": False}) is None
    assert "no hiding" in (get_moderation_obstacle(quillet, Moderation.HIDE, **ask) or "")
    assert "removed" in (get_moderation_obstacle(quillet, Moderation.LIKE, **{**ask, "removed": True}) or "")
    assert "private" in (
        get_moderation_obstacle(TABLE["commonfold"], Moderation.HIDE, **{**ask, "public": False}) or ""
    )
    assert "only delete" in (get_moderation_obstacle(quillet, Moderation.LIKE, **{**ask, "inbound": False}) or "")
