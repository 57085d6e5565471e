"""The Aquarium's saved replies and kept links: what its answers in the history were made from. Used by demo.stories."""

from datetime import datetime

from demo import themes
from demo.load import Loader
from sorta.core.texts import SavedReplyBody
from sorta.services import links, texts
from sorta.services.house import Scope

LINKS = (
    ("tickets", "https://www.brinewick.example/tickets"),
    ("groups", "https://www.brinewick.example/visit/groups?from=desk"),
    ("map", "https://www.brinewick.example/visit/step-free-map"),
)
#: Theme, which of its answers, name, shortcut, language, and what is written in place of the answer.
REPLIES = (
    (themes.HOURS, 0, "Opening hours", "hours", None, None),
    (themes.HOURS, 1, "Quiet hours", "quiet", None, None),
    (themes.HOURS, 2, "Feedings", "feeding", None, None),
    (themes.HOURS, 3, "Step-free visit", "stepfree", None,
     "There is a lift by the side entrance and plenty of room for a pram. The step-free map: {link:map}"),
    (themes.REFUND, 0, "Refund on its way", "refund", None, None),
    (themes.REFUND, 1, "Which booking", "booking", None,
     "I am sorry about that, {first name}. Could you send me the booking number, so that I can look it up?"),
    (themes.REFUND, 2, "Tickets moved", "moved", None, None),
    (themes.REFUND, 3, "Ferry cancelled", "ferry", None, None),
    (themes.QUEUE, 0, "Sorry about the queue", "queue", None,
     "I am sorry you were left standing in the rain, {first name}. Two tills were down; it should not have taken that long."
     " May I make up for it?"),
    (themes.QUEUE, 1, "Passed on to the front desk", "desk", None, None),
    (themes.SCHOOL, 0, "Group visit", "school", None,
     "How lovely. Groups from 10 children pay the group price and get a table in the dining hall: {link:groups}"
     " Could you send the date and how many adults?"),
    (themes.SCHOOL, 1, "Keeper's talk", "talk", None, None),
    (themes.PRAISE, 2, "Thanks", "thanks", None, None),
    (themes.PASS, 0, "Pase anual: los dos lugares", "pase", "es", None),
    (themes.PASS, 1, "Jahreskarte: alle Tage", "karte", "de", None),
    (themes.PASS, 2, "Årskort: to voksne", "kort", "da", None),
    (themes.PASS, 3, "Carte annuelle: enfants", "carte", "fr", None),
    (themes.PASS, 4, "Karta roczna: wystawy", "karta", "pl", None),
)  # fmt: skip
ACKNOWLEDGEMENT = "Thank you for telling us, {first name}. Somebody from the team is looking into it now."


async def add_saved_replies(loader: Loader, scope: Scope, now: datetime) -> int:
    """The kept links and the saved replies; the number of the one that complaints are acknowledged with."""
    house = loader.house
    for name, target in LINKS:
        await links.set_kept(house, scope, name, target, now)
    for theme, which, name, shortcut, language, text in REPLIES:
        said = theme.answers[which]
        body = SavedReplyBody(name=name, text=text or said, shortcut=shortcut, language=language)
        loader.saved[scope.workspace_id, said] = await texts.add_saved_reply(house, scope, body, now)
    heard = SavedReplyBody(name="We heard you", text=ACKNOWLEDGEMENT, shortcut="heard", language="en")
    return await texts.add_saved_reply(house, scope, heard, now)
