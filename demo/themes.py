"""What people write to the Brinewick Trust about: how often, where, and how the team files it. The texts are in demo/texts."""

from dataclasses import dataclass
from functools import cached_property

from demo.exchanges import Exchange, read


@dataclass(frozen=True)
class Theme:
    """What some people write about. `like` is how often we like it on the network; `posts` are those it belongs under."""

    name: str
    priority: int = 1
    weight: int = 3
    settle: str = "answered"
    posts: tuple[str, ...] = ()
    tags: tuple[str, ...] = ()
    person_tag: str | None = None
    networks: tuple[str, ...] = ("commonfold", "commonfold", "pixfern", "quillet", "hushline")
    like: float = 0.0
    #: What comes back to the same people again and again.
    has_regulars: bool = False

    @cached_property
    def exchanges(self) -> tuple[Exchange, ...]:
        return read(self.name)


HOURS = Theme(
    "hours",
    weight=6,
    tags=("opening hours",),
    posts=("Winter hours", "Timed entry in the holidays", "Night at the reef", "Morning round"),
)
REFUND = Theme(
    "refund",
    priority=2,
    weight=5,
    tags=("refund",),
    posts=("Timed entry in the holidays", "Night at the reef", "Winter hours"),
    networks=("hushline", "hushline", "commonfold", "pixfern"),
)
QUEUE = Theme(
    "queue",
    priority=2,
    weight=4,
    posts=("Timed entry in the holidays", "Winter hours"),
    tags=("queueing", "complaint"),
    networks=("commonfold", "pixfern", "quillet"),
)
RAY = Theme(
    "ray", priority=3, weight=0, posts=("Meet the touch pool",), tags=("animal care",), networks=("commonfold",)
)
PRAISE = Theme(
    "praise",
    priority=0,
    weight=7,
    settle="no_reply_needed",
    tags=("praise",),
    networks=("commonfold", "pixfern", "pixfern", "quillet", "loopreel"),
    like=0.5,
    has_regulars=True,
)
OCTOPUS = Theme(
    "octopus",
    priority=0,
    weight=0,
    settle="no_reply_needed",
    posts=("Name the new octopus",),
    tags=("naming week",),
    networks=("commonfold",),
)
FRIENDS = Theme(
    "friends",
    weight=5,
    priority=0,
    settle="no_reply_needed",
    posts=(
        "Pip found the bubble machine",
        "Seal versus bubble machine",
        "Seal versus bubble machine, part two",
        "Pip, four months",
    ),
    networks=("loopreel", "loopreel", "pixfern"),
    has_regulars=True,
)
SCHOOL = Theme(
    "school",
    weight=3,
    tags=("group visit",),
    person_tag="school",
    posts=("Winter hours", "Night at the reef"),
    networks=("commonfold", "hushline"),
)
PASS = Theme(
    "pass",
    weight=6,
    tags=("membership",),
    person_tag="season pass",
    posts=("Night at the reef", "Winter hours", "Morning round"),
    networks=("pixfern", "commonfold", "hushline", "quillet"),
)
QUESTIONS = Theme(
    "questions",
    priority=0,
    weight=5,
    tags=("children ask",),
    posts=(
        "The jellyfish hall is open again",
        "How an octopus opens a lid",
        "Sea gooseberries",
        "Morning round",
        "Pip found the bubble machine",
        "Winter hours",
    ),
    networks=("commonfold", "pixfern", "loopreel", "quillet"),
    has_regulars=True,
)
SPAM = Theme("spam", weight=3, priority=0, settle="junk", networks=("commonfold", "pixfern", "loopreel"))
TROLL = Theme("troll", weight=0, priority=0, settle="junk", networks=("commonfold",))
PRESS = Theme(
    "press",
    priority=3,
    weight=0,
    tags=("press",),
    person_tag="press",
    networks=("hushline",),
)
GARDEN = Theme("garden", weight=4, tags=("garden",), networks=("commonfold", "hushline"))
REVIEW = Theme("review", weight=5, tags=("review",), networks=("verdica",))
FORM = Theme("form", weight=2, tags=("form",), networks=("commonfold",))
COMPANY = Theme("company", weight=2, tags=("company",), networks=("workbarn",))
STORY = Theme(
    "story",
    priority=0,
    weight=3,
    settle="no_reply_needed",
    tags=("story",),
    networks=("pixfern",),
    like=0.7,
    has_regulars=True,
)

AQUARIUM_THEMES = (
    HOURS, REFUND, QUEUE, PRAISE, FRIENDS, SCHOOL, PASS, QUESTIONS, SPAM, REVIEW, FORM, COMPANY, STORY,
)  # fmt: skip

#: Said in public about the place, to nobody in particular: (network, text).
TALK = (
    ("quillet", "Anybody been to brinewick lately? Is it any good with a pram"),
    ("quillet", "somebody at brinewick has to explain to me how that octopus opened the lid TWICE"),
    ("pixfern", "brinewick at closing time, when the light goes green"),
    ("quillet", "the brinewick queue is a lifestyle now"),
    ("pixfern", "Third date. Brinewick. He knew all the rays by name."),
)
