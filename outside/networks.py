"""The made-up networks and what each lets a page do."""

from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True)
class Network:
    """What a network takes from a page's API client, in its own terms.

    `acts` are the activities it takes on what others wrote; `own_deletes` says that a page may delete its own.
    """

    key: str
    name: str
    public: bool
    private: bool
    private_to_public: bool
    handle_in_front: bool
    limit: int
    window_hours: int | None = None
    private_to_public_hours: int | None = None
    kinds: tuple[str, ...] = ()
    acts: frozenset[str] = frozenset()
    own_deletes: bool = False
    one_answer: bool = False
    search: bool = False
    search_beginnings: bool = False
    attachments: bool = False


NETWORKS = {
    n.key: n
    for n in (
        Network(
            key="commonfold",
            name="Commonfold",
            public=True,
            private=True,
            private_to_public=True,
            handle_in_front=False,
            limit=2000,
            kinds=("comment", "reply", "visitor_post", "form_entry", "private"),
            acts=frozenset({"Like", "Ignore", "Delete", "Block"}),
        ),
        Network(
            key="pixfern",
            name="Pixfern",
            public=True,
            private=True,
            private_to_public=True,
            handle_in_front=True,
            limit=1000,
            window_hours=168,
            private_to_public_hours=168,
            kinds=("comment", "mention", "story_mention", "reply", "private", "talk"),
            search=True,
            acts=frozenset({"Like", "Ignore", "Delete", "Block"}),
        ),
        Network(
            key="quillet",
            name="Quillet",
            public=True,
            private=True,
            private_to_public=False,
            handle_in_front=True,
            limit=300,
            kinds=("mention", "reply", "private", "talk"),
            search=True,
            search_beginnings=True,
            acts=frozenset({"Like", "Announce"}),
            own_deletes=True,
        ),
        Network(
            key="loopreel",
            name="Loopreel",
            public=True,
            private=False,
            private_to_public=False,
            handle_in_front=False,
            limit=150,
            kinds=("comment", "reply"),
            acts=frozenset({"Like", "Ignore", "Delete"}),
        ),
        Network(
            key="workbarn",
            name="Workbarn",
            public=True,
            private=False,
            private_to_public=False,
            handle_in_front=False,
            limit=1250,
            kinds=("comment", "mention", "reply"),
            acts=frozenset({"Like", "Delete"}),
        ),
        Network(
            key="verdica",
            name="Verdica",
            public=True,
            private=False,
            private_to_public=False,
            handle_in_front=False,
            limit=2000,
            kinds=("review",),
            one_answer=True,
        ),
        Network(
            key="hushline",
            name="Hushline",
            public=False,
            private=True,
            private_to_public=False,
            handle_in_front=False,
            limit=4000,
            window_hours=24,
            kinds=("private",),
            attachments=True,
            acts=frozenset({"Block"}),
        ),
    )
}
