"""What is asked about before hours and targets are kept, and times that a clock change skips. Common practice, no source; the
skipped times are RFC 5545, 3.3.5 (from memory): such a time uses the offset before it."""

from datetime import date
from zoneinfo import ZoneInfo

import pytest

from sorta.core.slips import list_questions, list_skipped
from sorta.core.targets import DEFAULT_MINUTES, Audience, Priority, Targets
from sorta.core.working_time import WeeklyHours, read_spans

ZONE = ZoneInfo("Europe/Berlin")


def make(text: str, **special: str) -> WeeklyHours:
    days = {date.fromisoformat(day.replace("_", "-")[1:]): read_spans(said) for day, said in special.items()}
    return WeeklyHours(zone=ZONE, week=(read_spans(text), *((read_spans("9-17"),) * 6)), special=days)


@pytest.mark.parametrize("text", ["9-17", "0-24", "22-6", "20-8", "closed", "9-12:30, 13:30-17", "0-9, 18-24"])
def test_what_is_plain_is_not_asked_about(text: str) -> None:
    assert list_questions(make(text), Targets()) == ()


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("9-9", "Monday: 09:00-09:00 is open for 24 hours, until the same time the next day."),
        ("17-9", "Monday: 17:00-09:00 is open through the night, for 16 hours."),
        ("17:30-9", "Monday: 17:30-09:00 is open through the night, for 15 hours and 30 minutes."),
    ],
)
def test_what_looks_written_the_wrong_way_round_is_asked_about(text: str, words: str) -> None:
    assert list_questions(make(text), Targets()) == (words,)


def test_days_of_the_same_hours_are_one_question_and_special_dates_carry_their_year() -> None:
    hours = make("17-9", d2026_12_24="17-9")
    assert list_questions(hours, Targets()) == (
        "Monday and 24 December 2026: 17:00-09:00 is open through the night, for 16 hours.",
    )


def test_an_urgent_target_above_that_of_low_is_asked_about() -> None:
    minutes = {audience: dict(DEFAULT_MINUTES) for audience in Audience}
    minutes[Audience.PRIVATE][Priority.URGENT] = 2000
    assert list_questions(make("9-17"), Targets(minutes=minutes)) == (
        "In private Urgent would be answered within 2000 minutes, later than High within 120.",
    )


def test_a_time_that_a_clock_change_skips_says_what_it_becomes() -> None:
    """Sunday 28 March 2027: Berlin goes from 2:00 to 3:00."""
    week = (read_spans("9-17"),) * 6 + (read_spans("2:30-8"),)
    hours = WeeklyHours(zone=ZONE, week=week)
    assert list_skipped(hours, date(2026, 11, 27), 380) == (
        (date(2027, 3, 28), "02:30 does not come that night; it becomes 03:30."),
    )
    over_night = WeeklyHours(zone=ZONE, week=(*week[:5], read_spans("20-2:15"), ()))
    assert list_skipped(over_night, date(2026, 11, 27), 380)[0][0] == date(2027, 3, 28)
    assert list_skipped(make("9-17"), date(2026, 11, 27), 380) == ()
