"""The Brinewick Trust and the people who write to it. All invented."""

from dataclasses import dataclass, field


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
            ("quillet", "brinewick", "Brinewick Aquarium"),
            ("hushline", "brinewick", "Brinewick Aquarium"),
        ),
    ),
    (
        "Mossgate Garden",
        (
            ("commonfold", "mossgate", "Mossgate Garden"),
            ("hushline", "mossgate", "Mossgate Garden"),
        ),
    ),
)

#: Our posts: (page, network, days ago, title, text).
POSTS = (
    (
        "brinewick",
        "commonfold",
        20.4,
        "Name the new octopus",
        "She is small, she is clever, she has already opened the lid twice. What should we call her? Write one name below until Sunday 18:00. The keepers choose three, you choose the one.",
    ),
    (
        "brinewick",
        "commonfold",
        17.2,
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
)

FIRST = [
    "Petra",
    "Jonas",
    "Rosa",
    "Amir",
    "Freya",
    "Luca",
    "Hanne",
    "Piotr",
    "Camille",
    "Diego",
    "Agnes",
    "Tomás",
    "Ines",
    "Olaf",
    "Nadia",
    "Bram",
    "Wiktoria",
    "Salma",
    "Emil",
    "Greta",
    "Yusuf",
    "Clara",
    "Henrik",
    "Lucía",
    "Marek",
    "Odile",
    "Signe",
    "Rafael",
    "Anouk",
    "Bernd",
    "Kasia",
    "Matteo",
    "Tove",
    "Ibrahim",
    "Elsa",
    "Joon",
    "Priya",
    "Viggo",
    "Marta",
    "Kofi",
    "Leonie",
    "Asger",
    "Zofia",
    "Hugo",
    "Noemi",
    "Sven",
    "Aiko",
    "Pilar",
    "Dorte",
    "Milan",
]
LAST = [
    "Lindqvist",
    "Weyer",
    "Marin",
    "Adebayo",
    "Holm",
    "Ferrand",
    "Kowal",
    "Nowicka",
    "Esteban",
    "Krüger",
    "Madsen",
    "Dufour",
    "Ilves",
    "Novak",
    "Brandão",
    "Rask",
    "Okoye",
    "Tanaka",
    "Villalba",
    "Sørby",
    "Haugen",
    "Petit",
    "Zielinska",
    "Ortega",
    "Bauer",
    "Thorsen",
    "Leclair",
    "Wrona",
    "Salas",
    "Richter",
    "Kjær",
    "Moreau",
    "Banik",
    "Castell",
    "Vogt",
    "Nyholm",
    "Fabre",
    "Gorski",
    "Ibarra",
    "Stenberg",
]
HANDLES = [
    "tidepool_tess",
    "harbour.hugo",
    "kelpfan_9",
    "nordlys.nina",
    "thebriny_b",
    "saltyaunt",
    "ray_watcher",
    "wetsocks_will",
    "mollusc.mum",
    "bookedtwice",
    "penguinpete",
    "schoolrun_sue",
    "lanternfishh",
    "quietcove",
    "driftwood_dan",
]


@dataclass(frozen=True)
class Theme:
    """What some people write about: first words, what they say after our answer, and our answers."""

    openings: tuple[str, ...]
    answers: tuple[str, ...] = ()
    follow: tuple[str, ...] = ()
    priority: int = 1
    weight: int = 3
    note: tuple[str, ...] = ()
    settle: str = "answered"
    posts: tuple[str, ...] = field(default=())


HOURS = Theme(
    (
        "Are you open on the 26th?",
        "hi what time do you close on saturdays",
        "Is it still open daily in november or only weekends?",
        "Do you let people in at half five or is that too late",
        "Is @brinewick really feeding the seals at 11 AND 3 during school week? Asking for 28 seven-year-olds.",
        "Whats the quietest hour to come? My son doesn't do well with crowds",
        "can i bring a pram in, there were steps last time",
        "Is the café open if you don't have a ticket?",
        "Are dogs allowed?? she is very small and very polite",
        "How long do people usually stay? Parking meter wants to know",
        "is there a train station near or do i need the bus",
        "Do you have lockers? coming straight from the ferry",
    ),
    (
        "We are open Monday to Friday 9 to 17 and Saturday 10 to 14. Last entry is 45 minutes before closing.",
        "The quietest hours are weekdays after 14:30. There is a calm room next to the reef as well, just ask at the desk.",
        "Yes, both feedings stay. Come ten minutes early with a group and a keeper will wave you to the low bench.",
        "There is a lift by the side entrance and plenty of room for a pram. Ask at the desk for the step-free map.",
    ),
    ("Perfect, thank you!", "great thanks", "ok and on public holidays?", "Brilliant, see you Saturday then", "thx 🙏"),
    weight=5,
)
REFUND = Theme(
    (
        "Charged twice for the family pass on Saturday, booking 48-1930. Can you refund one?",
        "I booked the wrong day, can I move two tickets from Sunday to Monday? Number 51-2204",
        "Still no refund. It has been nine days. Nine.",
        "Your site took my money and then showed me an octopus with the word 'oops'. Cute. Where are my tickets?",
        "Hello, the confirmation mail never came, payment went through at 10:12",
        "We could not come because the ferry was cancelled, is there any chance to use the tickets another day?",
        "the voucher code from my aunt says expired but it says valid until 2027 on the card??",
        "I was charged in the wrong currency i think, 412 instead of 41.20",
    ),
    (
        "Thank you for the booking number. The second charge is on its way back; it takes three working days.",
        "I am sorry about that. Could you send me the booking number, so that I can look it up?",
        "I have moved your tickets. The new confirmation should be in your mail now, do look in the spam folder as well.",
        "The tickets stay valid for a year when a ferry is cancelled. Just show the old booking at the desk.",
    ),
    (
        "It's 48-1930, name Weyer",
        "Got it now, thank you for being quick",
        "Still nothing in my account today",
        "okay. thank you. sorry for being grumpy",
        "That was fast!! thanks",
    ),
    priority=2,
    weight=4,
    note=(
        "Ticket office confirms two charges, one goes back today.",
        "Third one with this payment error this week, I told the ticket office.",
    ),
)
QUEUE = Theme(
    (
        "Forty minutes outside in the rain with timed entry. What is the slot for then?",
        "We had the 10:30 slot and came in at 11:15. Two kids, both soaked. Not good enough.",
        "love the fish hate the queue",
        "There were maybe six of us and one till open. Why.",
        "If you sell a time, let people in at that time. That's the whole idea.",
        "Queue at the side entrance is not moving at all, is somebody there??",
        "The staff were lovely, the queueing was a disgrace, both can be true",
        "Great. Standing in the rain next to a sign that says 'skip the queue'. Very funny.",
    ),
    (
        "I am sorry you were left standing in the rain. That morning two tills were down; it should not have taken that long. May I make up for it?",
        "Thank you for telling us, and I am sorry. I have passed the time and the place on to the front desk team.",
        "You are right, a slot has to mean something. We have added people at the side entrance from tomorrow.",
    ),
    (
        "Thanks for answering at least.",
        "A voucher would be nice yes",
        "Well the kids loved the seals so we'll be back",
        "Appreciate it. Honestly.",
    ),
    priority=2,
    weight=4,
    posts=("Timed entry in the holidays",),
    note=("Front desk says the handheld scanners froze between 10:20 and 11.",),
)
RAY = Theme(
    (
        "The ray in the touch pool has a cut on its wing and nobody at the desk would listen. Who do I talk to?",
        "is the ray ok?? people are saying it's bleeding",
        "My daughter saw the hurt ray and cried the whole way home. What is going on?",
        "A child was pulling the ray's tail and no keeper in sight. For ten minutes.",
        "Please tell me somebody has looked at that ray. The one with the pale spot.",
        "Shut the touch pool. Animals are not toys.",
        "I study marine biology, that looks like an old bite mark, not a fresh cut. But do check",
        "so is the vet coming or not",
    ),
    (
        "Thank you for telling us. Our keeper is at the pool now and the vet is on her way.",
        "The ray has been seen by our vet. It is a healed mark from last year, and she is eating well. The pool is closed until tomorrow so that she has some quiet.",
        "Which side of the pool was it, and about what time?",
    ),
    (
        "Left side, near the steps, ten minutes ago. I have a photo but I am not posting it here.",
        "Thank you. That's a relief.",
        "ok but why was nobody there?",
        "Please keep us posted",
    ),
    priority=3,
    weight=3,
    posts=("Meet the touch pool",),
    note=(
        "Keeper Dov is walking over now. Please keep her on this thread until he calls back.",
        "Vet looked at 14:10: healed scar, no treatment. Wording agreed with Sam.",
    ),
)
PRAISE = Theme(
    (
        "Best afternoon in ages, thank you 🐧",
        "The keeper with the green cap explained penguins to my 4yo for twenty minutes. Give her a raise",
        "we came for one hour and stayed for five",
        "Never thought I'd cry over a sea horse but here we are",
        "Lovely jellyfish hall. I could have sat there until closing.",
        "Thank you for the quiet hour, first time my son could see everything 💙",
        "10/10 seals",
        "My grandmother says it is almost as good as in 1961. From her that is a rave.",
    ),
    (
        "Thank you, that made our morning. I will tell her.",
        "Thank you for coming, and tell your grandmother that we are working on it.",
        "We are so glad. See you again soon.",
    ),
    ("😊", "❤️"),
    priority=0,
    weight=5,
    settle="no_reply_needed",
)
OCTOPUS = Theme(
    (
        "Inky",
        "Inky McInkface obviously",
        "Octavia!!",
        "Eight-Legged Edith",
        "Sir Squeezealot",
        "Lady Suction 🐙",
        "Clementine",
        "Ottoline",
        "Tako",
        "Wanda",
        "Doctor Arms",
        "my son (5) says Gary. just Gary",
        "Inky gets my vote 🐙🐙 naming week is the best thing on here",
        "Marmelade",
        "Bathsheba",
        "Lid Vicious",
        "Kraken junior",
        "Squid Pro Quo (yes i know)",
        "Perle",
        "Nautilina",
        "Is it too late? Then: Hildegard",
        "Houdini, she opened the lid TWICE",
        "Blæk",
        "Tinta",
        "Pulpetta",
    ),
    ("It is on the list, thank you.", "Gary is on the list. Just Gary."),
    ("yesss", "when do we know??"),
    priority=0,
    weight=9,
    settle="no_reply_needed",
    posts=("Name the new octopus",),
)
FRIENDS = Theme(
    (
        "@kelpfan_9 you",
        "@nordlys.nina this is literally us 😂",
        "@saltyaunt look",
        "@penguinpete Monday mood",
        "@quietcove 🫧🫧🫧",
        "@harbour.hugo we are going",
    ),
    weight=4,
    priority=0,
    settle="no_reply_needed",
    posts=("Pip found the bubble machine",),
)
SCHOOL = Theme(
    (
        "Hello, I would like to come with 28 children (second grade) in the week of 8 December. What do I need to book?",
        "Do group prices count from 10 or from 15 children?",
        "Is there a room where a class can eat their sandwiches? Last time we sat on the stairs",
        "Could a keeper talk to our class about whales for 20 minutes? We'd pay of course",
        "We are a nature club of 12 kids aged 9 to 11, is the night at the reef something for us?",
    ),
    (
        "How lovely. Groups from 10 children pay the group price and get a table in the dining hall. Could you send the date and how many adults?",
        "A keeper's talk is possible on weekday mornings. I am asking which day suits and come back to you today.",
    ),
    (
        "Wednesday the 10th, 28 children and 4 adults. Allergies: two nuts, one gluten.",
        "Wonderful, thank you so much",
        "And what does it cost?",
    ),
    weight=2,
    note=("10 December is free, Dov can do the talk at 10:30.",),
)
PASS = Theme(
    (
        "¿El carné anual vale también para el jardín botánico?",
        "Gilt die Jahreskarte auch an Feiertagen?",
        "Kan man dele et årskort i familien?",
        "Bonjour, le pass annuel est-il remboursable en cas de déménagement ?",
        "Czy karta roczna obejmuje też wystawy czasowe?",
        "Does the annual pass include the night evenings?",
        "Hola, perdí mi carné, ¿cómo pido otro?",
        "Wir haben die Karte heute gekauft, ab wann gilt sie?",
        "Mit årskort virker ikke i lågen ved havnen",
        "Est-ce qu'un enfant de 3 ans a besoin d'un pass ?",
        "Dzień dobry, czy mogę zapłacić w ratach?",
    ),
    (
        "Sí, el carné vale en los dos lugares. ¡Hasta pronto!",
        "Ja, an allen Öffnungstagen. Sie gilt ab dem Tag des Kaufs.",
        "Ja, to voksne på samme adresse kan dele det.",
        "Jusqu'à quatre ans, l'entrée est gratuite.",
        "Tak, wszystkie wystawy są w cenie.",
        "Yes, with the pass the evenings are half price.",
    ),
    ("Gracias!", "Danke schön", "Tusind tak", "Merci beaucoup", "Dziękuję", "Perfect"),
    weight=4,
)
QUESTIONS = Theme(
    (
        "do fish get bored",
        "Why are flamingos pink but the crabs aren't if they eat the same",
        "Can an octopus see me? It looked at me. I want to know",
        "How many penguins is too many penguins",
        "Mum says jellyfish have no brain. How do they know where to go",
        "What happens when the power goes out?",
        "who feeds you when the keepers are ill",
    ),
    (
        "Short answer: yes, which is why they get puzzles on Tuesdays.",
        "She saw you. She also knows which keeper brings the mussels.",
        "They do not know, and it does not seem to trouble them.",
    ),
    ("my class says thank you", "wow", "that is the best answer"),
    priority=0,
    weight=3,
)
SPAM = Theme(
    (
        "EARN 900 A DAY from home, ask me how ➡️ link in profile",
        "Cheap followers!! 10k for 5 only today",
        "Congratulation dear page you have been selected, contact our manager now",
        "I made back all my money thanks to Mr. Fenwick the trader, write him",
    ),
    weight=2,
    priority=0,
    settle="junk",
)
TROLL = Theme(
    (
        "fish jail",
        "still a fish jail i see",
        "how do you sleep at night (in your dry bed)",
        "lol 'conservation'",
        "delete your page",
    ),
    weight=1,
    priority=0,
    settle="junk",
)
PRESS = Theme(
    (
        "Good morning, I write for the Harbour Courier. I am working on a piece about touch pools and would like a comment on the injured ray by 16:00 today. Whom may I call?",
    ),
    ("Good morning, and thank you for asking us. Our curator Sam Whitlock will call you before three.",),
    ("Thank you. My number is in the signature.",),
    priority=3,
    weight=0,
    note=("Sam will call. Nothing in writing until he has.",),
)
GARDEN = Theme(
    (
        "Is the camellia house warm? my mother would love to sit there",
        "When do the snowdrops start",
        "Do I need to bring scissors on Sunday?",
        "The path by the pond was very muddy, my wheelchair got stuck",
        "Beautiful. I smelled it through the screen.",
        "Can you tell me what this plant is? It is green. I know that is not much to go on",
    ),
    (
        "It is 16 degrees and there are two benches by the stove.",
        "We have scissors for everybody, just bring gloves.",
        "I am sorry. We have put boards down this morning; the upper path is dry.",
    ),
    ("Thank you!", "lovely"),
    weight=4,
)

AQUARIUM_THEMES = (HOURS, REFUND, QUEUE, RAY, PRAISE, OCTOPUS, FRIENDS, SCHOOL, PASS, QUESTIONS, SPAM, TROLL)

NOT_ON_PRIVATE = (OCTOPUS, FRIENDS, TROLL)
