"""The computation of rules and working time, and dues counted anew. Part of `make bench`.

python -m bench.core [conversations]      (default 100,000)
"""

import random
import statistics
import sys
import time
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import pandas as pd
import uvloop
from psycopg.types.json import Jsonb
from rank_bm25 import BM25Okapi

from bench.measure import KEY, KEYS
from bench.run import furnish
from dev import cluster
from sorta.core.deciding import Heard, decide
from sorta.core.learning import measure_calibration
from sorta.core.ports import Kind
from sorta.core.reading import ReadsAs
from sorta.core.rules import (
    AddTags,
    BareMention,
    Conditions,
    GiveTo,
    HasWords,
    KindIs,
    ReachIs,
    ReadsAsOneOf,
    Rule,
    RuleBody,
    SentimentIs,
    SetPriority,
)  # fmt: skip
from sorta.core.suggesting import OFFERED_FROM, Answered, Suggester
from sorta.core.targets import Priority
from sorta.core.words import fold_text
from sorta.core.working_time import WeeklyHours, read_spans
from sorta.main import TEXTS, make_house
from sorta.services import hours
from sorta.services.lessons import read_texts
from sorta.settings import Settings
from sorta.store.migrate import apply_migrations
from tests.core.corpus import read_topics, take_few

Pair = tuple[str, str]
#: Texts that are asked for in one round; a fold of the corpus is no more.
_MOST_HELD = 150
ZONE = ZoneInfo("Europe/Copenhagen")
WORDS = [
    "the",
    "ray",
    "in",
    "touch",
    "pool",
    "has",
    "a",
    "cut",
    "on",
    "its",
    "wing",
    "and",
    "nobody",
    "at",
    "desk",
    "would",
    "listen",
    "who",
    "do",
    "i",
    "talk",
    "to",
    "ticket",
    "pass",
    "refund",
    "queue",
    "rain",
    "lift",
    "broken",
    "lovely",
    "octopus",
    "name",
    "school",
    "class",
]


def make_rules(count: int, dice: random.Random) -> list[Rule]:
    """Rules as people write them: two or three conditions, words among them, none of which stops."""
    rules = []
    for n in range(count):
        parts = [
            HasWords(words=(*dice.sample(WORDS, 3), "cut on", "injur*"), mode=dice.choice(["any", "all", "none"])),
            dice.choice([KindIs(kinds=(Kind.COMMENT, Kind.MENTION)), ReadsAsOneOf(reads_as=(ReadsAs.COMPLAINT,))]),
            dice.choice(
                [
                    SentimentIs(at_most=-0.3),
                    ReachIs(at_least=50),
                    BareMention(),
                    Conditions(of="any", parts=(ReachIs(at_least=20),)),
                ]
            ),
        ]
        dice.shuffle(parts)
        body = RuleBody(name=f"Rule {n}", when=Conditions(parts=tuple(parts)), then=(SetPriority(priority=Priority.HIGH), AddTags(tags=(n,)), GiveTo(team=1)))  # fmt: skip
        rules.append(Rule(id=n, version=1, body=body))
    return rules


def make_heards(count: int, dice: random.Random) -> list[Heard]:
    at = datetime(2026, 11, 20, 12, 0, tzinfo=ZONE)
    first = Heard(message=0, conversation=0, person=0, kind=Kind.COMMENT, network="commonfold", account=1, text=fold_text(""), at=at, is_open=True)  # fmt: skip
    return [
        replace(
            first,
            message=n,
            kind=dice.choice(list(Kind)),
            text=fold_text(" ".join(dice.choices(WORDS, k=dice.randint(4, 30)))),
            sentiment=dice.uniform(-1, 1),
            reach=dice.randint(0, 99),
            chances={label: dice.random() for label in ReadsAs},
            mentions_other=dice.random() < 0.2,
            other_characters=dice.randint(0, 90),
        )
        for n in range(count)
    ]


def bench_rules() -> None:
    """Evaluations of one rule on one message, a second and core."""
    dice = random.Random(4)
    rules, heards = make_rules(200, dice), make_heards(10_000, dice)
    rates = []
    for at in range(0, 10_000, 1000):
        began = time.process_time()
        for heard in heards[at : at + 1000]:
            decide(rules, heard)
        rates.append(200 * 1000 / (time.process_time() - began))
    middle = statistics.median(rates)
    print(
        f"{'rules: 200 on 10,000 messages':<44}{middle:12,.0f} evaluations a second and core ({min(rates):,.0f} to {max(rates):,.0f})   target >= 20,000 {'met' if middle >= 20_000 else 'MISSED'}"
    )


def take_times(work: Callable[[int], object], count: int) -> list[float]:
    times = []
    for n in range(count):
        began = time.perf_counter()
        work(n)
        times.append((time.perf_counter() - began) * 1e6)
    return times


def bench_working_time() -> None:
    """One addition in a year of hours with holidays; pandas' custom business hours in turn with it, in the same run."""
    holidays = [date(2026, month, 24) for month in range(1, 13)]
    week = (read_spans("9-17"),) * 5 + ((), ())
    ours = WeeklyHours(zone=ZONE, week=week, special=dict.fromkeys(holidays, ()))
    dice = random.Random(5)
    begins = datetime(2026, 1, 5, tzinfo=UTC)
    starts = [begins + timedelta(minutes=dice.randrange(300 * 1440)) for _ in range(4000)]
    ours.add_working_minutes(begins, 1)
    theirs = [pd.Timestamp(s.astimezone(ZONE).replace(tzinfo=None)) for s in starts]
    offset = pd.offsets.CustomBusinessHour(n=8, start="09:00", end="17:00", holidays=holidays)
    mine, pandas = [], []
    for at in range(0, 400, 100):
        mine += take_times(lambda n, at=at: ours.add_working_minutes(starts[at * 10 + n], 480), 1000)  # type: ignore[misc]
        pandas += take_times(lambda n, at=at: theirs[at + n] + offset, 100)  # type: ignore[misc]
    middle = statistics.median(mine)
    print(
        f"{'working time: one addition, median':<44}{middle:12.1f} µs, pandas {statistics.median(pandas):.1f} µs   target < 20 {'met' if middle < 20 else 'MISSED'}"
    )


_FILL = """
insert into person (id, workspace_id, name, first_at) select n, %(w)s, 'P' || n, now() from generate_series(1, %(n)s) n;
insert into conversation (workspace_id, account_id, person_id, thread_key, kind, public, network, person_name, handle, preview,
  messages, created_at, last_at, last_inbound_at, last_inbound_seq, seq, sorted, move, priority, awaiting_since, due, unanswered,
  answering)
select %(w)s, %(a)s, n, 't', 'comment', true, 'commonfold', 'P' || n, 'p' || n, 'x', 1, t, t, t, 1, 1, true, 'our_move', n %% 4, t,
  t, '[]', '[]'
from generate_series(1, %(n)s) n cross join lateral (select now() - n * interval '37 seconds' as t) x
"""


async def bench_recount(conversations: int) -> None:
    """Every due anew after a change of hours."""
    with cluster.temporary(durable=True) as pg:
        pg.create_database("sorta")
        apply_migrations(pg.conninfo("sorta_owner", "sorta"), KEYS)
        house = make_house(Settings(database=pg.conninfo("sorta_web", "sorta"), keys=KEY))
        await house.open()
        try:
            workspace_id, _, account = await furnish(house)
            with pg.admin("sorta") as admin:
                for statement in _FILL.split(";"):
                    admin.execute(statement, {"w": workspace_id, "a": account.id, "n": conversations})  # type: ignore[arg-type]
                targets = {
                    a: {"urgent": 30, "high": 120, "normal": 480, "low": 960} for a in ("public", "private", "review")
                }
                admin.execute(
                    "insert into workspace_hours (workspace_id, week, special, targets, changed_at) values (%s, %s, '{}', %s, now())",
                    [workspace_id, Jsonb(["09:00-17:00"] * 5 + ["closed"] * 2), Jsonb(targets)],
                )
                admin.execute("vacuum analyze conversation")
            began = time.perf_counter()
            changed = await hours.recount_dues(house, workspace_id)
            took = time.perf_counter() - began
            print(
                f"{f'dues of {conversations:,} open ones counted anew':<44}{took:12.1f} s, {changed:,} changed   target < 20 for 100,000 {'met' if took < 20 * conversations / 100_000 else 'MISSED'}"
            )
        finally:
            await house.close()


def bench_suggestions(folds: int = 5) -> None:
    """How often the right one comes first, and among the first three, on answers that were held out: with all the others known, and with
    three a reply; how well the chance holds, and how often something is put in front of somebody where it is right and where nothing
    is."""
    pairs = read_topics()
    random.Random(7).shuffle(pairs)
    names = sorted({topic for _, topic in pairs})
    off = [o.text for o in read_texts(TEXTS) if o.language == "en"]
    random.Random(7).shuffle(off)
    for name, parts in (
        (
            "all others known",
            [([p for n, p in enumerate(pairs) if n % folds != f], pairs[f::folds]) for f in range(folds)],
        ),
        ("three a reply", [take_few(pairs, 3, seed) for seed in range(folds)]),
        ("thirty a reply", [take_few(pairs, 30, seed) for seed in range(folds)]),
    ):
        _bench_suggestions(name, names, parts, off[:150])


def _bench_suggestions(
    name: str, names: Sequence[str], parts: Sequence[tuple[Sequence[Pair], Sequence[Pair]]], off: Sequence[str]
) -> None:
    hits = {one: [0, 0] for one in ("most used", "BM25", "suggested")}
    chances, rights, none, took, total = list[float](), list[bool](), list[float](), list[float](), 0
    for known, held in parts:
        suggester = Suggester([Answered(text=text, reply=names.index(topic)) for text, topic in known])
        bm25 = BM25Okapi([text.lower().split() for text, _ in known])
        used = [topic for topic, _ in Counter(topic for _, topic in known).most_common(3)]
        held = held[:_MOST_HELD]
        total += len(held)
        for text, topic in held:
            began = time.perf_counter()
            ranked = suggester.rank(text, range(len(names)))
            took.append(time.perf_counter() - began)
            ours = [names[r.reply] for r in ranked]
            chances.append(ranked[0].chance if ranked else 0.0)
            rights.append(ours[:1] == [topic])
            order = bm25.get_scores(text.lower().split()).argsort()[::-1]
            theirs = list(dict.fromkeys(known[n][1] for n in order))
            for one, found in (("most used", used), ("BM25", theirs), ("suggested", ours)):
                hits[one][0] += topic in found[:1]
                hits[one][1] += topic in found[:3]
        none += [ranked[0].chance if (ranked := suggester.rank(text, range(len(names)))) else 0.0 for text in off]
    for one, (first, three) in hits.items():
        print(f"{f'saved replies, {name}: {one}':<44}{f'top 1 {first / total:.3f}, top 3 {three / total:.3f}':>26}")
    offered = [right for right, chance in zip(rights, chances, strict=True) if chance >= OFFERED_FROM]
    error = measure_calibration([*chances, *none], [*rights, *(False for _ in none)])
    print(
        f"{f'  offered where one is right {len(offered) / total:.3f}, right {sum(offered) / max(1, len(offered)):.3f}':<44}"
        f"; offered where none is {sum(c >= OFFERED_FROM for c in none) / len(none):.3f}; calibration error {error:.3f}"
        f" (on the topics alone {measure_calibration(chances, rights):.3f}); ranked in {statistics.median(took) * 1000:.2f} ms"
    )


if __name__ == "__main__":
    bench_suggestions()
    bench_rules()
    bench_working_time()
    uvloop.run(bench_recount(int(sys.argv[1]) if len(sys.argv) > 1 else 100_000))
