"""The Aquarium's saved replies and kept links: what its answers in the history were made from. Used by demo.stories."""

from datetime import datetime

from demo.exchanges import SHARED
from demo.load import Loader
from sorta.core.texts import SavedReplyBody
from sorta.services import links, texts
from sorta.services.house import Scope

LINKS = (
    ("tickets", "https://www.brinewick.example/tickets"),
    ("groups", "https://www.brinewick.example/visit/groups?from=desk"),
    ("map", "https://www.brinewick.example/visit/step-free-map"),
)
#: Which of the shared answers, its name, its shortcut, its language, and what is written in place of the answer.
REPLIES = (
    ("hours", "Opening hours", "hours", None, None),
    ("quiet", "Quiet hours", "quiet", None, None),
    ("feeding", "Feedings", "feeding", None, None),
    ("stepfree", "Step-free visit", "stepfree", None,
     "There is a lift by the side entrance and plenty of room for a pram. The step-free map: {link:map}"),
    ("refund", "Refund on its way", "refund", None, None),
    ("booking", "Which booking", "booking", None,
     "I am sorry about that, {first name}. Could you send me the booking number, so that I can look it up?"),
    ("moved", "Tickets moved", "moved", None, None),
    ("ferry", "Ferry cancelled", "ferry", None, None),
    ("queue", "Sorry about the queue", "queue", None,
     "I am sorry you were left standing in the rain, {first name}. Two tills were down; it should not have taken that long."
     " May I make up for it?"),
    ("desk", "Passed on to the front desk", "desk", None, None),
    ("school", "Group visit", "school", None,
     "How lovely. Groups from 10 children pay the group price and get a table in the dining hall: {link:groups}"
     " Could you send the date and how many adults?"),
    ("talk", "Keeper's talk", "talk", None, None),
    ("thanks", "Thanks", "thanks", None, None),
    ("evenings", "Pass: evenings", "evenings", "en", None),
    ("pase", "Pase anual: los dos lugares", "pase", "es", None),
    ("karte", "Jahreskarte: alle Tage", "karte", "de", None),
    ("kort", "Årskort: to voksne", "kort", "da", None),
    ("carte", "Carte annuelle: enfants", "carte", "fr", None),
    ("karta", "Karta roczna: wystawy", "karta", "pl", None),
)  # fmt: skip
ACKNOWLEDGEMENT = "Thank you for telling us, {first name}. Somebody from the team is looking into it now."


async def add_saved_replies(loader: Loader, scope: Scope, now: datetime) -> int:
    """The kept links and the saved replies; the number of the one that complaints are acknowledged with."""
    house = loader.house
    for name, target in LINKS:
        await links.set_kept(house, scope, name, target, now)
    for key, name, shortcut, language, text in REPLIES:
        said = SHARED[key]
        body = SavedReplyBody(name=name, text=text or said, shortcut=shortcut, language=language)
        loader.saved[scope.workspace_id, said] = await texts.add_saved_reply(house, scope, body, now)
    heard = SavedReplyBody(name="We heard you", text=ACKNOWLEDGEMENT, shortcut="heard", language="en")
    return await texts.add_saved_reply(house, scope, heard, now)
