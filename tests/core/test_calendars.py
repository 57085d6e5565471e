"""Holidays and hours as iCalendar, by RFC 5545: folded lines (3.1), escaped commas (3.3.11), a DTEND that is not
included (3.6.1), recurrence (3.3.10) less its exceptions (3.8.5.1). The first example is the RFC's own way of writing
an anniversary (3.6.1), from memory, with another name."""

from datetime import UTC, date, datetime
from zoneinfo import ZoneInfo

import pytest
from icalendar import Calendar

from sorta.core.calendars import read_dates, write_hours
from sorta.core.errors import Invalid
from sorta.core.working_time import WeeklyHours, read_spans, say_spans

ZONE = ZoneInfo("Europe/Copenhagen")


def make(*events: str) -> str:
    lines = ["BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//Test//EN"]
    for n, event in enumerate(events):
        lines += ["BEGIN:VEVENT", f"UID:{n}@test.example", "DTSTAMP:20260101T000000Z", *event.split("|"), "END:VEVENT"]
    return "\r\n".join([*lines, "END:VCALENDAR", ""])


def read(*events: str, since: date = date(2026, 11, 1), until: date = date(2028, 11, 1)) -> list[tuple[str, str, str]]:
    return [(d.day.isoformat(), say_spans(d.spans), d.name) for d in read_dates(make(*events), ZONE, since, until)]


def test_a_yearly_day_is_unfolded_within_the_time_asked_for() -> None:
    found = read("DTSTART;VALUE=DATE:20151102|SUMMARY:Founding day|TRANSP:TRANSPARENT|RRULE:FREQ=YEARLY")
    assert found == [("2026-11-02", "closed", "Founding day"), ("2027-11-02", "closed", "Founding day")]


def test_several_days_end_before_dtend_and_one_without_it_is_one_day() -> None:
    assert read("DTSTART;VALUE=DATE:20261224|DTEND;VALUE=DATE:20261227|SUMMARY:Christmas\\, closed") == [
        ("2026-12-24", "closed", "Christmas, closed"),
        ("2026-12-25", "closed", "Christmas, closed"),
        ("2026-12-26", "closed", "Christmas, closed"),
    ]
    assert read("DTSTART;VALUE=DATE:20261231|SUMMARY:Eve")[0][0] == "2026-12-31"
    assert len(read("DTSTART;VALUE=DATE:20261231|DURATION:P2D|SUMMARY:Two")) == 2


def test_folded_lines_cancelled_events_and_exceptions() -> None:
    assert read("DTSTART;VALUE=DATE:20261120|SUMMARY:A long na\r\n me") == [("2026-11-20", "closed", "A long name")]
    assert read("DTSTART;VALUE=DATE:20261120|SUMMARY:No|STATUS:CANCELLED") == []
    weekly = "DTSTART;VALUE=DATE:20261102|SUMMARY:M|RRULE:FREQ=WEEKLY;COUNT=3|EXDATE;VALUE=DATE:20261109"
    assert [d for d, _, _ in read(weekly)] == ["2026-11-02", "2026-11-16"]
    ending = "DTSTART;VALUE=DATE:20261102|SUMMARY:M|RRULE:FREQ=WEEKLY;UNTIL=20261116"
    assert [d for d, _, _ in read(ending)] == ["2026-11-02", "2026-11-09", "2026-11-16"]


def test_times_make_hours_where_the_event_says_open_and_are_left_alone_otherwise() -> None:
    times = "DTSTART;TZID=Europe/Copenhagen:20261224T090000|DTEND;TZID=Europe/Copenhagen:20261224T120000|SUMMARY:Half"
    assert read(times) == []
    assert read(f"{times}|CATEGORIES:OPEN") == [("2026-12-24", "09:00-12:00", "Half")]
    assert read("DTSTART:20261224T080000Z|DTEND:20261224T110000Z|SUMMARY:Utc|CATEGORIES:OPEN") == [
        ("2026-12-24", "09:00-12:00", "Utc")
    ]


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("not a calendar", "no iCalendar file"),
        (make("SUMMARY:When"), "no beginning"),
        (make("DTSTART;VALUE=DATE:20261224|DTEND;VALUE=DATE:20261224|SUMMARY:Nothing"), "ends before"),
        (make("DTSTART;VALUE=DATE:20200101|SUMMARY:Every day|RRULE:FREQ=DAILY"), "more than 400 dates"),
        ("x" * 1_000_001, "too large"),
    ],
)
def test_what_cannot_be_read_is_said(text: str, words: str) -> None:
    with pytest.raises(Invalid, match=words):
        read_dates(text, ZONE, date(2026, 11, 1), date(2028, 11, 1))


def test_hours_are_written_so_that_they_read_back_and_a_calendar_takes_them() -> None:
    special = {date(2026, 12, 25): (), date(2026, 12, 24): read_spans("9-12"), date(2026, 12, 31): read_spans("22-2")}
    hours = WeeklyHours(
        zone=ZONE, week=(read_spans("9-12:30, 13:30-17"),) * 5 + (read_spans("10-14"), ()), special=special
    )
    text = write_hours(
        hours, {}, begins=date(2026, 11, 20), stamp=datetime(2026, 11, 20, tzinfo=UTC), domain="sorta.example"
    )
    assert "\r\n" in text
    assert all(len(line.encode()) <= 75 for line in text.split("\r\n"))
    back = {d.day: d.spans for d in read_dates(text, ZONE, date(2026, 11, 20), date(2027, 2, 1))}
    assert back == special
    weekly = [e for e in Calendar.from_ical(text).walk("VEVENT") if "RRULE" in e]
    assert len(weekly) == 11
    assert len({str(e["UID"]) for e in Calendar.from_ical(text).walk("VEVENT")}) == 14
