"""What happens in the demo: everyday conversations out of themes, and the storylines. `load` makes it happen."""

import json
import os
import random
import sys
import traceback
from collections.abc import Awaitable, Callable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from functools import partial
from typing import Any

import httpx
import uvloop

from demo import handed_over, outside_advice, pictures, prize_draw, saved_replies, starting_rules, themes, world
from demo.exchanges import Deck, Exchange, Filling, fits_all
from demo.load import ZONE, Done, Loader, Said, Step, Story
from demo.people import Crowd
from demo.themes import Theme
from sorta.core.approval import PolicyBody, PolicyWhen
from sorta.core.facts import SettledAs
from sorta.core.parking import ParkFor
from sorta.core.permissions import Role
from sorta.core.ports import Moderation
from sorta.core.targets import DEFAULT_MINUTES, Audience, Priority
from sorta.main import make_house, read_weights, set_up_logging
from sorta.networks.abilities import TABLE
from sorta.services import (
    acts,
    alerts,
    approvals,
    delivery,
    desk,
    hours,
    intake,
    listening,
    policies,
    profiles,
    review,
    sorting,
    tags,
)
from sorta.services.house import Scope
from sorta.settings import Settings

SEED = 8
#: Everyday conversations at full size; storylines come on top.
SETTLED = 1850
LIKES = 420
DAYS = 28
#: How long ago the octopus's naming week began.
NAMING_WEEK = timedelta(days=13.3)
#: What waits at the start: (workspace's page, state, how many).
WAITING = (
    ("brinewick", "unsorted", 46),
    ("brinewick", "our_move", 9),
    ("brinewick", "again", 5),
    ("brinewick", "their_move", 8),
    ("brinewick", "parked", 4),
    ("mossgate", "unsorted", 6),
    ("mossgate", "our_move", 3),
    ("mossgate", "parked", 1),
)
#: What has to be in an exchange for a conversation that waits so.
FITS: dict[str, Callable[[Exchange], bool]] = {
    "our_move": lambda one: one.is_answered,
    "parked": lambda one: one.is_answered,
    "their_move": lambda one: one.is_answered,
    "again": lambda one: len(one.turns) > 2,
}
#: What is told as a storyline only, or at the garden.
STORYLINES = (themes.RAY, themes.OCTOPUS, themes.GARDEN, themes.TROLL, themes.PRESS)
APPRENTICES = "Do you take apprentices in the technical team?"
LONGEST_HANDLE = 26
#: Writing and delivering an answer takes about as long as so many short acts.
ANSWER = 6.0
ANIMALS = ("octopus", "seal", "penguin", "ray", "sea horse", "wolffish", "lobster", "jellyfish")
WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday")


@dataclass(frozen=True)
class Tale:
    """A conversation to be, with what is said in it in turns: True is theirs."""

    story: Story
    turns: tuple[tuple[bool, str], ...]
    note: str | None

    @property
    def opening(self) -> str:
        return self.turns[0][1]


@dataclass(frozen=True)
class Proposed:
    """An answer that waits for consent: by whom, for how many minutes, to what."""

    by: str
    minutes: int
    theme: Theme
    network: str
    kind: str
    said: str
    answer: str
    tag: str | None = None


PROPOSED = (
    Proposed(
        "MO", 9, themes.RAY, "commonfold", "comment",
        "We were at the pool just now and the ray with the pale spot did not move at all. Is somebody with her?",
        "Our keeper is with the ray now, and the vet has been called. Please send us what you saw in a private message, so that she can read it too.",
        "animal care",
    ),
    Proposed(
        "AR", 2, themes.HOURS, "commonfold", "comment",
        "Can I still change our tickets from the morning to the afternoon, or do we have to buy new ones?",
        "Thank you for asking! Yes, you can: show the morning tickets at the desk by the entrance, and they are changed at once.",
    ),
    Proposed(
        "TN", 26, themes.REFUND, "hushline", "private",
        "Charged twice again, booking 53-7718. That is the second time this month, and I have lost patience with your till.",
        "I am sorry about that, and twice is once too often. We refund the second charge today; it should be with you in three working days.",
        "refund",
    ),
)  # fmt: skip


class Stories:
    """Plans steps with a loader's means; `size` 1 is the whole demo, less makes a smaller one for tests."""

    def __init__(self, loader: Loader, size: float) -> None:
        self.loader, self.dice, self.now = loader, loader.dice, loader.now
        self.size = size
        self.crowd = Crowd(loader.dice)
        self.decks = {t.name: Deck(t.exchanges, loader.dice) for t in (*themes.AQUARIUM_THEMES, *STORYLINES)}
        self.office: handed_over.Desk
        #: Conversations that are handed over or proposed an answer to at the end, by what they are for.
        self.kept: dict[str, Story] = {}

    # -- who says what, where ----------------------------------------------------------------------------
    def make_actor(self, network: str, theme: Theme, language: str = "en") -> dict[str, Any]:
        """Somebody on a network."""
        if theme is themes.TROLL:
            return {"handle": "brine_and_dine", "name": "Brine & Dine", "reach": 4}
        if theme is themes.PRESS:
            return {"handle": "t.aldercott", "name": "Thea Aldercott", "reach": 71}
        return self.crowd.find(network, language, comes_back=theme.has_regulars)

    def make_tale(self, theme: Theme, page: str, fits: Callable[[Exchange], bool] = fits_all) -> Tale:
        """A conversation to be: where, who, of which kind, and what is said."""
        pages, dice = self.loader.pages, self.dice
        exchange = self.decks[theme.name].deal(fits)
        networks = [
            n
            for n in theme.networks
            if (n, page) in pages
            and exchange.longest_answer + LONGEST_HANDLE <= TABLE[n].length_limit
            and not (exchange.private and n not in ("hushline", "commonfold"))
        ] or ["commonfold"]
        network = dice.choice(networks)
        kind = "comment"
        if network == "hushline" or exchange.private:
            kind = "private"
        elif network == "verdica":
            kind = "review"
        elif network == "quillet" or (network == "pixfern" and dice.random() < 0.3):
            kind = "mention"
        elif network == "commonfold" and (theme is themes.SPAM or dice.random() < 0.12):
            kind = "visitor_post"
        if theme in (themes.FORM, themes.STORY):
            kind = "form_entry" if theme is themes.FORM else "story_mention"
        story = Story(pages[network, page], theme, self.make_actor(network, theme, exchange.language), kind)
        story.rating = exchange.stars
        filling = Filling(dice, ANIMALS, WEEKDAYS)
        turns = tuple((theirs, filling.fill(text)) for theirs, text in exchange.turns)
        return Tale(story, turns, exchange.note)

    def make_story(self, theme: Theme, network: str, kind: str) -> Story:
        """A conversation of a storyline, which has its own words."""
        return Story(self.loader.pages[network, "brinewick"], theme, self.make_actor(network, theme), kind)

    def get_scope(self, story: Story, initials: str) -> Scope:
        return self.loader.scopes[story.workspace_id, initials]

    def at(self, when: datetime, story: Story, step: Step | Said | Done) -> None:
        self.loader.at(when, story.account.network, step, story.lane)

    def pick(self, page: str) -> Theme:
        if page == "mossgate":
            return self.dice.choice([themes.GARDEN, themes.GARDEN, themes.GARDEN, themes.PASS])
        return self.dice.choices(themes.AQUARIUM_THEMES, [t.weight for t in themes.AQUARIUM_THEMES])[0]

    def say(self, when: datetime, story: Story, text: str) -> None:
        self.at(when, story, Said(story, text))

    def answer(self, when: datetime, story: Story, scope: Scope, text: str, *, settle: bool) -> None:
        self.at(when, story, Done(story, partial(self.loader.answer, story, scope, text, settle), weight=ANSWER))

    def sort(self, when: datetime, story: Story, scope: Scope, note: str | None) -> None:
        """Tags, priority and a note, as the theme and the exchange have them."""
        lead = self.get_scope(story, "MO")
        for tag in story.theme.tags:
            if self.dice.random() < 0.75:
                self.loader.tag(when, story, lead, tag)
        if story.theme.person_tag and self.dice.random() < 0.5:
            self.loader.tag(when, story, lead, story.theme.person_tag, person=True)
        if story.theme.priority != 1 and self.dice.random() < 0.9:
            self.loader.do(when, story, acts.prioritise, scope, priority=Priority(story.theme.priority))
        if note is not None:
            self.loader.do(when + timedelta(minutes=2), story, acts.add_note, scope, text=note)

    # -- everyday ----------------------------------------------------------------------------------------
    def tell_settled(self, theme: Theme, begins: datetime, page: str) -> None:
        """A conversation that came, was sorted, answered and settled."""
        loader, dice = self.loader, self.dice
        tale = self.make_tale(theme, page)
        story = tale.story
        scope = self.get_scope(story, dice.choice(["IB", "IB", "TN", "TN", "MO", "MO"]))
        self.say(begins, story, tale.opening)
        when = loader.at_work(begins + timedelta(minutes=dice.lognormvariate(3.2, 0.9) + 1))
        if dice.random() < 0.7:
            loader.do(when, story, acts.assign, scope, owner_id=scope.member_id, note=None)
        self.sort(when + timedelta(seconds=dice.randint(5, 40)), story, scope, tale.note)
        if dice.random() < theme.like and story.kind != "story_mention":
            self.at(
                when + timedelta(minutes=1), story, Done(story, partial(loader.moderate, story, scope, Moderation.LIKE))
            )
        rest = tale.turns[1:]
        for n, (theirs, text) in enumerate(rest):
            if theirs:
                when += timedelta(minutes=dice.lognormvariate(3, 1) + 2)
                self.say(when, story, text)
            else:
                when = loader.at_work(when + timedelta(minutes=dice.lognormvariate(2.6, 0.8) + 1))
                settle = n == len(rest) - 1 and dice.random() < 0.8
                self.answer(when, story, scope, text, settle=settle)
        when = loader.at_work(when + timedelta(minutes=dice.randint(2, 90)))
        how = "answered" if rest else theme.settle if theme.settle != "answered" else "no_reply_needed"
        done = min(when, self.now - timedelta(minutes=30))
        self.at(done, story, Done(story, partial(loader.settle, story, scope, SettledAs(how))))

    def tell_waiting(self, theme: Theme, begins: datetime, page: str, state: str) -> None:
        """A conversation that waits at the demo's start."""
        loader, dice = self.loader, self.dice
        tale = self.make_tale(theme, page, FITS.get(state, fits_all))
        story = tale.story
        self.say(begins, story, tale.opening)
        if state == "unsorted":
            return
        scope, lead = self.get_scope(story, dice.choice(["IB", "TN", "MO", "SW"])), self.get_scope(story, "MO")
        when = begins + timedelta(minutes=dice.randint(1, 6))
        self.sort(when, story, scope, tale.note)
        if dice.random() < 0.6:
            loader.do(when, story, acts.assign, lead, owner_id=scope.member_id, note=None)
        elif theme in (themes.RAY, themes.PASS, themes.REFUND):
            names = {themes.RAY.name: "Animal care", themes.PASS.name: "Membership"}
            team = loader.teams[story.workspace_id, names.get(theme.name, "Visitor care")]
            loader.do(when, story, acts.assign, lead, owner_id=None, team_id=team, note=None)
        else:
            loader.do(when, story, acts.keep, lead)
        if state == "parked":
            choice = dice.choice(list(ParkFor))
            loader.do(when + timedelta(minutes=3), story, acts.park, lead, choice=choice, until=None)
        if state in ("their_move", "again"):
            self.answer(when + timedelta(minutes=4), story, scope, tale.turns[1][1], settle=False)
        if state == "again":
            self.say(when + timedelta(minutes=9), story, tale.turns[2][1])

    def plan_everyday(self) -> None:
        """Told in the order of time, so that what was said once is not said again soon."""
        first, dice = self.now - timedelta(days=DAYS - 1), self.dice
        span = self.now - timedelta(hours=36) - first
        settled: list[tuple[datetime, Theme, str]] = []
        for _ in range(int(SETTLED * self.size)):
            page = "mossgate" if dice.random() < 0.14 else "brinewick"
            local = (first + span * dice.random()).astimezone(ZONE)
            local = local.replace(hour=min(22, max(6, int(dice.gauss(13.5, 4)))))
            settled.append((max(first, min(local, self.now - timedelta(hours=30))), self.pick(page), page))
        for begins, theme, page in sorted(settled, key=lambda one: one[0]):
            self.tell_settled(theme, begins, page)
        for _ in range(int(LIKES * self.size)):
            story = self.make_story(dice.choice([themes.OCTOPUS, themes.FRIENDS]), "commonfold", "comment")
            after = first + timedelta(days=15)
            self.at(after + (self.now - after) * dice.random(), story, Said(story, None))
        for page, state, count in WAITING:
            for _ in range(count):
                theme = self.pick(page)
                while not any(map(FITS.get(state, fits_all), theme.exchanges)):
                    theme = self.pick(page)
                hours = dice.uniform(0.1, 2.4) if theme.priority >= 2 else dice.uniform(0.2, 9.5)
                if state in ("parked", "their_move"):
                    hours = dice.uniform(3, 26)
                self.tell_waiting(theme, self.now - timedelta(hours=hours), page, state)

    # -- storylines --------------------------------------------------------------------------------------
    def plan_storylines(self) -> None:
        self.tell_naming_week()
        self.tell_ray_evening()
        self.tell_troll()
        self.tell_same_customer()
        self.tell_known_faces()
        self.tell_waiting(themes.PRESS, self.now - timedelta(hours=2, minutes=20), "brinewick", "our_move")
        self.tell_refused()
        self.tell_talk()
        self.tell_handed()
        self.tell_apprentices()
        if self.size >= 1:
            self.tell_proposed()

    def tell_naming_week(self) -> None:
        """A contest under one post: 140 entries in six days, with second tries, late ones and staff."""
        begins = self.now - NAMING_WEEK
        for n in range(140 if self.size == 1 else int(140 * self.size)):
            tale = self.make_tale(themes.OCTOPUS, "brinewick")
            story = tale.story
            story.kind = "comment"
            if n % 35 == 0:
                name = ("Ilse Brandt", "Dov Rasmus", "Teo Nakamura", "Ana Reis")[n // 35]
                story.actor = {"handle": name.lower().replace(" ", "."), "name": f"{name} (staff)", "reach": 5}
            late = n % 20 == 19
            when = begins + timedelta(days=self.dice.uniform(6.2, 8) if late else self.dice.triangular(0, 6, 0.5))
            self.say(when, story, tale.opening)
            if n % 12 == 5:
                self.say(when + timedelta(minutes=4), story, self.make_tale(themes.OCTOPUS, "brinewick").opening)
            done = self.loader.at_work(when + timedelta(hours=self.dice.uniform(1, 8)))
            scope = self.get_scope(story, "IB")
            self.loader.tag(done, story, self.get_scope(story, "MO"), "naming week")
            if n % 35 == 0:
                self.loader.tag(done, story, self.get_scope(story, "MO"), prize_draw.STAFF, person=True)
            self.loader.do(done, story, acts.settle, scope, how=SettledAs.NO_REPLY_NEEDED)

    def tell_ray_evening(self) -> None:
        """Sixty comments within an hour, in the evening, when nobody was at the desk; those that ask are answered next morning."""
        evening = (self.now - timedelta(days=3)).astimezone(ZONE).replace(hour=19, minute=25, second=0)
        for n in range(60 if self.size == 1 else int(60 * self.size)):
            tale = self.make_tale(themes.RAY, "brinewick")
            story = tale.story
            story.kind = "comment"
            self.say(evening + timedelta(minutes=self.dice.triangular(0, 60, 22)), story, tale.opening)
            morning = self.loader.at_work(evening + timedelta(hours=13, minutes=n))
            morning = min(morning, self.now - timedelta(hours=1, minutes=n))
            sam, mara = self.get_scope(story, "SW"), self.get_scope(story, "MO")
            team = self.loader.teams[story.workspace_id, "Animal care"]
            self.loader.do(morning, story, acts.assign, mara, owner_id=None, team_id=team, note=None)
            self.loader.tag(morning, story, mara, "animal care")
            if len(tale.turns) > 1:
                self.loader.do(morning, story, acts.prioritise, mara, priority=Priority.URGENT)
                self.answer(morning + timedelta(minutes=20), story, sam, tale.turns[1][1], settle=True)
            else:
                how = SettledAs.NO_REPLY_NEEDED
                self.loader.do(morning + timedelta(minutes=30), story, acts.settle, mara, how=how)
        # Today it is quieter under the post, and somebody still looks.
        for before, text in (
            (1.1, "She is at the glass again and looks fine to me. Can you say how she is today?"),
            (1.9, "My daughter drew the ray a get well card. Where do we send it, and is the cut really closed?"),
        ):
            story = self.make_story(themes.RAY, "commonfold", "comment")
            self.say(self.now - timedelta(hours=before), story, text)
            team = self.loader.teams[story.workspace_id, "Animal care"]
            when = self.now - timedelta(hours=before) + timedelta(minutes=5)
            mara = self.get_scope(story, "MO")
            self.loader.tag(when, story, mara, "animal care")
            self.loader.do(when, story, acts.assign, mara, owner_id=None, team_id=team, note=None)

    def tell_handed(self) -> None:
        """Five that the ticket office took on: told as they came, handed over at the end of the loading."""
        for one in handed_over.HANDED if self.size >= 1 else ():
            story = self.make_story(themes.REFUND, one.network, one.kind)
            when = self.now - timedelta(hours=one.hours + 1)
            self.say(when, story, one.said)
            scope = self.get_scope(story, one.by)
            done = when + timedelta(minutes=40)
            self.loader.tag(done, story, scope, "refund")
            self.loader.do(done, story, acts.assign, scope, owner_id=scope.member_id, note=None)
            self.kept[one.said] = story

    def tell_proposed(self) -> None:
        """Three whose answers wait for consent."""
        for one in PROPOSED:
            story = self.make_story(one.theme, one.network, one.kind)
            when = self.now - timedelta(minutes=one.minutes + 50)
            self.say(when, story, one.said)
            if one.tag:
                self.loader.tag(when + timedelta(minutes=2), story, self.get_scope(story, "MO"), one.tag)
            scope = self.get_scope(story, one.by)
            self.loader.do(when + timedelta(minutes=3), story, acts.assign, scope, owner_id=scope.member_id, note=None)
            self.kept[one.said] = story

    def tell_troll(self) -> None:
        """Back again and again under post after post; blocked in the end."""
        for n, days in enumerate((25, 19, 16, 9, 5)):
            story = self.make_story(themes.TROLL, "commonfold", "visitor_post" if n % 2 else "comment")
            when = self.now - timedelta(days=days, hours=self.dice.uniform(0, 9))
            self.at(when, story, Said(story, themes.TROLL.exchanges[n].opening))
            done = self.loader.at_work(when + timedelta(hours=1))
            scope = self.get_scope(story, "MO")
            self.loader.do(done, story, acts.settle, scope, how=SettledAs.JUNK)
            if days == 5:
                block = partial(self.loader.moderate, story, scope, Moderation.BLOCK)
                self.at(done + timedelta(minutes=1), story, Done(story, block))

    def tell_same_customer(self) -> None:
        """One customer on three networks, to be joined as one person."""
        lines = (
            ("hushline", "private", "jorinde.castell", 6.1, "Hello, I paid twice for the family pass, my customer number is B-2207. I also wrote on Commonfold."),
            ("commonfold", "visitor_post", "jorinde.castell", 4.2, "Nobody answers me about the pass I paid twice?? Customer number B-2207"),
            ("quillet", "mention", "jorinde_c", 0.12, "@brinewick third try on a third network. Double payment. B-2207. Is anybody there"),
        )  # fmt: skip
        for network, kind, handle, days, text in lines:
            actor = {"handle": handle, "name": "Jorinde Castell", "reach": 12}
            story = Story(self.loader.pages[network, "brinewick"], themes.REFUND, actor, kind)
            when = self.now - timedelta(days=days)
            self.say(when, story, text)
            if days > 1:
                scope = self.get_scope(story, "TN")
                reply = "I am sorry. I have found the booking and asked the ticket office."
                done = self.loader.at_work(when + timedelta(hours=2))
                self.loader.tag(done, story, scope, "refund")
                self.answer(done, story, scope, reply, settle=False)

    def tell_known_faces(self) -> None:
        """Two with high reach."""
        for network, handle, name, reach, text in (
            ("pixfern", "saltandlens", "Salt & Lens", 88, "Could we come in before opening for a series on the sea gooseberries? Credit of course"),
            ("loopreel", "benji.films", "benji.films", 93, "this seal has better timing than me. can i stitch part two??"),
        ):  # fmt: skip
            actor = {"handle": handle, "name": name, "reach": reach}
            kind = "mention" if network == "pixfern" else "comment"
            story = Story(self.loader.pages[network, "brinewick"], themes.PRAISE, actor, kind)
            self.say(self.now - timedelta(hours=3), story, text)

    def tell_refused(self) -> None:
        """An answer that the network refused: it is back with its author, text and all."""
        story = self.make_story(themes.QUESTIONS, "loopreel", "comment")
        when = self.now - timedelta(hours=1, minutes=10)
        self.say(when, story, "does she get a new machine if she breaks this one")
        scope = self.get_scope(story, "IB")

        async def answer(at: datetime) -> None:
            # It alone is refused.
            await self.loader.let_out("loopreel")
            await self.loader.control("mischief/loopreel", refuse=1)
            await self.loader.answer(story, scope, "She gets a rota. She does not know it yet.", False, at)
            await self.loader.let_out("loopreel")

        self.at(when + timedelta(minutes=20), story, answer)

    def tell_talk(self) -> None:
        """What people say about the place without naming it to us; listening finds it."""
        for n, (network, text) in enumerate(themes.TALK):
            story = self.make_story(themes.HOURS, network, "talk")
            when = self.now - timedelta(hours=2 + 5 * n)

            async def talk(at: datetime, story: Story = story, text: str = text) -> None:
                await self.loader.control("say", network=story.account.network, kind="talk", text=text, tell=False, clock=at.isoformat(), **story.actor)  # fmt: skip

            self.at(when, story, talk)

    async def add_records(self) -> None:
        """What the team knows and has promised: facts, follow-ups, words to listen for."""
        house, scope = self.loader.house, self.aquarium("MO")
        for words, network in (("brinewick", "quillet"), ("brinewick", "pixfern"), ("octopus lid", "quillet")):
            page = self.loader.pages[network, "brinewick"]
            await listening.add_listening(house, scope, words=words, account_id=page.id, now=self.now)
        await listening.listen(house, scope.workspace_id, self.now)
        for name, facts, follow_up in world.RECORDS:
            found = await profiles.list_persons(
                house, scope, filters={"words": name}, order="name", cursor=None, limit=1
            )
            for person in found["persons"]:
                for fact, value in facts:
                    await profiles.add_fact(house, scope, person["id"], name=fact, value=value, now=self.now)
                if follow_up:
                    days, words, who = follow_up
                    await profiles.add_follow_up(
                        house,
                        scope,
                        person["id"],
                        words=words,
                        due_at=self.now + timedelta(days=days),
                        member_id=self.aquarium(who).member_id,
                        now=self.now,
                    )

    def aquarium(self, initials: str) -> Scope:
        workspace_id = self.loader.pages["commonfold", "brinewick"].workspace_id
        return self.loader.scopes[workspace_id, initials]

    def tell_apprentices(self) -> None:
        """A question whose answer waits to go, see `expire_token`."""
        story = self.make_story(themes.COMPANY, "workbarn", "comment")
        self.say(self.now - timedelta(minutes=24), story, APPRENTICES)
        self.kept[APPRENTICES] = story

    async def expire_token(self) -> None:
        """One account's token runs out while an answer waits to go."""
        story, when = self.kept[APPRENTICES], self.now - timedelta(minutes=23)
        await self.loader.control("expire", network="workbarn", page="brinewick")
        scope = self.get_scope(story, "TN")
        await self.loader.answer(story, scope, "We do, two a year. Applications open in March.", False, when)
        await self.loader.let_out("workbarn")

    # -- the rest ----------------------------------------------------------------------------------------
    def plan_posts(self) -> None:
        for page, network, days, title, text in world.POSTS:
            self.loader.at(
                self.now - timedelta(days=days), network, partial(self.loader.publish, page, network, title, text)
            )
        # Every page that takes comments has a post from the first day on.
        for network in ("commonfold", "pixfern", "loopreel", "workbarn"):
            self.loader.at(self.now - timedelta(days=DAYS), network, partial(self.loader.publish, "brinewick", network, "Winter hours", "Monday to Friday 9 to 17, Saturday 10 to 14. The animals do not mind either way."))  # fmt: skip
        self.loader.at(self.now - timedelta(days=DAYS), "commonfold", partial(self.loader.publish, "mossgate", "commonfold", "November", "What still flowers: witch hazel, two stubborn roses, and the heather bank."))  # fmt: skip

    async def set_hours(self, begins: datetime) -> None:
        """Both places' hours, since before anything happened. A smaller copy for tests stays open round the clock, so that no test depends on the hour."""
        if self.size < 1:
            return
        closed = [(self.now + timedelta(days=days)).date().isoformat() for days in (9, 31)]
        targets = {a.value: {p.name.lower(): m for p, m in DEFAULT_MINUTES.items()} for a in Audience}
        for _, scope in self.loader.scopes.items():
            if scope.role.key == Role.OWNER:
                await hours.set_hours(
                    self.loader.house,
                    scope,
                    zone=ZONE.key,
                    week=["9-17"] * 5 + ["10-14", "closed"],
                    special=dict.fromkeys(closed, "closed"),
                    targets=targets,
                    now=begins,
                )

    async def add_views(self) -> None:
        """The Aquarium's shared views."""
        scope = self.aquarium("MO")
        for name, query in world.VIEWS:
            teams = [str(self.loader.teams[scope.workspace_id, t]) for t in query.get("team", [])]
            await sorting.set_view(self.loader.house, scope, name=name, shared=True, query={**query, **({"team": teams} if teams else {})})  # fmt: skip

    async def look_at_rules(self) -> None:
        """Mara has looked at what rules did by themselves until last evening."""
        scope, until = self.aquarium("MO"), self.now - timedelta(hours=18)
        while True:
            found = await review.list_review(self.loader.house, scope)
            old = [item["id"] for item in found["items"] if item["at"] < until]
            if not old:
                return
            await review.review(self.loader.house, scope, old, "kept", until)

    async def ask_for_approval(self) -> None:
        """Two policies, and answers that wait: soonest due first, by Mara, by Ana who is in training, by Teo."""
        house, lead = self.loader.house, self.aquarium("MO")
        animal = await tags.get_tag(house, lead, "animal care", make=True)
        noor, sam = self.aquarium("NH").member_id, self.aquarium("SW").member_id
        for body in (
            PolicyBody(name="Animal care in public", when=PolicyWhen(public=True, tags=(animal,)), members=(noor, sam)),
            PolicyBody(
                name="Promises of money",
                when=PolicyWhen(words=("refund*", "money back", "for free")),
                roles=(Role.OWNER, Role.LEAD),
            ),
        ):
            await policies.add_policy(house, lead, body, on=True, now=self.now - timedelta(days=DAYS))
        for one in PROPOSED:
            story, scope = self.kept[one.said], self.aquarium(one.by)
            assert story.conversation is not None
            sheet = await desk.get_sheet(house, scope, story.conversation, self.now)
            await approvals.propose(
                house,
                scope,
                story.conversation,
                public=one.kind != "private",
                text=one.answer,
                seen_seq=sheet["conversation"]["seq"],
                settle=False,
                now=self.now - timedelta(minutes=one.minutes),
            )

    def make_script(self) -> list[dict[str, Any]]:
        """What goes on happening on the networks while the demo runs."""
        lines: list[dict[str, Any]] = [
            {
                "network": network,
                "page": "brinewick",
                "kind": "talk",
                "text": text,
                **self.make_actor(network, themes.HOURS),
            }
            for network, text in themes.TALK
        ]
        for _ in range(240):
            page = "mossgate" if self.dice.random() < 0.1 else "brinewick"
            tale = self.make_tale(self.pick(page), page)
            lines.append(
                {
                    "network": tale.story.account.network,
                    "page": page,
                    "kind": tale.story.kind,
                    "text": tale.opening,
                    "rating": tale.story.rating,
                    **tale.story.actor,
                }
            )
        return lines

    async def prepare(self) -> None:
        """Who and what there is before anything happens, and the plan of what will."""
        loader = self.loader
        await loader.add_organisation()
        begins = self.now - timedelta(days=DAYS + 1)
        await self.set_hours(begins)
        # A smaller copy for tests has them switched off: there each test says what should happen.
        heard = await saved_replies.add_saved_replies(loader, self.aquarium("MO"), begins)
        await starting_rules.add_rules(loader, self.aquarium("MO"), heard=heard, on=self.size >= 1, now=begins)
        await pictures.add_library(loader, self.aquarium("MO"), begins)
        self.office = await handed_over.connect(loader, self.aquarium("MO").workspace_id)
        await starting_rules.set_team(loader, self.aquarium("NH"), self.now)
        self.plan_posts()
        self.plan_everyday()
        self.plan_storylines()
        await loader.make_tags()

    async def finish(self) -> None:
        """What is done when all has happened."""
        loader = self.loader
        await self.expire_token()
        await loader.control("settings", script=self.make_script(), pace="calm")
        for account in loader.pages.values():
            if account.network != "workbarn":
                await intake.backfill(loader.house, account.workspace_id, account.id, self.now)
        if self.size >= 1:
            by = {i: self.aquarium(i) for i in ("MO", "IB", "TN")}
            await handed_over.hand_over_some(loader, by, self.office, self.kept, self.now)
            await outside_advice.ask_some(loader, by["MO"], self.now)
        await prize_draw.hold_draw(loader, self.aquarium("MO"), themes.OCTOPUS.posts[0], self.now - NAMING_WEEK)
        await self.look_at_rules()
        await self.add_views()
        await self.add_records()
        for initials in ("MO", "NH", "IB", "TN", "SW"):
            await alerts.set_read(loader.house, self.aquarium(initials), None, self.now)
        if self.size >= 1:
            await self.ask_for_approval()
        for workspace_id in {a.workspace_id for a in loader.pages.values()}:
            await delivery.deliver_due(loader.house, workspace_id, self.now)
            await desk.keep_counts(loader.house, workspace_id, self.now)
        await loader.listen()


class Loading:
    """The loading in its three parts, each with connections of its own: the middle one is done by two processes."""

    def __init__(self, settings: Settings, outside_address: str, size: float) -> None:
        self.settings, self.address, self.size = settings, outside_address, size
        self.stories: Stories | None = None
        self.reader = read_weights(settings)

    async def do(self, part: Callable[[Stories], Awaitable[None]]) -> None:
        """One part, with connections that end with it."""
        house = make_house(self.settings, self.reader)
        await house.open()
        try:
            async with httpx.AsyncClient(base_url=self.address, timeout=30) as outside:
                if self.stories is None:
                    here = f"http://127.0.0.1:{self.settings.port}"
                    password = self.settings.demo_password or ""
                    dice = random.Random(SEED)
                    self.stories = Stories(Loader(house, outside, here, datetime.now(UTC), dice, password), self.size)
                self.stories.loader.house, self.stories.loader.outside = house, outside
                await part(self.stories)
        finally:
            await house.close()

    def walk(self) -> None:
        """What is planned, the networks in two lots; what the other process finds out about kept stories comes back."""
        assert self.stories is not None
        stories, (mine, others) = self.stories, self.stories.loader.share_out()
        reading, writing = os.pipe()
        other = os.fork()
        if other == 0:
            # Nothing of the parent's runs on here, whatever happens.
            status = 1
            try:
                uvloop.run(self.do(lambda s: s.loader.walk(others)))
                told = {said: [s.conversation, s.last_thing] for said, s in stories.kept.items() if s.conversation}
                os.write(writing, json.dumps(told).encode())
                status = 0
            except BaseException:
                traceback.print_exc()
            finally:
                os._exit(status)
        os.close(writing)
        try:
            uvloop.run(self.do(lambda s: s.loader.walk(mine)))
        finally:
            heard = b"".join(iter(lambda: os.read(reading, 65536), b""))
            _, status = os.waitpid(other, 0)
        if status != 0:
            raise RuntimeError("The other half of the loading failed; its words are above.")
        for said, (conversation, thing) in json.loads(heard).items():
            stories.kept[said].conversation, stories.kept[said].last_thing = conversation, thing


def load(settings: Settings, outside_address: str, *, size: float = 1) -> None:
    """Load the demo into an empty, migrated database and a fresh Outside. Forks: for a process of its own."""
    loading = Loading(settings, outside_address, size)
    uvloop.run(loading.do(lambda stories: stories.prepare()))
    loading.walk()
    uvloop.run(loading.do(lambda stories: stories.finish()))


if __name__ == "__main__":
    set_up_logging("WARNING")
    load(Settings(), sys.argv[1], size=float(sys.argv[2]))
