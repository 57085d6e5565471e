"""What happens in the demo: everyday conversations out of themes, and the storylines. `load` makes it happen."""

import asyncio
import contextlib
import random
from datetime import UTC, datetime, timedelta
from functools import partial
from typing import Any

import httpx

from demo import handed_over, outside_advice, prize_draw, saved_replies, starting_rules, themes, world
from demo.load import ZONE, Loader, Step, Story
from demo.themes import Theme
from sorta.core.approval import PolicyBody, PolicyWhen
from sorta.core.errors import SortaError
from sorta.core.facts import SettledAs
from sorta.core.parking import ParkFor
from sorta.core.permissions import Role
from sorta.core.ports import Moderation
from sorta.core.targets import DEFAULT_MINUTES, Audience, Priority
from sorta.main import make_house
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

#: Everyday conversations at full size; storylines come on top.
SETTLED = 1370
LIKES = 420
DAYS = 28
#: How long ago the octopus's naming week began.
NAMING_WEEK = timedelta(days=13.3)
#: What waits at the start: (workspace's page, state, how many).
WAITING = (
    ("brinewick", "unsorted", 66),
    ("brinewick", "our_move", 12),
    ("brinewick", "again", 7),
    ("brinewick", "their_move", 9),
    ("brinewick", "parked", 5),
    ("mossgate", "unsorted", 6),
    ("mossgate", "our_move", 3),
    ("mossgate", "parked", 1),
)
ANIMALS = ("octopus", "seal", "penguin", "ray", "sea horse", "wolffish", "lobster", "jellyfish")
WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday")


class Stories:
    """Plans steps with a loader's means; `size` 1 is the whole demo, less makes a smaller one for tests."""

    def __init__(self, loader: Loader, size: float) -> None:
        self.loader, self.dice, self.now = loader, loader.dice, loader.now
        self.size = size

    # -- who says what, where ----------------------------------------------------------------------------
    def fill(self, text: str) -> str:
        return text.format(
            day=self.dice.choice(WEEKDAYS),
            time=f"{self.dice.randint(9, 16)}:{self.dice.choice(['00', '15', '30', '45'])}",
            n=self.dice.randint(3, 45),
            booking=f"{self.dice.randint(40, 59)}-{self.dice.randint(1000, 9999)}",
            animal=self.dice.choice(ANIMALS),
        )

    def make_actor(self, network: str, theme: Theme) -> dict[str, Any]:
        """Somebody on a network; each network has its own crowd, so that few share a name by chance."""
        if theme is themes.TROLL:
            return {"handle": "brine_and_dine", "name": "Brine & Dine", "reach": 4}
        if theme is themes.PRESS:
            return {"handle": "t.aldercott", "name": "Thea Aldercott", "reach": 71}
        if network in ("quillet", "loopreel") and self.dice.random() < 0.3:
            handle = self.dice.choice(world.HANDLES)
            return {"handle": handle, "name": handle, "reach": sum(map(ord, handle)) % 45}
        crowd = list(dict.fromkeys(network for network, *_ in world.WORKSPACES[0][1]))
        place = crowd.index(network)
        last = self.dice.choice(world.LAST[place :: len(crowd)])
        first = self.dice.choice(world.FIRST)
        reach = min(99, int(random.Random(first + last).paretovariate(1.6) * 4))
        return {"handle": f"{first}.{last}".lower(), "name": f"{first} {last}", "reach": reach}

    def make_story(self, theme: Theme, page: str) -> Story:
        """A conversation to be: where, who, of which kind."""
        pages = self.loader.pages
        networks = [n for n in theme.networks if (n, page) in pages] or ["commonfold"]
        network = self.dice.choice(networks)
        kind = "comment"
        if network == "hushline" or (theme is themes.REFUND and network != "pixfern" and self.dice.random() < 0.6):
            kind = "private"
        elif network == "verdica":
            kind = "review"
        elif network == "quillet" or (network == "pixfern" and self.dice.random() < 0.3):
            kind = "mention"
        elif network == "commonfold" and (theme is themes.SPAM or self.dice.random() < 0.12):
            kind = "visitor_post"
        if theme in (themes.FORM, themes.STORY):
            kind = "form_entry" if theme is themes.FORM else "story_mention"
        story = Story(pages[network, page], theme, self.make_actor(network, theme), kind)
        story.language = self.dice.randrange(theme.languages)
        if kind == "review":
            story.rating = self.dice.choice([1, 2, 2, 3, 4, 4, 5, 5, 5])
        return story

    def get_scope(self, story: Story, initials: str) -> Scope:
        return self.loader.scopes[story.workspace_id, initials]

    def at(self, when: datetime, story: Story, step: Step) -> None:
        self.loader.at(when, story.account.network, step)

    def pick(self, page: str) -> Theme:
        if page == "mossgate":
            return self.dice.choice([themes.GARDEN, themes.GARDEN, themes.PASS, themes.PRAISE, themes.REVIEW])
        return self.dice.choices(themes.AQUARIUM_THEMES, [t.weight for t in themes.AQUARIUM_THEMES])[0]

    def choose(self, story: Story, texts: tuple[str, ...]) -> str:
        """One of the texts, in the story's language."""
        return self.dice.choice(texts[story.language :: story.theme.languages])

    def say(self, when: datetime, story: Story, texts: tuple[str, ...]) -> None:
        self.at(when, story, partial(self.loader.say, story, self.fill(self.choose(story, texts))))

    def sort(self, when: datetime, story: Story, scope: Scope) -> None:
        """Tags, priority and a note, as the theme has them."""
        lead = self.get_scope(story, "MO")
        for tag in story.theme.tags:
            if self.dice.random() < 0.75:
                self.loader.tag(when, story, lead, tag)
        if story.theme.person_tag and self.dice.random() < 0.5:
            self.loader.tag(when, story, lead, story.theme.person_tag, person=True)
        if story.theme.priority != 1 and self.dice.random() < 0.9:
            self.loader.do(when, story, acts.prioritise, scope, priority=Priority(story.theme.priority))
        if story.theme.note and self.dice.random() < 0.4:
            note = self.dice.choice(story.theme.note)
            self.loader.do(when + timedelta(minutes=2), story, acts.add_note, scope, text=note)

    # -- everyday ----------------------------------------------------------------------------------------
    def tell_settled(self, theme: Theme, begins: datetime, page: str) -> None:
        """A conversation that came, was sorted, answered and settled."""
        loader, dice = self.loader, self.dice
        story = self.make_story(theme, page)
        who = ["IB", "IB", "TN", "TN", "MO", "SW" if theme is themes.RAY else "MO"]
        scope = self.get_scope(story, dice.choice(who))
        self.say(begins, story, theme.openings)
        when = loader.at_work(begins + timedelta(minutes=dice.lognormvariate(3.2, 0.9) + 1))
        if dice.random() < 0.7:
            loader.do(when, story, acts.assign, scope, owner_id=scope.member_id, note=None)
        self.sort(when + timedelta(seconds=dice.randint(5, 40)), story, scope)
        if dice.random() < theme.like and story.kind != "story_mention":
            self.at(when + timedelta(minutes=1), story, partial(loader.moderate, story, scope, Moderation.LIKE))
        is_quiet = dice.random() < (0.7 if theme.settle != "answered" else 0.05)
        rounds = 0 if not theme.answers or is_quiet else dice.choice([1, 1, 2, 2, 3])
        if story.kind == "review":
            rounds = min(rounds, 1)
        for turn in range(rounds):
            last = turn == rounds - 1
            when = loader.at_work(when + timedelta(minutes=dice.lognormvariate(2.6, 0.8) + 1))
            settle = last and dice.random() < 0.8
            self.at(when, story, partial(loader.answer, story, scope, self.choose(story, theme.answers), settle))
            if theme.follow and story.kind != "review" and (not last or dice.random() < 0.55):
                when += timedelta(minutes=dice.lognormvariate(3, 1) + 2)
                self.say(when, story, theme.follow)
        when = loader.at_work(when + timedelta(minutes=dice.randint(2, 90)))
        how = (
            theme.settle if rounds == 0 and theme.settle != "answered" else "answered" if rounds else "no_reply_needed"
        )
        loader.do(min(when, self.now - timedelta(minutes=30)), story, acts.settle, scope, how=SettledAs(how))

    def tell_waiting(self, theme: Theme, begins: datetime, page: str, state: str) -> None:
        """A conversation that waits at the demo's start."""
        loader, dice = self.loader, self.dice
        story = self.make_story(theme, page)
        self.say(begins, story, theme.openings)
        if state == "unsorted":
            if dice.random() < 0.2 and theme.follow and story.kind not in ("review", "form_entry"):
                self.say(begins + timedelta(minutes=3), story, theme.follow)
            return
        scope, lead = self.get_scope(story, dice.choice(["IB", "TN", "MO", "SW"])), self.get_scope(story, "MO")
        when = begins + timedelta(minutes=dice.randint(1, 6))
        self.sort(when, story, scope)
        if dice.random() < 0.6:
            loader.do(when, story, acts.assign, lead, owner_id=scope.member_id, note=None)
        elif theme in (themes.RAY, themes.PASS, themes.REFUND):
            names = {id(themes.RAY): "Animal care", id(themes.PASS): "Membership"}
            team = loader.teams[story.workspace_id, names.get(id(theme), "Visitor care")]
            loader.do(when, story, acts.assign, lead, owner_id=None, team_id=team, note=None)
        else:
            loader.do(when, story, acts.keep, lead)
        if state == "parked":
            choice = dice.choice(list(ParkFor))
            loader.do(when + timedelta(minutes=3), story, acts.park, lead, choice=choice, until=None)
        if state in ("their_move", "again") and theme.answers:
            self.at(
                when + timedelta(minutes=4),
                story,
                partial(loader.answer, story, scope, self.choose(story, theme.answers), False),
            )
        if state == "again" and theme.follow:
            self.say(when + timedelta(minutes=9), story, theme.follow)

    def plan_everyday(self) -> None:
        first = self.now - timedelta(days=DAYS - 1)
        span = self.now - timedelta(hours=36) - first
        for _ in range(int(SETTLED * self.size)):
            page = "mossgate" if self.dice.random() < 0.14 else "brinewick"
            local = (first + span * self.dice.random()).astimezone(ZONE)
            local = local.replace(hour=min(22, max(6, int(self.dice.gauss(13.5, 4)))))
            self.tell_settled(self.pick(page), max(first, min(local, self.now - timedelta(hours=30))), page)
        for _ in range(int(LIKES * self.size)):
            story = self.make_story(self.dice.choice([themes.OCTOPUS, themes.FRIENDS]), "brinewick")
            after = first + timedelta(days=5)
            self.at(after + (self.now - after) * self.dice.random(), story, partial(self.loader.like, story))
        for page, state, count in WAITING:
            for _ in range(count):
                theme = self.pick(page)
                while (state != "unsorted" and not theme.answers) or (state == "again" and not theme.follow):
                    theme = self.pick(page)
                hours = self.dice.uniform(0.1, 2.4) if theme.priority >= 2 else self.dice.uniform(0.2, 9.5)
                if state in ("parked", "their_move"):
                    hours = self.dice.uniform(3, 26)
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

    def tell_naming_week(self) -> None:
        """A contest under one post: 140 entries in six days, with second tries, late ones and staff."""
        begins = self.now - NAMING_WEEK
        for n in range(140 if self.size == 1 else int(140 * self.size)):
            story = self.make_story(themes.OCTOPUS, "brinewick")
            story.kind = "comment"
            if n % 35 == 0:
                name = ("Ilse Brandt", "Dov Rasmus", "Teo Nakamura", "Ana Reis")[n // 35]
                story.actor = {"handle": name.lower().replace(" ", "."), "name": f"{name} (staff)", "reach": 5}
            late = n % 20 == 19
            when = begins + timedelta(days=self.dice.uniform(6.2, 8) if late else self.dice.triangular(0, 6, 0.5))
            self.say(when, story, themes.OCTOPUS.openings)
            if n % 12 == 5:
                self.say(when + timedelta(minutes=4), story, themes.OCTOPUS.openings)
            done = self.loader.at_work(when + timedelta(hours=self.dice.uniform(1, 8)))
            scope = self.get_scope(story, "IB")
            self.loader.tag(done, story, self.get_scope(story, "MO"), "naming week")
            if n % 35 == 0:
                self.loader.tag(done, story, self.get_scope(story, "MO"), prize_draw.STAFF, person=True)
            self.loader.do(done, story, acts.settle, scope, how=SettledAs.NO_REPLY_NEEDED)

    def tell_ray_evening(self) -> None:
        """Sixty comments within an hour, in the evening, when nobody was at the desk."""
        evening = (self.now - timedelta(days=3)).astimezone(ZONE).replace(hour=19, minute=25, second=0)
        for n in range(60 if self.size == 1 else int(60 * self.size)):
            story = self.make_story(themes.RAY, "brinewick")
            story.kind = "comment"
            self.say(evening + timedelta(minutes=self.dice.triangular(0, 60, 22)), story, themes.RAY.openings)
            morning = self.loader.at_work(evening + timedelta(hours=13, minutes=n))
            morning = min(morning, self.now - timedelta(hours=1, minutes=n))
            sam, mara = self.get_scope(story, "SW"), self.get_scope(story, "MO")
            team = self.loader.teams[story.workspace_id, "Animal care"]
            self.loader.do(morning, story, acts.assign, mara, owner_id=None, team_id=team, note=None)
            self.loader.tag(morning, story, mara, "animal care")
            if n % 3 == 0:
                self.loader.do(morning, story, acts.prioritise, mara, priority=Priority.URGENT)
                self.at(
                    morning + timedelta(minutes=20),
                    story,
                    partial(self.loader.answer, story, sam, themes.RAY.answers[1], True),
                )
            else:
                how = SettledAs.NO_REPLY_NEEDED
                self.loader.do(morning + timedelta(minutes=30), story, acts.settle, mara, how=how)

    def tell_troll(self) -> None:
        """Back again and again under post after post; blocked in the end."""
        for n, days in enumerate((25, 19, 16, 9, 5)):
            story = self.make_story(themes.TROLL, "brinewick")
            story.kind = "visitor_post" if n % 2 else "comment"
            when = self.now - timedelta(days=days, hours=self.dice.uniform(0, 9))
            self.at(when, story, partial(self.loader.say, story, themes.TROLL.openings[n]))
            done = self.loader.at_work(when + timedelta(hours=1))
            scope = self.get_scope(story, "MO")
            self.loader.do(done, story, acts.settle, scope, how=SettledAs.JUNK)
            if days == 5:
                self.at(
                    done + timedelta(minutes=1), story, partial(self.loader.moderate, story, scope, Moderation.BLOCK)
                )

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
            self.at(when, story, partial(self.loader.say, story, text))
            if days > 1:
                scope = self.get_scope(story, "TN")
                reply = "I am sorry. I have found the booking and asked the ticket office."
                done = self.loader.at_work(when + timedelta(hours=2))
                self.loader.tag(done, story, scope, "refund")
                self.at(done, story, partial(self.loader.answer, story, scope, reply, False))

    def tell_known_faces(self) -> None:
        """Two with high reach."""
        for network, handle, name, reach, text in (
            ("pixfern", "saltandlens", "Salt & Lens", 88, "Could we come in before opening for a series on the sea gooseberries? Credit of course"),
            ("loopreel", "benji.films", "benji.films", 93, "this seal has better timing than me. can i stitch part two??"),
        ):  # fmt: skip
            actor = {"handle": handle, "name": name, "reach": reach}
            kind = "mention" if network == "pixfern" else "comment"
            story = Story(self.loader.pages[network, "brinewick"], themes.PRAISE, actor, kind)
            self.at(self.now - timedelta(hours=3), story, partial(self.loader.say, story, text))

    def tell_refused(self) -> None:
        """An answer that the network refused: it is back with its author, text and all."""
        story = Story(self.loader.pages["loopreel", "brinewick"], themes.QUESTIONS, self.make_actor("loopreel", themes.PRAISE), "comment")  # fmt: skip
        when = self.now - timedelta(hours=1, minutes=10)
        self.say(when, story, ("does she get a new machine if she breaks this one",))
        scope = self.get_scope(story, "IB")

        async def answer(at: datetime) -> None:
            await self.loader.control("mischief/loopreel", refuse=1)
            await self.loader.answer(story, scope, "She gets a rota. She does not know it yet.", False, at)

        self.at(when + timedelta(minutes=20), story, answer)

    def tell_talk(self) -> None:
        """What people say about the place without naming it to us; listening finds it."""
        for n, (network, text) in enumerate(themes.TALK):
            account = self.loader.pages[network, "brinewick"]
            story = Story(account, themes.HOURS, self.make_actor(network, themes.HOURS), "talk")
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

    async def expire_token(self) -> None:
        """One account's token runs out while an answer waits to go."""
        account = self.loader.pages["workbarn", "brinewick"]
        story = Story(account, themes.COMPANY, self.make_actor("workbarn", themes.COMPANY), "comment")
        when = self.now - timedelta(minutes=24)
        await self.loader.say(story, "Do you take apprentices in the technical team?", when)
        await self.loader.control("expire", network="workbarn", page="brinewick")
        scope = self.get_scope(story, "TN")
        await self.loader.answer(story, scope, "We do, two a year. Applications open in March.", False, when)

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
        for who, minutes, filters, text in (
            ("MO", 9, {"move": "our_move", "tag": [animal], "public": True}, "Our keeper is with the ray now, and the vet has been called. Please send us what you saw in a private message, so that she can read it too."),
            ("AR", 2, {"move": "unsorted", "public": True, "reads_as": ["question"], "network": ["commonfold"]}, "Thank you for asking! Yes, you can; the desk at the entrance will help you on the day."),
            ("TN", 26, {"move": "our_move", "public": False, "reads_as": ["complaint"]}, "I am sorry about that. We refund the second charge today; it should be with you in three working days."),
        ):  # fmt: skip
            scope, when = self.aquarium(who), self.now - timedelta(minutes=minutes)
            rows = desk.read_rows(
                await desk.list_rows(house, scope, filters=filters, order="due", cursor=None, limit=10, now=self.now)
            )
            for row in rows:
                # Not all can be answered so: a window may be over, somebody may have moved on.
                with contextlib.suppress(SortaError):
                    await approvals.propose(
                        house,
                        scope,
                        row["id"],
                        public=row["public"],
                        text=text,
                        seen_seq=row["seq"],
                        settle=False,
                        now=max(when, datetime.fromisoformat(row["last_at"])),
                    )
                    break

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
        for _ in range(160):
            page = "mossgate" if self.dice.random() < 0.1 else "brinewick"
            theme = self.pick(page)
            while theme is themes.TROLL:
                theme = self.pick(page)
            story = self.make_story(theme, page)
            lines.append(
                {
                    "network": story.account.network,
                    "page": page,
                    "kind": story.kind,
                    "text": self.fill(self.dice.choice(theme.openings)),
                    "rating": story.rating,
                    **story.actor,
                }
            )
        return lines

    async def run(self) -> None:
        """All of it, in the order of time."""
        loader = self.loader
        await loader.add_organisation()
        begins = self.now - timedelta(days=DAYS + 1)
        await self.set_hours(begins)
        # A smaller copy for tests has them switched off: there each test says what should happen.
        heard = await saved_replies.add_saved_replies(loader, self.aquarium("MO"), begins)
        await starting_rules.add_rules(loader, self.aquarium("MO"), heard=heard, on=self.size >= 1, now=begins)
        office = await handed_over.connect(loader, self.aquarium("MO").workspace_id)
        await starting_rules.set_team(loader, self.aquarium("NH"), self.now)
        self.plan_posts()
        self.plan_everyday()
        self.plan_storylines()
        await loader.walk()
        await self.expire_token()
        await loader.control("settings", script=self.make_script(), pace="calm")
        for account in loader.pages.values():
            if account.network != "workbarn":
                await intake.backfill(loader.house, account.workspace_id, account.id, self.now)
        if self.size >= 1:
            by = {i: self.aquarium(i) for i in ("MO", "IB", "TN")}
            await handed_over.hand_over_some(loader, by, office, self.now)
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


async def load(settings: Settings, outside_address: str, *, seed: int = 8, size: float = 1) -> None:
    """Load the demo into an empty, migrated database and a fresh Outside."""
    house = make_house(settings)
    await house.open()
    try:
        async with httpx.AsyncClient(base_url=outside_address, timeout=30) as outside:
            loader = Loader(
                house,
                outside,
                f"http://127.0.0.1:{settings.port}",
                datetime.now(UTC),
                random.Random(seed),
                settings.demo_password or "",
            )
            await Stories(loader, size).run()
    finally:
        await house.close()


if __name__ == "__main__":
    import sys

    asyncio.run(load(Settings(), sys.argv[1]))
