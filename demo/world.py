"""The Brinewick Trust and the people who write to it. All invented."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Member:
    name: str
    initials: str
    email: str
    role: str
    about: str


MEMBERS = (
    Member("Mara Okafor", "MO", "mara@brinewick.example", "lead", "community manager"),
    Member("Ilse Brandt", "IB", "ilse@brinewick.example", "responder", "answers most of the day"),
    Member("Teo Nakamura", "TN", "teo@brinewick.example", "responder", "answers, mostly Quillet"),
    Member("Ana Reis", "AR", "ana@brinewick.example", "trainee", "new; her replies need approval"),
    Member("Noor Haddad", "NH", "noor@brinewick.example", "owner", "owns the workspaces"),
    Member("Sam Whitlock", "SW", "sam@brinewick.example", "responder", "curator"),
    Member("Lise Dahl", "LD", "lise@brinewick.example", "observer", "board of the trust; looks on"),
)

#: Two workspaces: (name, pages by network: (network, handle, name)).
WORKSPACES = (
    (
        "Brinewick Aquarium",
        (
            ("commonfold", "brinewick", "Brinewick Aquarium"),
            ("pixfern", "brinewick", "Brinewick Aquarium"),
            ("quillet", "brinewick", "Brinewick Aquarium"),
            ("loopreel", "brinewick", "Brinewick Aquarium"),
            ("workbarn", "brinewick", "The Brinewick Trust"),
            ("verdica", "brinewick", "Brinewick Aquarium"),
            ("hushline", "brinewick", "Brinewick Aquarium"),
            ("commonfold", "brinewick-nights", "Brinewick Nights"),
        ),
    ),
    (
        "Mossgate Garden",
        (
            ("commonfold", "mossgate", "Mossgate Garden"),
            ("verdica", "mossgate", "Mossgate Garden"),
            ("hushline", "mossgate", "Mossgate Garden"),
        ),
    ),
)

#: Teams of each workspace: (name, initials of its members).
TEAMS = (
    ("Visitor care", ("MO", "IB", "TN")),
    ("Animal care", ("SW", "MO")),
    ("Membership", ("TN", "AR", "IB")),
)

#: Account groups: (name, networks, initials of its members).
GROUPS = (
    ("Public pages", ("commonfold", "pixfern", "quillet", "loopreel", "workbarn"), ("MO", "IB", "TN", "AR", "SW")),
    ("Private lines", ("hushline",), ("MO", "TN")),
    ("Reviews", ("verdica",), ("MO", "IB")),
)

#: Shared saved views of the Aquarium: (name, filters as in the address; tags and teams by name).
VIEWS = (
    ("Passes in other languages", {"move": "unsorted", "language": ["es", "de", "da", "fr", "pl"]}),
    ("Animal care", {"move": "our_move", "team": ["Animal care"]}),
    ("Nobody yet", {"move": "our_move", "owner": ["nobody"]}),
)

#: Our posts: (page, network, days ago, title, text).
POSTS = (
    (
        "brinewick",
        "commonfold",
        13.4,
        "Name the new octopus",
        "She is small, she is clever, she has already opened the lid twice. What should we call her? Write one name below until Sunday 18:00. The keepers choose three, you choose the one.",
    ),
    (
        "brinewick",
        "commonfold",
        3.4,
        "Meet the touch pool",
        "From Saturday you can meet our rays at the touch pool again. Flat hands, calm water, and a keeper at your side.",
    ),
    (
        "brinewick",
        "commonfold",
        13.1,
        "Pip found the bubble machine",
        "Nobody told our youngest seal how the bubble machine works. She has opinions about it now.",
    ),
    (
        "brinewick",
        "commonfold",
        9.3,
        "Timed entry in the holidays",
        "During the holiday weeks you book a half-hour slot for coming in. Once inside, stay as long as you like.",
    ),
    (
        "brinewick",
        "commonfold",
        5.2,
        "Night at the reef",
        "The lights go down, the reef wakes up. Three evenings in December, 18 to 21, with the biologists.",
    ),
    (
        "brinewick",
        "commonfold",
        1.3,
        "The jellyfish hall is open again",
        "New pumps, new light, and 140 moon jellies who could not care less about either.",
    ),
    (
        "brinewick",
        "quillet",
        18.0,
        "",
        "Feeding times this week: penguins 10:30, seals 11:00 and 15:00, reef 14:00. Bring a hat for the seals.",
    ),
    (
        "brinewick",
        "quillet",
        8.0,
        "",
        "A school asked whether fish sleep. Thread by our curator, with pictures of some very sleepy wrasse.",
    ),
    (
        "brinewick",
        "quillet",
        1.0,
        "",
        "The harbour road is closed on Thursday morning. Bus 14 stops at the side entrance instead.",
    ),
    ("mossgate", "commonfold", 20.5, "Leaf week", "Bring a leaf you cannot name. We will try."),
    (
        "mossgate",
        "commonfold",
        12.0,
        "The camellia house",
        "First flowers of the winter. It smells of tea and wet stone.",
    ),
    (
        "mossgate",
        "commonfold",
        3.0,
        "Wreath afternoon",
        "Sunday at two in the potting shed: moss, fir and holly, and somebody who knows how to hold it together.",
    ),
    (
        "brinewick",
        "pixfern",
        26.0,
        "Morning round",
        "06:40. Nobody here but us and 2,000 herring who think you are breakfast.",
    ),
    ("brinewick", "pixfern", 15.0, "Pip, four months", "Four months, 22 kilos, one favourite boot."),
    ("brinewick", "pixfern", 2.2, "Sea gooseberries", "They have no colour at all. The rainbow is the light."),
    ("brinewick", "loopreel", 24.0, "Seal versus bubble machine", "Part one of we do not know how many."),
    ("brinewick", "loopreel", 11.0, "How an octopus opens a lid", "Twice. We have changed the lid."),
    ("brinewick", "loopreel", 2.6, "Seal versus bubble machine, part two", "She has learned. So has the machine."),
    (
        "brinewick",
        "workbarn",
        22.0,
        "We are looking for a diver",
        "Two days a week, cold water, very good company. Write to us until the end of the month.",
    ),
    (
        "brinewick",
        "workbarn",
        6.0,
        "New pumps",
        "Forty per cent less power for the jellyfish hall. Thank you to everybody who crawled under the floor.",
    ),
)

#: What the team has saved: (name, facts, (days from now, words, who) or None).
RECORDS = (
    (
        "Thea Aldercott",
        (("Note", "Harbour Courier. Prefers a call to a mail."), ("Phone", "555 0142")),
        (-0.05, "Ask whether the piece on touch pools has come out", "MO"),
    ),
    (
        "Salt & Lens",
        (("Note", "Takes pictures before opening; always credits."), ("Mail", "studio@saltandlens.example")),
        (2, "Send the dates for the early mornings in December", "MO"),
    ),
    (
        "Jorinde Castell",
        (("Customer number", "B-2207"), ("Pass", "family, until June")),
        (1, "Has the refund arrived?", "TN"),
    ),
    ("benji.films", (("Note", "93 reach; answer himself, no agency."),), None),
)
