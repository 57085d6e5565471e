"""When members are told: quiet hours and digests against a walk minute by minute, also in nights in which clocks change; who is named;
numbers of phones. Zones and their changes are IANA's."""

from datetime import UTC, datetime, time, timedelta
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorta.core.alerting import DAILY_AT, Digest, Habits, check_phone, find_named, get_leaving, is_quiet
from sorta.core.errors import Invalid

ZONES = [ZoneInfo(z) for z in ("Europe/Copenhagen", "America/New_York", "Asia/Kathmandu", "Australia/Lord_Howe", "UTC")]
#: Around the nights of 2026 in which clocks change: Copenhagen, New York, Lord Howe (by half an hour); and one in which none do.
NIGHTS = [
    datetime(2026, 3, 28, 20, tzinfo=UTC),
    datetime(2026, 10, 24, 20, tzinfo=UTC),
    datetime(2026, 3, 7, 22, tzinfo=UTC),
    datetime(2026, 10, 31, 22, tzinfo=UTC),
    datetime(2026, 4, 4, 10, tzinfo=UTC),
    datetime(2026, 10, 3, 10, tzinfo=UTC),
    datetime(2026, 6, 10, 12, tzinfo=UTC),
]
minutes = st.integers(0, 24 * 60 - 1).map(lambda m: time(m // 60, m % 60))
instants = st.tuples(st.sampled_from(NIGHTS), st.integers(0, 30 * 60)).map(lambda p: p[0] + timedelta(minutes=p[1]))


@given(instants, st.sampled_from(ZONES), minutes, minutes)
def test_quiet_hours_are_left_at_the_first_minute_that_is_not_quiet(
    now: datetime, zone: ZoneInfo, begins: time, ends: time
) -> None:
    """Found by walking on minute by minute, which knows nothing of days and folds; but that hours which clocks show twice are quiet
    until their end comes for the first time."""
    habits = Habits(quiet_from=begins, quiet_until=ends)
    leaves = get_leaving(habits, now, zone, gathered=False)
    if not is_quiet(habits, now, zone):
        assert leaves == now
        return
    walked = now
    while is_quiet(habits, walked, zone):
        walked += timedelta(minutes=1)
    # Where clocks go back over the end of quiet hours it comes twice, and the first of them ends them.
    twice = walked - leaves
    assert leaves > now
    assert twice <= timedelta(hours=1)
    assert leaves <= walked
    if zone.utcoffset(now.astimezone(zone).replace(tzinfo=None)) == zone.utcoffset(
        walked.astimezone(zone).replace(tzinfo=None)
    ):
        assert leaves == walked


def test_an_end_that_clocks_leave_out_comes_when_they_have_gone_past_it() -> None:
    zone = ZONES[0]
    habits = Habits(quiet_from=time(22), quiet_until=time(2, 30))
    leaves = get_leaving(habits, datetime(2026, 3, 28, 23, tzinfo=UTC), zone, gathered=False)
    assert leaves == datetime(2026, 3, 29, 1, 30, tzinfo=UTC)
    assert leaves.astimezone(zone).time() == time(3, 30)


@given(instants, st.sampled_from(ZONES), st.sampled_from(Digest))
def test_digests_leave_when_clocks_show_a_whole_hour_or_the_days_time(
    now: datetime, zone: ZoneInfo, digest: Digest
) -> None:
    leaves = get_leaving(Habits(digest=digest), now, zone, gathered=True)
    shown = leaves.astimezone(zone).time()
    if digest is Digest.AT_ONCE:
        assert leaves == now
    elif digest is Digest.HOURLY:
        assert timedelta(0) < leaves - now <= timedelta(hours=1)
        # Lord Howe's clocks change by half an hour.
        assert shown.minute == 0 or zone.key == "Australia/Lord_Howe"
    else:
        assert shown == DAILY_AT
        assert timedelta(0) < leaves - now <= timedelta(hours=25)
    assert get_leaving(Habits(digest=digest), now, zone, gathered=False) == now


def test_a_digest_waits_for_the_end_of_quiet_hours() -> None:
    habits = Habits(quiet_from=time(19), quiet_until=time(9, 15), digest=Digest.DAILY)
    leaves = get_leaving(habits, datetime(2026, 6, 10, 12, tzinfo=UTC), ZONES[0], gathered=True)
    assert leaves.astimezone(ZONES[0]) == datetime(2026, 6, 11, 9, 15, tzinfo=ZONES[0])


def test_the_same_time_twice_is_no_quiet_hours() -> None:
    assert not is_quiet(Habits(quiet_from=time(9), quiet_until=time(9)), NIGHTS[0], ZONES[0])
    assert not is_quiet(Habits(), NIGHTS[0], ZONES[0])


MEMBERS = [
    (1, "Mara Lindqvist"),
    (2, "Ilse Berg"),
    (3, "Ilse Dahl"),
    (4, "Łucja Kowalska"),
    (5, "Ana Maria Ruiz"),
    (6, "Mar"),
]


@pytest.mark.parametrize(
    ("text", "named"),
    [
        ("@Mara please", [1]),
        ("ask @mara, and @MARA again", [1]),
        ("@Mar and @Mara", [6, 1]),
        ("@Ilse or @Ilse Dahl", [3]),
        ("@ilse  berg?", [2]),
        ("@łucja: look", [4]),
        ("@Ana", [5]),
        ("@Ana Maria Ruiz.", [5]),
        ("mara@brinewick.example, x@Mara", []),
        ("@Marathon", []),
        ("Mara", []),
        ("", []),
    ],
)
def test_who_is_named_in_a_note(text: str, named: list[int]) -> None:
    """Who else has the first name is named by the whole; a mail address names nobody."""
    assert find_named(text, MEMBERS) == named


def test_nobody_is_named_where_there_is_nobody() -> None:
    assert find_named("@Mara", []) == []
    assert find_named("@(a+)+$", [(1, "(a+)+$ b")]) == [1]


@pytest.mark.parametrize(
    ("said", "number"),
    [
        # The examples of ITU-T E.123 for international notation (from memory), and the ways in which people write them.
        ("+22 607 123 4567", "+226071234567"),
        ("+45 12 34 56 78", "+4512345678"),
        ("0045 12345678", "+4512345678"),
        ("+1 (415) 555-0100", "+14155550100"),
        ("+49.30/901820", "+4930901820"),
    ],
)
def test_numbers_as_people_write_them(said: str, number: str) -> None:
    assert check_phone(said) == number


@pytest.mark.parametrize(
    "said", ["", "12345678", "+0123456789", "+45 12", "+4512345678901234", "+45 12 34 56 7a", "+٤٥١٢٣٤٥٦٧٨"]
)
def test_what_is_no_number(said: str) -> None:
    with pytest.raises(Invalid) as wrong:
        check_phone(said)
    assert wrong.value.field == "phone"
