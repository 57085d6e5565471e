"""Deceiving names: the controls of UAX #9 by their code points, what looks alike by UTS #39's own table, and first names."""

import json
import unicodedata
from importlib.resources import files

import pytest
from confusable_homoglyphs import confusables
from hypothesis import given
from hypothesis import strategies as st

from sorta.core.names import clean_name, find_borrowed, find_caution, get_look, get_skeleton, list_scripts
from sorta.core.people import get_first_name

#: Bidirectional classes of UAX #9 that a name has no use for.
TURNING = {"LRE", "RLE", "LRO", "RLO", "PDF", "LRI", "RLI", "FSI", "PDI"}


@pytest.mark.parametrize(
    ("name", "cleaned"),
    [
        ("Wilma Sund", "Wilma Sund"),
        ("evil\u202egnp.exe", "evil gnp.exe"),
        ("\u2066Ilse\u2069\r\nBcc: all@x.example", "Ilse Bcc: all@x.example"),
        ("a\u200bb\u2060c\ufeff", "a b c"),
        ("Familie 👨‍👩‍👧", "Familie 👨‍👩‍👧"),
        ("نور", "نور"),
        ("x" * 5000, "x" * 200),
        ("\0\x07", ""),
        # Default_Ignorable_Code_Point: the soft hyphen, the fillers of Hangul, a tag out of its flag, a selector after a letter.
        ("a\u00adb\u3164c\u115fd", "a b c d"),
        ("a\U000e0041b\ufe0fc\U000e0100d", "a b c d"),
        # What joins where it is written so stays: Persian, Devanagari, emoji, the flag of a part of a country.
        ("علی\u200cرضا", "علی\u200cرضا"),
        ("क्\u200dष", "क्\u200dष"),
        ("a\u200db \u200dc", "a b c"),
        ("❤\ufe0f Ana", "❤\ufe0f Ana"),
        ("🏴\U000e0067\U000e0062\U000e0065\U000e006e\U000e0067\U000e007f", "🏴\U000e0067\U000e0062\U000e0065\U000e006e\U000e0067\U000e007f"),
    ],
)  # fmt: skip
def test_what_turns_or_hides_is_taken_out(name: str, cleaned: str) -> None:
    assert clean_name(name) == cleaned


@given(st.text(max_size=60))
def test_nothing_that_turns_is_left(name: str) -> None:
    cleaned = clean_name(name)
    assert not TURNING & {unicodedata.bidirectional(c) for c in cleaned}
    assert clean_name(cleaned) == cleaned


def test_skeletons_are_those_of_unicodes_table() -> None:
    """Every pair of the table (UTS #39, confusables.txt, as the package carries it) has one skeleton, and a skeleton is its own."""
    table = json.loads(files("confusable_homoglyphs").joinpath("confusables.json").read_text(encoding="utf-8"))
    checked = 0
    for source, targets in table.items():
        for target in targets:
            a, b = source.replace("\u200e", ""), target["c"].replace("\u200e", "")
            if len(a) != 1 or any(unicodedata.normalize("NFD", one) != one for one in (a, b)):
                continue
            assert get_skeleton(a) == get_skeleton(b), (a, b)
            checked += 1
    assert checked > 5000


@pytest.mark.parametrize(
    ("one", "other"), [("paypal", "ρ⍺у𝓅𝒂ן"), ("scope", "ѕсоре"), ("Circle", "Сігсⅼе"), ("modern", "rnodern")]
)
def test_words_that_look_alike_have_one_skeleton(one: str, other: str) -> None:
    """UTS #39, section 4, has the first (from memory); the others are made in its way."""
    assert get_skeleton(one) == get_skeleton(other)


@given(st.text(alphabet="abcdefghijknopqrstuvxyz", min_size=1, max_size=12), st.data())
def test_a_name_with_any_letter_replaced_by_its_like_looks_the_same(name: str, data: st.DataObject) -> None:
    at = data.draw(st.integers(0, len(name) - 1))
    likes = [one["c"] for one in confusables.confusables_data.get(name[at], ()) if len(one["c"]) == 1]
    if likes:
        other = name[:at] + data.draw(st.sampled_from(likes)) + name[at + 1 :]
        assert get_look(other) == get_look(name)


#: Handles as people have them in many scripts, several with a Latin word beside; made up, in the way of UTS #39's examples of what is not
#: to be warned of.
HONEST = (
    "Юля_NY", "юля.moscow", "дима2000", "Анна_K", "оля_photo", "ЮляNY", "мама_трёх", "кирилл_dev", "зоопарк", "музей.official",
    "محمد_ali", "نور", "ali_محمد", "سارة99", "مريم.k", "דנה_tlv", "נועם", "maya.דרור", "Ελένη_gr", "γιώργος", "maria_Μαρία", "νίκος2",
    "水族館tokyo", "アクアリウムtokyo水", "さくら_cafe", "수족관han水", "김민지_kr", "ア수", "小明_shanghai", "สมชาย_bkk", "ปลาทอง", "प्रिया_mumbai",
    "தமிழ்_arun", "ქეთი_tb", "Անի_hy", "tess_99 🐙", "müller.jörg", "łukasz_w", "søren_ø", "ısıl.tr", "brinewick2", "ana-lucía", "o_o", "1lil1",
)  # fmt: skip
#: Taken for one we know, by the ways of the trade: another script's letters, whole or one; dotless, full width, mathematical; l for I.
DECEPTIVE = (
    "br\u0456newick", "brınewick", "ｂｒｉｎｅｗｉｃｋ", "𝐛𝐫𝐢𝐧𝐞𝐰𝐢𝐜𝐤", "𝓫𝓻𝓲𝓷𝓮𝔀𝓲𝓬𝓴", "brinevvick", "BRINEWlCK", "brlnewick", "br1newick", "brine\u200bwick",
    "brine_wick", "ЬrinewicK".replace("Ь", "b").replace("c", "\u0441"), "brinewi\u0441k", "ｂrinewick", "brinеwick", "BR\u0399NEWICK", "brine\u00adwick",
    "ѕсоре", "sсope", "scо\u0440e", "5cope".replace("5", "\u0455"),
)  # fmt: skip


def test_honest_handles_are_not_cautioned() -> None:
    assert [h for h in HONEST if find_caution(h, ["brinewick"], [("scope", "that of Sven Cope")])] == []


def test_deceptive_ones_are_named_with_whom_they_look_like() -> None:
    missed = [h for h in DECEPTIVE if find_caution(h, ["brinewick"], [("scope", "that of Sven Cope")]) is None]
    assert missed == []
    assert "is ours" in (find_caution(DECEPTIVE[0], ["@brinewick"]) or "")
    assert "Sven Cope" in (find_caution("ѕсоре", [], [("scope", "that of Sven Cope")]) or "")


@pytest.mark.parametrize(
    ("handle", "cautious"),
    [
        ("p\u03b1ypage", True),  # a Greek α
        ("sk\u0430ter", True),  # a Cyrillic а
        ("ск\u0061мейка", True),  # a Latin a among Cyrillic
        ("ж\u0430f", False),  # no script has all three
        ("my p\u03b1ge", True),
        ("παγε_me", False),
    ],
)
def test_a_word_that_borrows_letters_to_look_like_one_is_named(handle: str, cautious: bool) -> None:
    assert bool(find_borrowed(handle)) is cautious
    if cautious:
        told = find_caution(handle)
        assert told is not None
        assert all(script in told for script in list_scripts(handle))


def test_a_handle_like_ours_or_a_known_one() -> None:
    assert find_caution("@BrineWick", ["brinewick"]) == "The handle is written like one of ours."
    # Somebody's own on another network, with other dots; a colleague's own name.
    assert find_caution("s.cope", [], [("scope", "that of Sven Cope")]) is None
    assert find_caution("mara.person", [], [("Mara Person", "the name of a colleague")]) is None
    assert find_caution("m\u0430ra.person", [], [("Mara Person", "the name of a colleague")])
    assert find_caution("lil", [], [("iii", "that of another")]) is None


@pytest.mark.parametrize(
    ("name", "first"),
    [
        ("Wilma Sund", "Wilma"), ("Jean-Luc Petit", "Jean-Luc"), ("D’Arcy Lane", "D’Arcy"), ("Ольга Петрова", "Ольга"), ("Ελένη Νίκου", "Ελένη"),
        ("محمد علی", "محمد"), ("علی\u200cرضا نوری", "علی\u200cرضا"), ("דנה לוי", "דנה"), ("प्रिया शर्मा", "प्रिया"), ("தமிழ் செல்வி", "தமிழ்"), ("สมชาย ใจดี", "สมชาย"),
        ("ქეთი ლომიძე", "ქეთი"), ("Անի Սարգսյան", "Անի"), ("ጽጌ በቀለ", "ጽጌ"), ("김민지", "김민지"), ("김 민지", "김 민지"), ("王小明", "王小明"), ("山田 太郎", "山田 太郎"),
        ("さくら", "さくら"), ("Nguyễn Văn", "Nguyễn"), ("Zoe\u0308 Blau", "Zoe\u0308"), ("Lund, Anna", "Lund"),
        ("anna", ""), ("anna_99", ""), ("A. Lund", ""), ("🐙 Tess", ""), ("", ""), ("X Æ", ""), ("@tess", ""), ("7eleven", ""),
    ],
)  # fmt: skip
def test_first_names_in_every_script(name: str, first: str) -> None:
    """How people are greeted: common practice, no source. Where the family's name comes first, by the whole of it."""
    assert get_first_name(name) == first
