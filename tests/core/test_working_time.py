"""Working time against worked cases (docs/references.md 1), an independent slow oracle, and by its properties."""

from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo, available_timezones

import pandas as pd
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sorta.core.errors import Invalid
from sorta.core.working_time import DAY, RoundTheClock, Span, WeeklyHours, read_spans, say_spans

BERLIN = ZoneInfo("Europe/Berlin")
NEW_YORK = ZoneInfo("America/New_York")
SYDNEY = ZoneInfo("Australia/Sydney")
LORD_HOWE = ZoneInfo("Australia/Lord_Howe")


def span(starts: float, ends: float) -> Span:
    return Span(starts=int(starts * 60), ends=int(ends * 60))


def week(*spans: Span, days: range = range(5)) -> tuple[tuple[Span, ...], ...]:
    return tuple(spans if day in days else () for day in range(7))


OFFICE = week(span(9, 17))
DAILY = range(7)
SATURDAY_NIGHT = week(span(22, 30), days=range(5, 6))


@pytest.mark.parametrize(
    ("zone", "hours", "special", "start", "minutes", "end"),
    [
        (NEW_YORK, OFFICE, {}, "2026-03-06 16:00", 120, "2026-03-09T10:00:00-04:00"),
        (BERLIN, OFFICE, {}, "2026-10-23 16:00", 120, "2026-10-26T10:00:00+01:00"),
        (BERLIN, week(span(0, 8), days=DAILY), {}, "2026-10-25 00:00", 540, "2026-10-25T08:00:00+01:00"),
        (NEW_YORK, SATURDAY_NIGHT, {}, "2026-03-07 22:00", 420, "2026-03-08T06:00:00-04:00"),
        (BERLIN, week(span(9, 12.5), span(13.5, 17.5)), {}, "2026-11-19 11:45", 60, "2026-11-19T13:45:00+01:00"),
        (BERLIN, OFFICE, {date(2026, 12, 25): ()}, "2026-12-24 16:30", 60, "2026-12-28T09:30:00+01:00"),
        (NEW_YORK, OFFICE, {}, "2026-11-21 11:00", 30, "2026-11-23T09:30:00-05:00"),
        (NEW_YORK, OFFICE, {}, "2026-11-20 16:00", 60, "2026-11-20T17:00:00-05:00"),
        (SYDNEY, OFFICE, {date(2026, 10, 5): ()}, "2026-10-02 16:30", 60, "2026-10-06T09:30:00+11:00"),
        (NEW_YORK, week(span(0, 24), days=DAILY), {}, "2026-03-08 00:00", 1380, "2026-03-09T00:00:00-04:00"),
    ],
)
def test_the_worked_cases(zone, hours, special, start: str, minutes: int, end: str) -> None:
    """docs/references.md 1, row by row."""
    calendar = WeeklyHours(zone=zone, week=hours, special=special)
    begins = datetime.fromisoformat(start).replace(tzinfo=zone)
    ends = calendar.add_working_minutes(begins, minutes)
    assert ends.isoformat() == end
    assert calendar.working_minutes_between(begins, ends) == minutes


def test_between_a_saturday_and_a_sunday_nothing_is_worked() -> None:
    """docs/references.md 1: NY MF, between Sat 11:00 and Sun 20:00 = 0."""
    calendar = WeeklyHours(zone=NEW_YORK, week=OFFICE)
    saturday = datetime(2026, 11, 21, 11, tzinfo=NEW_YORK)
    assert calendar.working_minutes_between(saturday, datetime(2026, 11, 22, 20, tzinfo=NEW_YORK)) == 0
    assert calendar.working_minutes_between(saturday, saturday - timedelta(days=3)) == 0


def test_a_skipped_hour_is_not_worked_and_a_doubled_one_is_worked_twice() -> None:
    """Wall clocks of the tz database: Berlin 2026-03-29 has no hour 2, 2026-10-25 has it twice; Lord Howe moves by 30."""
    for zone, day, expected in (
        (BERLIN, date(2026, 3, 29), 23 * 60),
        (BERLIN, date(2026, 10, 25), 25 * 60),
        (LORD_HOWE, date(2026, 4, 5), 24 * 60 + 30),
        (LORD_HOWE, date(2026, 10, 4), 24 * 60 - 30),
    ):
        calendar = WeeklyHours(zone=zone, week=week(span(0, 24), days=DAILY))
        start = datetime.combine(day, datetime.min.time(), zone)
        end = datetime.combine(day + timedelta(days=1), datetime.min.time(), zone)
        assert calendar.working_minutes_between(start, end) == expected


def test_an_evening_goes_on_into_a_closed_day_and_hours_that_touch_are_one() -> None:
    calendar = WeeklyHours(
        zone=BERLIN, week=week(span(8, 20), span(20, 26), days=DAILY), special={date(2026, 11, 20): ()}
    )
    eve = datetime(2026, 11, 19, 23, tzinfo=BERLIN)
    assert calendar.add_working_minutes(eve, 180) == datetime(2026, 11, 20, 2, tzinfo=BERLIN)
    assert calendar.add_working_minutes(eve, 181) == datetime(2026, 11, 21, 8, 1, tzinfo=BERLIN)
    assert calendar.is_open(datetime(2026, 11, 20, 1, tzinfo=BERLIN))
    assert not calendar.is_open(datetime(2026, 11, 20, 2, tzinfo=BERLIN))


def test_over_new_year() -> None:
    calendar = WeeklyHours(zone=SYDNEY, week=week(span(22, 30), days=DAILY))
    start = datetime(2026, 12, 31, 23, tzinfo=SYDNEY)
    assert calendar.add_working_minutes(start, 7 * 60) == datetime(2027, 1, 1, 6, tzinfo=SYDNEY)
    assert calendar.working_minutes_between(start, datetime(2029, 1, 1, tzinfo=SYDNEY)) == (365 + 366) * 480 + 60


@pytest.mark.parametrize(("starts", "ends"), [(-1, 60), (DAY, DAY + 60), (60, 60), (60, 60 + DAY + 1)])
def test_hours_that_make_no_sense_are_refused(starts: int, ends: int) -> None:
    with pytest.raises(Invalid) as refused:
        Span(starts=starts, ends=ends)
    assert refused.value.field == "hours"


def test_overlaps_short_weeks_and_hours_that_never_open_are_refused() -> None:
    with pytest.raises(Invalid, match="overlap"):
        WeeklyHours(zone=BERLIN, week=week(span(9, 12), span(11, 13)))
    with pytest.raises(Invalid, match="seven"):
        WeeklyHours(zone=BERLIN, week=((),))
    closed = WeeklyHours(zone=BERLIN, week=week())
    with pytest.raises(Invalid, match="never open"):
        closed.add_working_minutes(datetime(2026, 1, 1, tzinfo=UTC), 1)
    with pytest.raises(ValueError, match="naive"):
        closed.add_working_minutes(datetime(2026, 1, 1), 1)
    with pytest.raises(ValueError, match="taken back"):
        closed.add_working_minutes(datetime(2026, 1, 1, tzinfo=UTC), -1)


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("9-17", "09:00-17:00"),
        ("13:30 – 17.30, 9-12:30", "09:00-12:30, 13:30-17:30"),
        ("22-6", "22:00-06:00"),
        ("0-24", "00:00-24:00"),
        (" Closed ", "closed"),
        ("", "closed"),
    ],
)
def test_hours_as_people_write_them(text: str, said: str) -> None:
    assert say_spans(read_spans(text)) == said
    assert read_spans(said) == read_spans(text)


@pytest.mark.parametrize("text", ["nine to five", "9", "25-26", "9:75-10", "9-17;18-19", "9-24:30"])
def test_hours_nobody_can_read_are_refused(text: str) -> None:
    with pytest.raises(Invalid) as refused:
        read_spans(text)
    assert refused.value.field == "hours", "the form marks where it is"


def test_the_next_opening() -> None:
    calendar = WeeklyHours(zone=BERLIN, week=OFFICE, special={date(2026, 11, 23): ()})
    friday = datetime(2026, 11, 20, 16, 59, tzinfo=BERLIN)
    assert calendar.get_next_open(friday) == friday
    assert calendar.get_next_open(friday + timedelta(minutes=1)) == datetime(2026, 11, 24, 9, tzinfo=BERLIN)
    with pytest.raises(Invalid, match="never open") as refused:
        WeeklyHours(zone=BERLIN, week=week()).get_next_open(friday)
    assert refused.value.field == "hours"


def test_no_working_time_is_a_number_too() -> None:
    at = datetime(2026, 11, 20, 12, tzinfo=BERLIN)
    for hours in (RoundTheClock(), WeeklyHours(zone=BERLIN, week=OFFICE)):
        for start, end in ((at, at), (at, at - timedelta(hours=1))):
            passed = hours.working_minutes_between(start, end)
            assert (passed, type(passed)) == (0.0, float)


#: Whole hours outside 1 to 4, where clocks change: there the oracle below reads the wall in another way on purpose.
HOUR = st.sampled_from([0, 5, 6, 8, 9, 12, 14, 17, 20, 22, 24])


@st.composite
def calendars(draw: st.DrawFn) -> WeeklyHours:
    days = []
    for _ in range(7):
        edges = sorted(draw(st.lists(HOUR, max_size=4, unique=True)))
        spans = [span(a, b) for a, b in zip(edges[::2], edges[1::2], strict=False)]
        if draw(st.booleans()) and (not spans or spans[-1].ends < 22 * 60):
            spans.append(span(22, draw(st.sampled_from([24, 29, 30]))))
        days.append(tuple(spans))
    closed = draw(st.lists(st.dates(date(2026, 1, 1), date(2026, 12, 31)), max_size=3))
    zone = draw(st.sampled_from([UTC, BERLIN, NEW_YORK, SYDNEY, LORD_HOWE, ZoneInfo("Asia/Kathmandu")]))
    if zone is UTC:
        zone = ZoneInfo("UTC")
    return WeeklyHours(zone=zone, week=tuple(days), special=dict.fromkeys(closed, ()))


def count_by_the_wall(calendar: WeeklyHours, start: datetime, minutes: int) -> int:
    """Of the next so many minutes those in which the clock on the wall stands within the hours."""
    worked = 0
    for n in range(minutes):
        local = (start + timedelta(minutes=n)).astimezone(calendar.zone)
        at = local.hour * 60 + local.minute
        today, before = calendar.list_spans(local.date()), calendar.list_spans(local.date() - timedelta(days=1))
        worked += any(s.starts <= at < s.ends for s in today) or any(at + DAY < s.ends for s in before)
    return worked


@settings(deadline=None, max_examples=60)
@given(
    calendars(),
    st.datetimes(datetime(2026, 1, 2), datetime(2026, 12, 20), timezones=st.just(UTC)),
    st.integers(0, 4 * DAY),
)
def test_the_slow_oracle_counts_the_same(calendar: WeeklyHours, start: datetime, minutes: int) -> None:
    start = start.replace(second=0, microsecond=0)
    end = start + timedelta(minutes=minutes)
    assert calendar.working_minutes_between(start, end) == count_by_the_wall(calendar, start, minutes)


INSTANTS = st.datetimes(datetime(2025, 11, 1), datetime(2027, 2, 1), timezones=st.just(UTC))


@settings(deadline=None)
@given(calendars(), INSTANTS, st.integers(1, 20_000), st.integers(1, 20_000))
def test_adding_then_measuring_gives_back_and_adds_up(calendar: WeeklyHours, start: datetime, a: int, b: int) -> None:
    if not any(calendar.week):
        return
    middle = calendar.add_working_minutes(start, a)
    end = calendar.add_working_minutes(middle, b)
    assert calendar.working_minutes_between(start, middle) == a
    assert calendar.add_working_minutes(start, a + b) == end
    assert start < middle < end


@settings(deadline=None)
@given(calendars(), INSTANTS, INSTANTS, INSTANTS)
def test_measuring_adds_up_and_never_goes_back(
    calendar: WeeklyHours, one: datetime, two: datetime, three: datetime
) -> None:
    a, b, c = sorted((one, two, three))
    measure = calendar.working_minutes_between
    assert measure(a, c) == pytest.approx(measure(a, b) + measure(b, c))
    assert 0 <= measure(a, b) <= (b - a) / timedelta(minutes=1)
    assert calendar.is_open(a) == (measure(a, a + timedelta(microseconds=1)) > 0)


ALL_DAY_FREE = [date(2026, m, d) for m, d in ((1, 1), (4, 3), (5, 1), (12, 24), (12, 25))]


@settings(deadline=None, max_examples=150)
@given(st.datetimes(datetime(2026, 1, 5), datetime(2026, 11, 20)), st.integers(1, 60))
def test_pandas_counts_the_same_where_it_is_right(start: datetime, hours: int) -> None:
    """pandas' CustomBusinessHour: one set of whole hours for all weekdays, no clock change inside them. It puts an end
    that falls on closing time onto the next opening; ours stays at closing, which is the same working instant."""
    calendar = WeeklyHours(zone=BERLIN, week=OFFICE, special=dict.fromkeys(ALL_DAY_FREE, ()))
    offset = pd.offsets.CustomBusinessHour(n=hours, start="09:00", end="17:00", holidays=ALL_DAY_FREE)
    start = start.replace(second=0, microsecond=0)
    theirs = (pd.Timestamp(start) + offset).to_pydatetime().replace(tzinfo=BERLIN)
    ours = calendar.add_working_minutes(start.replace(tzinfo=BERLIN), hours * 60)
    assert calendar.get_next_open(ours) == theirs


def test_every_zone_of_the_database_works_what_its_own_clock_says() -> None:
    """A year of 9 to 17 in each zone of the tz database, summed day by day from zoneinfo's own instants; of zones whose clocks
    tell the same all year, in one."""
    begins, over = date(2026, 1, 1), date(2027, 1, 1)
    days = [begins + timedelta(days=n) for n in range((over - begins).days)]
    noons = [datetime(day.year, day.month, day.day, 12) for day in days]
    different = {
        tuple(zone.utcoffset(noon) for noon in noons): name
        for name in sorted(available_timezones() - {"localtime"})
        for zone in [ZoneInfo(name)]
    }
    assert len(different) > 60
    for name in different.values():
        zone = ZoneInfo(name)

        def at(day: date, hour: int, zone: ZoneInfo = zone) -> datetime:
            return datetime(day.year, day.month, day.day, hour, tzinfo=zone).astimezone(UTC)

        by_the_clock = sum(((at(day, 17) - at(day, 9)) / timedelta(minutes=1) for day in days), 0.0)
        calendar = WeeklyHours(zone=zone, week=week(span(9, 17), days=DAILY))
        assert calendar.working_minutes_between(at(begins, 0), at(over, 0)) == by_the_clock, name


def test_what_ends_as_the_years_last_hours_do_is_due_at_their_end() -> None:
    """All working minutes of 2027, counted by the calendar's weekdays: due as they end, not as the next year's begin."""
    hours = WeeklyHours(zone=ZoneInfo("UTC"), week=week(span(9, 17)))
    days = [date(2027, 1, 1) + timedelta(days=n) for n in range(365)]
    worked = sum(day.weekday() < 5 for day in days) * 8 * 60
    start = datetime(2027, 1, 1, tzinfo=UTC)
    assert hours.add_working_minutes(start, worked) == datetime(2027, 12, 31, 17, tzinfo=UTC)
    assert hours.add_working_minutes(start, worked + 1) == datetime(2028, 1, 3, 9, 1, tzinfo=UTC)


def test_the_first_hours_of_a_year_are_counted_where_it_begins_before_the_worlds_clock() -> None:
    """Auckland, 1 January 2027: midnight there is 11:00 on 31 December in UTC (IANA tz, Pacific/Auckland, +13 in summer)."""
    zone = ZoneInfo("Pacific/Auckland")
    calendar = WeeklyHours(zone=zone, week=week(span(0, 2), days=DAILY))
    begins, ends = datetime(2027, 1, 1, 0, 30, tzinfo=zone), datetime(2027, 1, 1, 1, 30, tzinfo=zone)
    assert calendar.list_open(begins, ends) == [(begins.timestamp(), ends.timestamp())]
