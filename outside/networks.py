"""The made-up networks and what each lets a page do."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Network:
    """What a network takes from a page's API client, in its own terms."""

    key: str
    name: str
    public: bool
    private: bool
    private_to_public: bool
    handle_in_front: bool
    limit: int
    window_hours: int | None = None
    kinds: tuple[str, ...] = ()


NETWORKS = {
    n.key: n
    for n in (
        Network(
            "commonfold",
            "Commonfold",
            True,
            True,
            True,
            False,
            2000,
            kinds=("comment", "reply", "visitor_post", "private"),
        ),
        Network("quillet", "Quillet", True, True, False, True, 300, kinds=("mention", "reply", "private")),
        Network("hushline", "Hushline", False, True, False, False, 4000, 24, kinds=("private",)),
    )
}
