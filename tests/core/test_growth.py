"""No text from outside takes the process: work grows no faster than what it is given. Growth is measured in the same process,
by the processor's time and with a generous factor; how fast things are is for `make bench`."""

import time
from collections.abc import Callable

from sorta.core.letters import part_quoted
from sorta.core.links import find_links
from sorta.core.names import clean_name, find_caution, get_look
from sorta.core.people import get_first_name
from tests.world import get_reader


def check_growth(work: Callable[[str], object], piece: str, size: int) -> None:
    """Four times as much takes not much more than four times as long; a machine whose cores share their parts may be late twice."""
    for _ in range(3):
        spent = []
        for length in (size, 4 * size):
            text = (piece * length)[:length]
            begun = time.thread_time()
            work(text)
            spent.append(time.thread_time() - begun)
        if spent[1] < 12 * spent[0] + 0.05:
            return
    raise AssertionError(f"{work}, {piece!r}: {spent[0]:.3f} s, then {spent[1]:.3f} s")


def test_no_text_takes_the_reader_long() -> None:
    reader = get_reader()
    reader.judge("Hello there")
    for piece in ("😀", "NOT GOOD!!! ", "👨‍👩‍👧‍👦", "terrible ", "!?", "@a ", "don't ", "é", "http://a.b/"):
        check_growth(reader.judge, piece, 1500)


def test_no_letter_takes_its_reading_long() -> None:
    for piece in (
        "> a\n",
        "a\n> b\n",
        "-- \n",
        "On Monday, x@y wrote:\n",
        "From: a\n",
        "\n",
        "> " * 40 + "\n",
        "--\n",
        "____________\n",
        "On 1 wrote 1",
        "On 1 schrieb\n",
        "Sent: x\nFrom: x\n",
        "mail confidential recipient ",
        "Sent from my phone\n",
        "Sent from my phone\n\n",
        "a wrote on 17:00\n",
    ):
        check_growth(part_quoted, piece, 20_000)


def test_no_text_takes_finding_its_links_or_looks_long() -> None:
    for find in (find_links, clean_name, get_look, find_caution, get_first_name):
        for piece in (
            "https://",
            "https://a.",
            "https://a.example/(",
            "看https://x。",
            "a\u200d",
            "\U0001f3f4\U000e0067",
            "क\u0941",
            "\u0430b",
            "x-",
        ):
            check_growth(find, piece, 10_000)
