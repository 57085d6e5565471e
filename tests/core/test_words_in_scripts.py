"""Words as people mean them, in twelve scripts and more.

Sources: folding and combining marks UAX #15 (normalisation forms) and the standard's section 3.13 (full case folding); what is not seen
DerivedCoreProperties' Default_Ignorable_Code_Point; words and sentences UAX #29 as a start. What the marks of a script mean to its
readers is a speaker's common practice, no source. All from memory.
"""

import pytest

from sorta.core.words import find_first, fold, fold_text

#: What is looked for, the text, and whether it is meant by it.
CASES: dict[str, list[tuple[str, str, bool]]] = {
    "Latin: accents, width, letters of their own": [
        ("cafe", "un café au lait", True), ("café", "cafe on the corner", True), ("uber", "ÜBER alles", True), ("ubersetzung", "Übersetzung", True),
        ("strasse", "Lange Straße 4", True), ("STRASSE", "lange straße", True), ("oland", "Øland", True), ("odegard", "Frau Ødegård", True),
        ("lodz", "Łódź", True), ("zolty", "żółty", True), ("smor", "smør", True), ("aeble", "æble", True), ("coeur", "cœur", True),
        ("istanbul", "İSTANBUL", True), ("isik", "ışık", True), ("full", "ｆｕｌｌ width", True), ("fish", "ﬁsh", True), ("angstrom", "Ångström", True),
        ("hoi an", "Hội An", True), ("nguyen", "Nguyễn", True), ("thor", "Þór", True), ("cafe", "cafeteria", False),
        ("ray", "arrays", False), ("o", "Øl", False),
    ],
    "Latin: possessives and elisions": [
        ("child", "the child's shoe", True), ("child's", "the child’s shoe", True), ("children", "child's", False), ("attente", "l'heure d'attente", True),
        ("acquario", "l'acquario", True), ("acquario", "dell’acquario", True), ("eau", "l’eau froide", True), ("o'brien", "Mr O’Brien", True),
        ("brien", "Mr O'Brien", True), ("don't", "I dont", False), ("don't", "I don't", True), ("hui", "aujourd'hui", True), ("women", "women's hour", True),
    ],
    "What is not seen": [
        ("refund", "re\u00adfund please", True), ("refund", "re\u200bfund", True), ("refund", "\ufeffrefund", True), ("refund", "ref\u2060und", True),
        ("refund", "r\u200de\u200df\u200du\u200dn\u200dd", True), ("re\u00adfund", "refund", True), ("heart", "heart\ufe0f", True), ("5", "5\ufe0f\u20e3", True),
        ("مرحبا", "مـــرحبا", True), ("re fund", "re\u00adfund", False),
    ],
    "A phrase stays within its sentence": [
        ("cut on", "a fish cut. on Monday", False), ("cut on", "cut! On", False), ("cut on", "cut?on", False), ("cut on", "cut\non", False),
        ("cut on", "cut … on", False), ("cut on", "a cut, on", True), ("cut on", "a cut - on", True), ("cut on", "(cut) on", True),
        ("st pauli", "in St. Pauli", True), ("no 5", "No. 5 is alive", True), ("z b", "z. B. morgens", True), ("mrs day", "Mrs. Day", True),
        ("open 9", "We open. 9 of us", False), ("point five", "1.5 five", False), ("v 2", "v.2", True), ("दिन अच्छा", "दिन। अच्छा", False),
    ],
    "Cyrillic: й is no и": [
        ("мой", "это мой дом", True), ("мой", "мои дома", False), ("мои", "мой", False), ("ёлка", "ЁЛКА", True), ("елка", "ёлка", False),
        ("київ", "КИЇВ", True), ("киів", "Київ", False), ("билет*", "билеты", True), ("билет", "билеты", False),
    ],
    "Greek: accents are accents": [
        ("αθηνα", "Αθήνα", True), ("Αθήνα", "ΑΘΗΝΑ", True), ("σισυφος", "ΣΊΣΥΦΟΣ", True), ("καφες", "καφές", True), ("καφε", "καφές", False),
        ("ωρα", "ὥρα", True),
    ],
    "Arabic: vowel signs and stretching": [
        ("كتاب", "كِتَاب", True), ("كتاب", "كتـــاب", True), ("كتاب", "مكتاب", False), ("شكرا", "شُكْرًا جزيلا", True), ("متى", "متى تفتحون؟", True),
        ("تفتحون متى", "تفتحون؟ متى", False),
    ],
    "Hebrew: points": [
        ("שלום", "שָׁלוֹם", True), ("שלום", "שלומי", False), ("תודה", "תודה רבה", True), ("תודה רבה", "תודה. רבה", False),
    ],
    "Kana and Han: a dot makes another letter": [
        ("バス", "パス", False), ("パス", "バス", False), ("バス", "バスが来た", True), ("ハス", "バス", False), ("水族館", "素敵な水族館でした", True),
        ("ﾊﾞｽ", "バス", True), ("iphone", "iPhoneが壊れた", True), ("壊れた", "iPhoneが壊れた", True), ("30", "30分待った", True), ("水", "氷", False),
        ("排队", "排队两个小时", True), ("两个", "排队两个小时", True), ("退款", "我要退款！", True), ("ラーメン", "ラーメンが好き", True), ("ラメン", "ラーメン", False),
        ("が", "か", False),
    ],
    "Hangul": [
        ("한국", "한국", True), ("한국", "\u1112\u1161\u11ab\u1100\u116e\u11a8", True), ("감사합니다", "감사합니다!", True), ("감사", "감사합니다", False),
        ("감사*", "감사합니다", True),
    ],
    "Thai: tone marks stay": [
        ("ปลา", "ปลาทอง", True), ("ปลา", "ปล่า", False), ("น้ำ", "น้ำเย็น", True), ("นำ", "น้ำ", False), ("ticket", "ซื้อticketแล้ว", True),
    ],
    "Devanagari and Bengali: the virama stays": [
        ("नमस्ते", "नमस्ते जी", True), ("नमसते", "नमस्ते", False), ("कब", "कब खुलता है", True), ("ক্ষমা", "ক্ষমা করুন", True), ("কষমা", "ক্ষমা", False),
    ],
    "Tamil, Georgian, Armenian, Ethiopic": [
        ("மீன்", "மீன் எங்கே", True), ("மீன", "மீன்", False), ("თბილისი", "თბილისი", True), ("երևան", "ԵՐԵՎԱՆ", False), ("բարև", "ԲԱՐԵՒ", True),
        ("ሰላም", "ሰላም ነው", True), ("ሰላ", "ሰላም", False),
    ],
    "Emoji and signs beside words": [
        ("seal", "seal🦭seal", True), ("seal", "🦭", False), ("love", "❤️love❤️", True), ("5", "5€", True), ("10", "10/10", True), ("10", "100", False),
        ("b2b", "B2B only", True), ("2207", "B-2207", True), ("b 2207", "B-2207", True),
    ],
}  # fmt: skip


@pytest.mark.parametrize(
    ("said", "text", "meant"), [case for cases in CASES.values() for case in cases], ids=lambda v: str(v)[:24]
)
def test_what_is_meant(said: str, text: str, meant: bool) -> None:
    found = find_first(said, fold_text(text))
    assert (found is not None) is meant
    assert found is None or found in text


def test_there_are_enough_of_them() -> None:
    assert sum(map(len, CASES.values())) >= 120
    assert len(CASES) >= 12


@pytest.mark.parametrize("text", ["мой", "バス", "ปล่า", "नमस्ते", "한국"])
def test_marks_that_make_another_letter_stay(text: str) -> None:
    assert fold(text) == text
