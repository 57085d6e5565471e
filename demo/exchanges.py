"""What people write in the demo and what they are answered, read from demo/texts. Used by demo.themes and demo.stories.

A file holds exchanges with an empty line between them: `> ` is what they write, `< ` what we answer, `! ` a note among
colleagues; `< =name` is an answer that the team has saved under that name. A line that begins with `: ` says more about
the exchange: its language, its stars, `private` when it is nobody else's business. A file without `> ` has one opening a line.
"""

import random
import re
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

TEXTS = Path(__file__).parent / "texts"
#: What the team says again and again, by name.
SHARED = {
    "hours": "We are open Monday to Friday 9 to 17 and Saturday 10 to 14. Last entry is 45 minutes before closing.",
    "quiet": "The quietest hours are weekdays after 14:30. There is a calm room next to the reef as well, just ask at the desk.",
    "feeding": "Yes, both feedings stay. Come ten minutes early with a group and a keeper will wave you to the low bench.",
    "stepfree": "There is a lift by the side entrance and plenty of room for a pram. Ask at the desk for the step-free map.",
    "refund": "Thank you for the booking number. The second charge is on its way back; it takes three working days.",
    "booking": "I am sorry about that. Could you send me the booking number, so that I can look it up?",
    "moved": "I have moved your tickets. The new confirmation should be in your mail now, do look in the spam folder as well.",
    "ferry": "The tickets stay valid for a year when a ferry is cancelled. Just show the old booking at the desk.",
    "queue": "I am sorry you were left standing in the rain. That morning two tills were down; it should not have taken that long. May I make up for it?",
    "desk": "Thank you for telling us, and I am sorry. I have passed the time and the place on to the front desk team.",
    "school": "How lovely. Groups from 10 children pay the group price and get a table in the dining hall. Could you send the date and how many adults?",
    "talk": "A keeper's talk is possible on weekday mornings. I am asking which day suits and come back to you today.",
    "thanks": "We are so glad. See you again soon.",
    "evenings": "Yes, with the pass the evenings are half price.",
    "pase": "Sí, el carné vale en los dos lugares. ¡Hasta pronto!",
    "karte": "Ja, an allen Öffnungstagen. Sie gilt ab dem Tag des Kaufs.",
    "kort": "Ja, to voksne på samme adresse kan dele det.",
    "carte": "Jusqu'à quatre ans, l'entrée est gratuite.",
    "karta": "Tak, wszystkie wystawy są w cenie.",
    "walk": "Thank you for telling us. Our keeper is at the pool now and the vet is on her way.",
    "vet": "The ray has been seen by our vet. It is a healed mark from last year, and she is eating well. The pool is closed until tomorrow so that she has some quiet.",
    "vetde": "Unsere Tierärztin hat ihn gesehen: eine alte, verheilte Stelle, und er frisst gut. Das Becken bleibt bis morgen zu, damit er Ruhe hat.",
}
_FILLED = re.compile(r"\{(day|time|n|booking|animal)\}")


class Unreadable(Exception):
    """A file of texts is not written as it has to be."""


@dataclass(frozen=True, kw_only=True)
class Exchange:
    """What is said in one conversation, in turns: True is theirs. The first is theirs."""

    turns: tuple[tuple[bool, str], ...]
    language: str = "en"
    stars: int | None = None
    private: bool = False
    note: str | None = None

    @property
    def opening(self) -> str:
        return self.turns[0][1]

    @property
    def longest_answer(self) -> int:
        """Characters, at most; what is filled in does not come into answers."""
        return max((len(text) for theirs, text in self.turns if not theirs), default=0)

    @property
    def is_answered(self) -> bool:
        return len(self.turns) > 1


def read(name: str) -> tuple[Exchange, ...]:
    """The exchanges of a file. Raises Unreadable with the place."""
    text = (TEXTS / f"{name}.txt").read_text()
    if not re.search(r"^> ", text, re.MULTILINE):
        return tuple(Exchange(turns=((True, line),)) for line in text.splitlines() if line)
    return tuple(_read_one(name, block) for block in re.split(r"\n\n+", text.strip()))


def _read_one(name: str, block: str) -> Exchange:
    turns: list[tuple[bool, str]] = []
    more: dict[str, str | int | bool] = {}
    for line in block.splitlines():
        mark, _, said = line.partition(" ")
        if mark == ":":
            for word in said.split():
                if word == "private":
                    more["private"] = True
                elif word.isdigit():
                    more["stars"] = int(word)
                else:
                    more["language"] = word
        elif mark == "!":
            more["note"] = said
        elif mark in "><" and said:
            turns.append((mark == ">", SHARED[said[1:]] if said.startswith("=") else said))
        else:
            raise Unreadable(f"{name}: {line}")
    if not turns or not turns[0][0]:
        raise Unreadable(f"{name}: nobody begins in {block!r}")
    return Exchange(turns=tuple(turns), **more)  # type: ignore[arg-type]


def fits_all(_: Exchange) -> bool:
    """Anything will do."""
    return True


class Deck:
    """Exchanges dealt by chance, each once before any comes again, and none soon after itself."""

    def __init__(self, exchanges: tuple[Exchange, ...], dice: random.Random) -> None:
        self._all, self._dice = exchanges, dice
        self._left: list[Exchange] = []
        self._dealt: list[Exchange] = []

    def deal(self, fits: Callable[[Exchange], bool] = fits_all) -> Exchange:
        """The next that fits. Raises LookupError when none does."""
        for _ in range(2):
            found = next((n for n, one in enumerate(self._left) if fits(one)), None)
            if found is not None:
                one = self._left.pop(found)
                self._dealt.append(one)
                return one
            self._shuffle()
        raise LookupError("no exchange fits")

    def _shuffle(self) -> None:
        """Those dealt long ago come first, those dealt lately last."""
        half = len(self._dealt) // 2
        early, late = self._dealt[:half], self._dealt[half:]
        fresh = [one for one in self._all if one not in self._left and one not in self._dealt]
        for part in (early, late, fresh):
            self._dice.shuffle(part)
        self._left += [*fresh, *early, *late]
        self._dealt = []


class Filling:
    """Days, times and numbers in the place of what stands in braces, the same all through one conversation."""

    def __init__(self, dice: random.Random, animals: tuple[str, ...], days: tuple[str, ...]) -> None:
        self._values = {
            "day": dice.choice(days),
            "time": f"{dice.randint(9, 16)}:{dice.choice(['00', '15', '30', '45'])}",
            "n": str(dice.randint(11, 45)),
            "booking": f"{dice.randint(40, 59)}-{dice.randint(1000, 9999)}",
            "animal": dice.choice(animals),
        }

    def fill(self, text: str) -> str:
        return _FILLED.sub(lambda found: self._values[found[1]], text)
