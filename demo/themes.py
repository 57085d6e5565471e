"""What people write to the Brinewick Trust, and what it answers. All invented."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Theme:
    """What some people write about: first words, what they say after our answer, and our answers.

    Texts may hold {day}, {time}, {n}, {booking} and {animal}, which are filled in anew each time.
    `like` is how often we like it on the network. With several `languages`, texts stand in their order, again and again.
    """

    openings: tuple[str, ...]
    answers: tuple[str, ...] = ()
    follow: tuple[str, ...] = ()
    priority: int = 1
    weight: int = 3
    note: tuple[str, ...] = ()
    settle: str = "answered"
    posts: tuple[str, ...] = ()
    tags: tuple[str, ...] = ()
    person_tag: str | None = None
    networks: tuple[str, ...] = ("commonfold", "commonfold", "pixfern", "quillet", "hushline")
    like: float = 0.0
    languages: int = 1


HOURS = Theme(
    (
        "what time is the last entry on {day}?",
        "Hi, is {time} too late to come in on a {day}",
        "How much is it for two adults and {n} kids?",
        "can you leave and come back in the same day",
        "Is the {animal} feeding on {day} as well?",
        "Are you open on {day} evening or is that only for members",
        "is it busy right now? thinking of coming at {time}",
        "We land at {time} on {day}, is it worth it for an hour and a half?",
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
    tags=("opening hours",),
)
REFUND = Theme(
    (
        "Booking {booking}: paid twice, got one ticket. Please look",
        "Can I get my money back for {booking}? Two of us have the flu",
        "I need an invoice for booking {booking}, {n} people, thank you",
        "{booking} shows the wrong day, it says {day} and I am sure I chose Saturday",
        "your checkout froze at {time} and now I have no idea whether I bought {n} tickets or none",
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
    tags=("refund",),
    networks=("hushline", "hushline", "commonfold", "pixfern"),
)
QUEUE = Theme(
    (
        "{n} minutes in the rain. With a ticket for {time}. With a toddler.",
        "Why do you sell a slot for {time} when the door opens when it likes?",
        "waited {n} minutes, nobody told us anything, we left. Want my money back",
        "The queue on {day} was a joke. Not the funny kind",
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
    tags=("queueing", "complaint"),
    networks=("commonfold", "pixfern", "quillet"),
)
RAY = Theme(
    (
        "the ray again. on {day} it was swimming on its side, is that normal",
        "saw the ray at {time}, left wing looks torn. please have somebody look",
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
    tags=("animal care",),
    networks=("commonfold",),
)
PRAISE = Theme(
    (
        "{day} at {time}, empty hall, just me and the {animal}. Thank you",
        "we stayed {n} minutes with the {animal} and nobody wanted to leave",
        "the {animal} made my week",
        "Whoever looks after the {animal}: you are doing it right",
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
    tags=("praise",),
    networks=("commonfold", "pixfern", "pixfern", "quillet", "loopreel"),
    like=0.5,
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
    tags=("naming week",),
    networks=("commonfold",),
)
FRIENDS = Theme(
    (
        "@tidepool_tess tag yourself i am the machine",
        "@ray_watcher 👀",
        "@wetsocks_will you on {day}",
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
    networks=("loopreel", "loopreel", "pixfern"),
)
SCHOOL = Theme(
    (
        "We are {n} pupils and three teachers, could we come on {day} at {time}?",
        "Do teachers pay? {n} children, second week of December",
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
    tags=("group visit",),
    person_tag="school",
    networks=("commonfold", "hushline"),
)
PASS = Theme(
    (
        "¿Puedo pagar el carné anual en el museo el {day}?",
        "Ich habe die Jahreskarte verloren, was kostet eine neue?",
        "Hvornår udløber mit årskort? Jeg købte det en {day}",
        "Est-ce que le pass est valable à {time} ou seulement le matin ?",
        "Czy z kartą roczną mogę wejść o {time} bez kolejki?",
        "Is the pass valid on {day} evenings too?",
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
    tags=("membership",),
    person_tag="season pass",
    languages=6,
    networks=("pixfern", "commonfold", "hushline", "quillet"),
)
QUESTIONS = Theme(
    (
        "does the {animal} know its name",
        "what does the {animal} eat on {day}s",
        "how old is the oldest {animal} you have",
        "is the {animal} a boy or a girl or does it not matter",
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
    tags=("children ask",),
    networks=("commonfold", "pixfern", "loopreel", "quillet"),
)
SPAM = Theme(
    (
        "Boost your page today {n}% cheaper, link in bio",
        "hello dear, i am alone and looking for honest friend, write me at private",
        "EARN 900 A DAY from home, ask me how ➡️ link in profile",
        "Cheap followers!! 10k for 5 only today",
        "Congratulation dear page you have been selected, contact our manager now",
        "I made back all my money thanks to Mr. Fenwick the trader, write him",
    ),
    weight=2,
    priority=0,
    settle="junk",
    tags=(),
    networks=("commonfold", "pixfern", "loopreel"),
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
    networks=("commonfold",),
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
    tags=("press",),
    person_tag="press",
    networks=("hushline",),
)
GARDEN = Theme(
    (
        "is the glasshouse open on {day} at {time}?",
        "how do i get rid of {n} slugs. asking for my hostas",
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
    tags=("garden",),
    networks=("commonfold", "hushline"),
)

REVIEW = Theme(
    (
        "Lovely jellyfish hall, but forty minutes outside in the rain with timed entry is not good enough.",
        "Quiet, clean, kind people. The reef alone is worth the ticket.",
        "Small but very well looked after. Too expensive for {n} people though.",
        "Too crowded on {day}. Could not see the {animal} for all the prams.",
        "The keepers know everything and talk to children as if they were people.",
        "Toilets at the side entrance were out of order, the rest was wonderful",
        "We came for the {animal}, it was asleep. Still five stars, it looked comfortable.",
        "Overpriced. Café ran out of soup at {time}.",
        "My third visit. It gets better.",
        "Parking is a disaster and the signs send you in a circle.",
    ),
    (
        "Thank you for writing this down. The queue that day was our fault; we have put two more people on the door.",
        "Thank you. I have read this out in the morning meeting, and there was some blushing.",
        "You are right about the signs. New ones come up this month.",
    ),
    weight=4,
    tags=("review",),
    networks=("verdica",),
)
FORM = Theme(
    (
        "Group visit form. School: Sandbakke, children: {n}, day: {day}, wish: keeper's talk.",
        "Group visit form. Club: Harbour swimmers, people: {n}, day: {day}, wish: none.",
        "Birthday form. Child turns {n} on {day}, eight guests, no nuts please.",
        "Lost and found form. One green mitten, left hand, lost near the {animal} at {time}.",
    ),
    (
        "Thank you, we have it. You get the confirmation by mail today.",
        "Found. It is waiting at the desk in a very small envelope.",
    ),
    ("Thank you!",),
    weight=2,
    tags=("form",),
    networks=("commonfold",),
)
COMPANY = Theme(
    (
        "Is the diver's job open to somebody with a commercial licence from abroad?",
        "Impressive numbers on the pumps. Which manufacturer, if I may ask?",
        "We supply acrylic panels and would like to talk to whoever buys for you",
        "Great team to work with, I dived there for {n} years",
        "Would you share the power figures at our harbour engineers' evening on {day}?",
    ),
    (
        "Yes, as long as it is valid here by the first day. Write to the address in the post.",
        "Thank you. I have passed it to our technical team; they will write to you.",
    ),
    ("Thank you, will do.",),
    weight=2,
    tags=("company",),
    person_tag=None,
    networks=("workbarn",),
)
STORY = Theme(
    (
        "us at the {animal} window at {time} 🫧",
        "day {n} of asking to be adopted by these people",
        "he has not blinked since {time}",
        "found my new office @brinewick",
    ),
    ("He is like that. Lovely picture, may we show it?",),
    ("of course!!", "sure, just tag me"),
    priority=0,
    weight=3,
    settle="no_reply_needed",
    tags=("story",),
    networks=("pixfern",),
    like=0.7,
)

AQUARIUM_THEMES = (
    HOURS,
    REFUND,
    QUEUE,
    RAY,
    PRAISE,
    OCTOPUS,
    FRIENDS,
    SCHOOL,
    PASS,
    QUESTIONS,
    SPAM,
    REVIEW,
    FORM,
    COMPANY,
    STORY,
)

#: Said in public about the place, to nobody in particular: (network, text).
TALK = (
    ("quillet", "Anybody been to brinewick lately? Is it any good with a pram"),
    ("quillet", "somebody at brinewick has to explain to me how that octopus opened the lid TWICE"),
    ("pixfern", "brinewick at closing time, when the light goes green"),
    ("quillet", "the brinewick queue is a lifestyle now"),
    ("pixfern", "Third date. Brinewick. He knew all the rays by name."),
)
