"""Holidays and hours as iCalendar, by RFC 5545: folded lines (3.1), escaped commas (3.3.11), a DTEND that is not
included (3.6.1), recurrence (3.3.10) less its exceptions (3.8.5.1). The first example is the RFC's own way of writing
an anniversary (3.6.1), from memory, with another name."""

from datetime import UTC, date, datetime
from zoneinfo import ZoneInfo

import pytest
from icalendar import Calendar

from sorta.core.calendars import CalendarRead, read_calendar, write_hours
from sorta.core.errors import Invalid
from sorta.core.working_time import WeeklyHours, read_spans, say_spans

ZONE = ZoneInfo("Europe/Copenhagen")


def make(*events: str) -> str:
    lines = ["BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//Test//EN"]
    for n, event in enumerate(events):
        lines += ["BEGIN:VEVENT", f"UID:{n}@test.example", "DTSTAMP:20260101T000000Z", *event.split("|"), "END:VEVENT"]
    return "\r\n".join([*lines, "END:VCALENDAR", ""])


WEEK = (read_spans("9-12:30, 13:30-17"),) * 4 + (read_spans("20-2"),) + ((),) * 2


def read_whole(text: str, since: date = date(2026, 11, 1), until: date = date(2028, 11, 1)) -> CalendarRead:
    return read_calendar(text, ZONE, since, until, lambda day: WEEK[day.weekday()])


def read(*events: str, since: date = date(2026, 11, 1), until: date = date(2028, 11, 1)) -> list[tuple[str, str, str]]:
    return [(d.day.isoformat(), say_spans(d.spans), d.name) for d in read_whole(make(*events), since, until).dates]


def leave_out(*events: str) -> list[tuple[str, str | None, str]]:
    return [(o.name, o.day and o.day.isoformat(), o.why) for o in read_whole(make(*events)).left_out]


def test_a_yearly_day_is_unfolded_within_the_time_asked_for() -> None:
    found = read("DTSTART;VALUE=DATE:20151102|SUMMARY:Founding day|RRULE:FREQ=YEARLY")
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


def test_times_make_hours_where_the_event_says_open_and_close_a_part_otherwise() -> None:
    times = "DTSTART;TZID=Europe/Copenhagen:20261224T090000|DTEND;TZID=Europe/Copenhagen:20261224T120000|SUMMARY:Half"
    assert read(times) == [("2026-12-24", "12:00-12:30, 13:30-17:00", "Half")]
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
        (make("DTSTART;VALUE=DATE:20261332|SUMMARY:No such day"), "no beginning that can be read|cannot be read"),
        (make("DTSTART;VALUE=DATE:20261224|DURATION:P9999999W|SUMMARY:For ever"), "cannot be read"),
        (make("DTSTART:20261224T100000|DTEND:20261224T100000|SUMMARY:At once"), "ends before it begins, or at once"),
        (make("DTSTART:20261224T100000|DTEND:20261226T100000|CATEGORIES:OPEN|SUMMARY:Days"), "more than a day"),
        (make("DTSTART;VALUE=DATE:20261102|SUMMARY:S|RRULE:FREQ=SECONDLY;BYMONTH=2;BYMONTHDAY=30"), "recur by days"),
        (make("DTSTART;VALUE=DATE:17000101|SUMMARY:Old|RRULE:FREQ=DAILY"), "too long ago"),
        (make(*["DTSTART;VALUE=DATE:20261102|SUMMARY:M"] * 5001), "more than 5000 events"),
    ],
)
def test_what_cannot_be_read_is_said(text: str, words: str) -> None:
    with pytest.raises(Invalid, match=words):
        read_whole(text)


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
    back = {d.day: d.spans for d in read_whole(text, date(2026, 11, 20), date(2027, 2, 1)).dates}
    assert back == special
    weekly = [e for e in Calendar.from_ical(text).walk("VEVENT") if "RRULE" in e]
    assert len(weekly) == 11
    assert len({str(e["UID"]) for e in Calendar.from_ical(text).walk("VEVENT")}) == 14


def test_half_days_are_cut_out_of_the_hours_of_their_date_in_the_workspaces_zone() -> None:
    assert read("DTSTART:20261224T120000Z|DTEND:20261224T230000Z|SUMMARY:Eve") == [("2026-12-24", "09:00-12:30", "Eve")]
    assert read("DTSTART:20261223T130000|DTEND:20261228T100000|SUMMARY:Break") == [
        ("2026-12-23", "09:00-12:30", "Break"),
        ("2026-12-24", "closed", "Break"),
        ("2026-12-25", "closed", "Break"),
        ("2026-12-28", "10:00-12:30, 13:30-17:00", "Break"),
    ]
    # Friday's hours reach into Saturday: a part of the night is closed.
    assert read("DTSTART:20261121T000000|DTEND:20261121T010000|SUMMARY:Night") == [
        ("2026-11-20", "20:00-24:00", "Night")
    ]


def test_several_parts_of_one_day_and_a_day_that_is_closed_anyway() -> None:
    parts = ("DTSTART:20261102T090000|DTEND:20261102T100000|SUMMARY:A", "DTSTART:20261102T160000|DTEND:20261102T180000|SUMMARY:B")  # fmt: skip
    assert read(*parts) == [("2026-11-02", "10:00-12:30, 13:30-16:00", "A")]
    assert read(*parts, "DTSTART;VALUE=DATE:20261102|SUMMARY:Closed") == [("2026-11-02", "closed", "Closed")]


def test_everything_that_changes_nothing_is_listed_with_its_reason() -> None:
    free = "DTSTART;VALUE=DATE:20261224|SUMMARY:Birthday of the founder|TRANSP:TRANSPARENT"
    assert read(free) == []
    assert leave_out(
        free,
        "DTSTART;VALUE=DATE:20261225|SUMMARY:Off|STATUS:CANCELLED",
        "DTSTART;VALUE=DATE:20251225|SUMMARY:Last year",
        "DTSTART:00010102T000000Z|DTEND:00010103T000000Z|SUMMARY:In the year one",
        "DTSTART;VALUE=DATE:20401225|SUMMARY:Far",
        "DTSTART:20261102T200000|DTEND:20261102T210000|SUMMARY:Evening",
        "DTSTART;VALUE=DATE:20261231|SUMMARY:Counts",
    ) == [
        ("Birthday of the founder", "2026-12-24", "the calendar marks that time as free"),
        ("Off", "2026-12-25", "it was cancelled"),
        ("Last year", "2025-12-25", "it lies in the past"),
        ("In the year one", "0001-01-02", "it lies in the past"),
        ("Far", "2040-12-25", "it lies further ahead than is read"),
        ("Evening", "2026-11-02", "it lies outside the hours of that day"),
    ]


def test_one_of_a_series_that_was_moved_is_not_on_its_old_date() -> None:
    series = "DTSTART;VALUE=DATE:20261102|SUMMARY:M|RRULE:FREQ=WEEKLY;COUNT=3"
    text = make(series, "DTSTART;VALUE=DATE:20261112|SUMMARY:M|RECURRENCE-ID;VALUE=DATE:20261109").replace(
        "UID:1@", "UID:0@"
    )
    assert [d.day.isoformat() for d in read_whole(text).dates] == ["2026-11-02", "2026-11-12", "2026-11-16"]


def test_a_recurrence_that_no_date_meets_ends() -> None:
    assert read("DTSTART;VALUE=DATE:20261102|SUMMARY:Never|RRULE:FREQ=DAILY;COUNT=5;BYMONTH=2;BYMONTHDAY=30") == []
