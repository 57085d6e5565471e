"""What members say of messages teaches: learned in a process of its own, used when it is better, taken back by a word.

The written texts here are few and invented, so that learning takes a second; that it is done with those in `texts` is main's choice.
"""

import asyncio
import sys
from dataclasses import dataclass, field, replace
from pathlib import Path

import pytest

from sorta.core.errors import NotAllowed, TooLate
from sorta.core.own_reading import FEWEST, CannotLearn, Taught, Told
from sorta.services import acts, own_reading, reading
from sorta.services.lessons import relearn, teach
from sorta.services.reader import LearnedReader
from sorta.services.teaching import ApartTeacher
from sorta.store import weights
from tests.core.test_learning import SAID, THINGS
from tests.services.test_sorting import message_of
from tests.world import World

pytestmark = pytest.mark.anyio
MARKS = {"question": "q", "complaint": "c", "praise": "p", "thanks": "t", "spam": "s"}
TONES = {"negative": "-", "neutral": "0", "positive": "+"}
#: What is a complaint at this desk, and nowhere in the written texts.
HERE = "the {} ate my card at the {} turnstile"


@pytest.fixture(scope="module")
def texts(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder of written texts, and beside it what was learned from them."""
    folder = tmp_path_factory.mktemp("texts")
    lines = []
    for thing in THINGS:
        lines.append(f"# author: someone  topic: {thing}")
        for said, (labels, tone) in SAID.items():
            marks = "".join(MARKS[label] for label in sorted(labels)) or "-"
            lines += [f"{marks} {TONES[tone]} {said.format(thing, other)}" for other in THINGS[:3]]
    (folder / "en-1.txt").write_text("\n".join(lines))
    (folder / "words").mkdir()
    assert teach(folder, folder / "learned.npz")
    return folder


@dataclass
class Here:
    """A teacher without a process of its own; counts how often it was asked, and lets others in meanwhile."""

    texts: Path
    asked: list[list[Told]] = field(default_factory=list)
    meanwhile: list[object] = field(default_factory=list)

    async def learn(self, told: list[Told], present: bytes | None) -> Taught:
        self.asked.append(told)
        before = weights.load(self.texts / "learned.npz") if present is None else weights.unpack(present)
        taught = await asyncio.to_thread(relearn, self.texts, told, before)
        for do in self.meanwhile:
            await do()
        return taught


@pytest.fixture
def teacher(world: World, texts: Path) -> Here:
    made = Here(texts)
    world.house = replace(world.house, reader=LearnedReader.load(texts / "learned.npz"), teacher=made)
    return made


async def say_what_they_are(world: World, count: int, *, first: int = 0) -> list[int]:
    """Messages that are complaints here, each corrected; their conversations."""
    ids = []
    for n in range(first, first + count):
        id = await world.hear(HERE.format(THINGS[n % 10], THINGS[n // 10 % 10]), handle=f"p{n}")
        message = (await message_of(world, id))["id"]
        for what, value in (("reads_as", ["complaint"]), ("sentiment", "negative")):
            await acts.correct(
                world.house, world.scopes["mara"], id, message_id=message, field=what, value=value, now=world.now
            )
        ids.append(id)
    return ids


async def learn(world: World) -> bool:
    return await own_reading.learn_due(world.house, world.workspace_id, world.now)


async def describe(world: World) -> dict:
    return (await reading.get_accuracy(world.house, world.scopes["mara"], world.now))["own"]


async def test_from_20_on_corrections_teach_and_the_next_message_is_read_by_it(world: World, teacher: Here) -> None:
    await say_what_they_are(world, FEWEST - 1)
    assert await learn(world) is False
    assert teacher.asked == []
    assert (await describe(world)) == {"said": FEWEST - 1, "still_needed": 1, "latest": None}
    before = await world.row(await world.hear(HERE.format("lift", "north"), handle="before"))
    assert "complaint" not in before["reads_as"]
    await say_what_they_are(world, 21, first=FEWEST - 1)
    assert await learn(world) is True
    told = await describe(world)
    latest = told["latest"]
    assert (latest["state"], latest["learned"] + latest["kept"]) == ("in_use", 40)
    assert latest["right_after"] > latest["right_before"]
    assert {"conversation_id", "body", "id"} == set(latest["better"][0])
    after = await world.row(await world.hear(HERE.format("lift", "north"), handle="after"))
    assert after["reads_as"] == ["complaint"]
    # Said of this one, the member's word holds, whatever is read elsewhere.
    id = await world.hear(HERE.format("lift", "south"), handle="other")
    message = (await message_of(world, id))["id"]
    await acts.correct(
        world.house, world.scopes["mara"], id, message_id=message, field="reads_as", value=["praise"], now=world.now
    )
    assert (await world.row(id))["reads_as"] == ["praise"]
    assert await learn(world) is False, "nothing new was said"
    assert len(teacher.asked) == 1


async def test_elsewhere_nothing_changes_and_taken_back_it_reads_as_everybody_does(world: World, teacher: Here) -> None:
    await say_what_they_are(world, 30)
    assert await learn(world) is True
    house, ours = world.house, world.workspace_id
    assert await own_reading.get_reader(house, ours) is not house.reader
    assert await own_reading.get_reader(house, world.other_workspace_id) is house.reader
    with pytest.raises(NotAllowed):
        await own_reading.take_back(house, world.scopes["ilse"], world.now)
    await own_reading.take_back(house, world.scopes["mara"], world.now)
    assert await own_reading.get_reader(house, ours) is house.reader
    with pytest.raises(TooLate):
        await own_reading.take_back(house, world.scopes["mara"], world.now)
    told = await describe(world)
    assert (told["latest"]["state"], told["latest"]["ended_by"]) == ("taken_back", world.scopes["mara"].member_id)
    assert told["still_needed"] == 10
    assert await learn(world) is False
    await say_what_they_are(world, 10, first=30)
    assert await learn(world) is True
    assert len(teacher.asked) == 2


async def test_what_is_no_better_is_not_used_and_says_so(world: World, teacher: Here) -> None:
    # Said of what reads right already: there is nothing to be better at.
    for n in range(FEWEST):
        id = await world.hear(f"where is the {THINGS[n % 10]} and when does it open?", handle=f"p{n}")
        message = (await message_of(world, id))["id"]
        await acts.correct(
            world.house, world.scopes["mara"], id, message_id=message, field="reads_as", value=["question"], now=world.now
        )  # fmt: skip
    assert await learn(world) is False
    told = await describe(world)
    assert told["latest"]["state"] == "no_better"
    assert told["latest"]["right_after"] <= told["latest"]["right_before"]
    assert await own_reading.get_reader(world.house, world.workspace_id) is world.house.reader


async def test_what_was_undone_or_removed_teaches_nothing(world: World, teacher: Here) -> None:
    ids = await say_what_they_are(world, FEWEST)
    events = await world.kinds(ids[0])
    for seq in range(len(events), 0, -1):
        if events[seq - 1] == "corrected":
            await acts.undo(world.house, world.scopes["mara"], ids[0], seq=seq, now=world.now)
    assert (await describe(world))["said"] == FEWEST - 1
    async with world.house.db.transact(world.workspace_id) as tx:
        await tx.execute("update message set removed_at = now() where conversation_id = %s", [ids[1]])
    assert (await describe(world))["said"] == FEWEST - 2
    assert await learn(world) is False


async def test_taken_back_while_it_is_learned_anew_nothing_takes_over(world: World, teacher: Here) -> None:
    await say_what_they_are(world, 30)
    assert await learn(world) is True
    await say_what_they_are(world, 10, first=30)
    teacher.meanwhile = [lambda: own_reading.take_back(world.house, world.scopes["mara"], world.now)]
    assert await learn(world) is False
    assert (await describe(world))["latest"]["state"] == "taken_back"


async def test_learned_with_other_texts_it_waits_to_be_learned_anew(
    world: World, teacher: Here, texts: Path, tmp_path: Path
) -> None:
    await say_what_they_are(world, 30)
    assert await learn(world) is True
    kept = weights.load(texts / "learned.npz")
    other = replace(kept, learned_from="other texts")
    weights.save(tmp_path / "other.npz", other)
    world.house = replace(world.house, reader=LearnedReader.load(tmp_path / "other.npz"), readers={})
    assert await own_reading.get_reader(world.house, world.workspace_id) is world.house.reader
    with pytest.raises(CannotLearn, match="not those that messages are read by"):
        await ask_relearn(texts, other)


async def ask_relearn(texts: Path, present: weights.Weights) -> Taught:
    return await asyncio.to_thread(relearn, texts, [], present)


async def test_in_a_process_of_its_own_it_is_learned_the_same(world: World, texts: Path) -> None:
    code = (
        "import sys; from pathlib import Path; from sorta.services.teaching import answer_once;"
        "from sorta.services.apart import answer_apart; texts = Path(sys.argv[1]);"
        "answer_apart(lambda asked, say: answer_once(texts, texts / 'learned.npz', asked), sys.stdin, sys.stdout)"
    )
    told = [
        Told(message=n, text=HERE.format(a, "old"), labels=frozenset({"complaint"}), tone="negative")
        for n, a in enumerate(THINGS * 2)
    ]
    apart = await ApartTeacher((sys.executable, "-c", code, str(texts))).learn(told, None)
    here = await Here(texts).learn(told, None)
    assert apart == here
    assert apart.compared.takes_over
    again = await ApartTeacher((sys.executable, "-c", code, str(texts))).learn(told, apart.weights)
    assert again.compared.before.right == apart.compared.after.right
    assert not again.compared.takes_over


async def test_what_goes_wrong_in_it_is_said_and_who_waits_no_longer_ends_it() -> None:
    with pytest.raises(CannotLearn, match="no such luck"):
        await ApartTeacher((sys.executable, "-c", "raise SystemExit('no such luck')")).learn([], None)
    asked = asyncio.create_task(ApartTeacher((sys.executable, "-c", "import time; time.sleep(60)")).learn([], None))
    await asyncio.sleep(0.3)
    asked.cancel()
    async with asyncio.timeout(5):
        with pytest.raises(asyncio.CancelledError):
            await asked
