"""What a message reads as, how sure that is, and the words that decided it (docs/trade.md 5). Used by services.ingest.

An engine (core.ports.Reader) gives chances; here they become what is shown, filtered by and asked for by rules. Below `UNSURE_BELOW`
nothing is said of a message but that it is not sure.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any, Literal, TypeAlias

import regex

from sorta.core.errors import Invalid
from sorta.core.links import NO_LINK, find_links
from sorta.core.ports import Judgement


class ReadsAs(StrEnum):
    """What a message can read as; several at once."""

    QUESTION = "question"
    COMPLAINT = "complaint"
    PRAISE = "praise"
    THANKS = "thanks"
    SPAM = "spam"


class Tone(StrEnum):
    """How its writer feels."""

    NEGATIVE = "negative"
    NEUTRAL = "neutral"
    POSITIVE = "positive"


class Sureness(StrEnum):
    """How sure a reading must be for a rule."""

    LIKELY = "likely"
    SURE = "sure"


#: Under these chances nothing is said; from these a rule takes it for likely, or sure.
UNSURE_BELOW = 0.6
#: From here on a label that may hold is shown with its words.
SHOWN_FROM = 1 - UNSURE_BELOW
LEVELS = {Sureness.LIKELY: 0.7, Sureness.SURE: 0.9}
#: What stands in the place of labels where one may hold and none is likely enough.
NOT_SURE = "not_sure"
#: How sure a chance is, in a word: the levels of Sureness, and what lies below them.
Said: TypeAlias = Literal["sure", "likely", "perhaps", "not_sure"]
#: From this sentiment on a message is positive, below its negative negative; what is between is neutral.
BAND = 0.25


@dataclass(frozen=True, kw_only=True)
class Reading:
    """The reading of one message: the chance of each label and of each tone, and the words that weighed most for each.

    `sentiment` is from -1 to 1, or None where it is not sure; its sign and size never contradict the tone.
    """

    language: str | None
    sentiment: float | None
    chances: Mapping[ReadsAs, float] = field(default_factory=dict)
    tones: Mapping[Tone, float] = field(default_factory=dict)
    words: Mapping[ReadsAs, tuple[str, ...]] = field(default_factory=dict)
    sentiment_words: tuple[str, ...] = ()
    links: tuple[str, ...] = ()
    bare_mention: bool = False

    @property
    def reads_as(self) -> tuple[str, ...]:
        """The labels that hold; NOT_SURE alone where one may and none is likely enough; none where none does."""
        held = list_held(self.chances)
        if held or not self.chances:
            return held
        return (NOT_SURE,) if max(self.chances.values()) > SHOWN_FROM else ()


def list_held(chances: Mapping[Any, float]) -> tuple[str, ...]:
    """The labels that are shown of these chances, in the order of ReadsAs."""
    return tuple(label.value for label in ReadsAs if chances.get(label, 0.0) >= UNSURE_BELOW)


def say_sureness(chance: float) -> Said:
    """How sure a chance is, in a word."""
    if chance >= LEVELS[Sureness.SURE]:
        return "sure"
    if chance >= LEVELS[Sureness.LIKELY]:
        return "likely"
    return "perhaps" if chance >= UNSURE_BELOW else "not_sure"


def list_chances(reads_as: Iterable[str] | None, evidence: Mapping[str, Any] | None) -> dict[ReadsAs, float]:
    """The chances a kept message has: what a member said is certain; what was kept without chances is likely."""
    evidence = evidence or {}
    said = {label: 1.0 if label in (reads_as or ()) else 0.0 for label in ReadsAs}
    if "reads_as" in evidence.get("corrected", ()):
        return said
    if not evidence.get("chances"):
        return {label: min(chance, LEVELS[Sureness.LIKELY]) for label, chance in said.items()}
    return {label: float(evidence["chances"].get(label, 0.0)) for label in ReadsAs}


def get_tone_chance(sentiment: float | None, evidence: Mapping[str, Any] | None) -> float:
    """How sure the tone of a kept message is: certain where a member said it, likely where no chances were kept."""
    evidence = evidence or {}
    tone = get_tone(sentiment)
    if tone is None:
        return 0.0
    if "sentiment" in evidence.get("corrected", ()):
        return 1.0
    return float((evidence.get("tones") or {}).get(tone, LEVELS[Sureness.LIKELY]))


def get_tone(sentiment: float | None) -> Tone | None:
    """The tone of a sentiment; None where it is not sure."""
    if sentiment is None:
        return None
    return Tone.POSITIVE if sentiment >= BAND else Tone.NEGATIVE if sentiment <= -BAND else Tone.NEUTRAL


def get_sentiment(tones: Mapping[Tone, float]) -> float | None:
    """How glad, from -1 to 1, by the chances of the tones; None where no tone is likely enough."""
    tone = max(Tone, key=lambda t: tones[t])
    if tones[tone] < UNSURE_BELOW:
        return None
    value = tones[Tone.POSITIVE] - tones[Tone.NEGATIVE]
    match tone:
        case Tone.POSITIVE:
            return max(value, BAND)
        case Tone.NEGATIVE:
            return min(value, -BAND)
    return min(max(value, -BAND + 0.01), BAND - 0.01)


_NO_LINK = rf"\s<>\"{NO_LINK}"
_LINK = regex.compile(rf"(?:https?://|www\.)[^{_NO_LINK}]+", regex.IGNORECASE)
#: As networks have them: letters, digits, dots and dashes; where a network is many servers, the server behind a second @.
_HANDLE = regex.compile(r"(?<![\w.@])@\w[\w.\-]*(?:@\w[\w.\-]*)?", regex.UNICODE)
_HASHTAG = regex.compile(r"(?<!\w)#\w+", regex.UNICODE)
EMOJI = regex.compile(r"[\p{Extended_Pictographic}\p{Emoji_Modifier}\u200d\ufe0f\p{Regional_Indicator}]+")
#: Letters and digits that may stand beside whom a bare mention names.
BARE_AT_MOST = 30
_QUESTION_MARK = regex.compile(r"[?؟？¿]")


def strip_marks(text: str) -> str:
    """The text without links, handles, hashtags and emoji: what an engine should judge."""
    for pattern in (_LINK, _HANDLE, _HASHTAG, EMOJI):
        text = pattern.sub(" ", text)
    return " ".join(text.split())


def count_other_characters(text: str) -> int:
    """Letters and digits beside handles: 0 for a text that only names somebody."""
    return len(regex.findall(r"[\p{L}\p{N}]", EMOJI.sub(" ", _HANDLE.sub(" ", text))))


def names_somebody(text: str) -> bool:
    """Whether a handle stands in a text."""
    return bool(_HANDLE.search(text))


def without_handles(text: str, handles: Iterable[str]) -> str:
    """A text without these handles: naming us is not naming a friend."""
    for handle in handles:
        name = regex.escape(handle.lstrip("@"))
        # '@ours.fan' and '@ours@elsewhere.example' are not us; a full stop behind us is.
        text = regex.sub(rf"(?<![\w.@])@{name}(?![\w@]|[.\-]+\w)", " ", text, flags=regex.IGNORECASE)
    return text


def is_bare_mention(text: str) -> bool:
    """Whether it names somebody and says nothing else: hardly a letter or digit more, and no question."""
    return names_somebody(text) and count_other_characters(text) <= BARE_AT_MOST and not _QUESTION_MARK.search(text)


def read(text: str, judged: Judgement, *, own_handles: Iterable[str] = ()) -> Reading:
    """Read one message. `own_handles` are ours."""
    tones = {Tone(t): chance for t, chance in judged.tones.items()}
    sentiment = get_sentiment(tones) if tones else None
    tone = get_tone(sentiment)
    return Reading(
        language=judged.language,
        sentiment=sentiment,
        chances={ReadsAs(label): chance for label, chance in judged.chances.items()},
        tones=tones,
        words={label: judged.words.get(label.value, ()) for label in ReadsAs},
        sentiment_words=judged.words.get(tone.value, ()) if tone and tone is not Tone.NEUTRAL else (),
        links=tuple(address for _, _, address in find_links(text)),
        bare_mention=is_bare_mention(without_handles(text, own_handles)),
    )


#: Words that stand beside thanks and ask for nothing. Common practice, no source; a word that is not here makes it more
#: than thanks, so that what is left out costs a look and never an answer.
_COURTESY = frozenset(
    [
        "thank",
        "thanks",
        "thankyou",
        "thx",
        "ty",
        "you",
        "u",
        "so",
        "very",
        "much",
        "many",
        "a",
        "lot",
        "lots",
        "again",
        "really",
        "for",
        "the",
        "your",
        "quick",
        "fast",
        "reply",
        "answer",
        "help",
        "it",
        "that",
        "is",
        "was",
        "all",
        "good",
        "great",
        "perfect",
        "super",
        "lovely",
        "brilliant",
        "wonderful",
        "nice",
        "kind",
        "ok",
        "okay",
        "oh",
        "and",
        "to",
        "of",
        "this",
        "both",
        "cheers",
        "appreciate",
        "appreciated",
        "have",
        "day",
        "evening",
        "weekend",
        "dear",
        "team",
        "everyone",
        "everybody",
        "folks",
        "danke",
        "dankeschön",
        "vielen",
        "lieben",
        "herzlichen",
        "dank",
        "schön",
        "sehr",
        "nochmal",
        "nochmals",
        "für",
        "die",
        "eure",
        "ihre",
        "schnelle",
        "hilfe",
        "antwort",
        "toll",
        "perfekt",
        "alles",
        "gut",
        "klar",
        "euch",
        "ihnen",
        "dir",
        "und",
        "liebe",
        "grüße",
        "einen",
        "tag",
        "noch",
        "tak",
        "tusind",
        "mange",
        "hjælpen",
        "svaret",
        "hurtige",
        "det",
        "er",
        "jer",
        "dig",
        "skal",
        "så",
        "meget",
        "igen",
        "dejligt",
        "fint",
        "godt",
        "gracias",
        "muchas",
        "muchísimas",
        "mil",
        "por",
        "la",
        "respuesta",
        "rápida",
        "ayuda",
        "perfecto",
        "genial",
        "todo",
        "bien",
        "muy",
        "amable",
        "amables",
        "y",
        "merci",
        "beaucoup",
        "mille",
        "pour",
        "votre",
        "réponse",
        "rapide",
        "aide",
        "parfait",
        "c",
        "est",
        "très",
        "gentil",
        "bonne",
        "journée",
        "et",
        "à",
        "vous",
        "tous",
        "dziękuję",
        "dziękuje",
        "dziękujemy",
        "dzięki",
        "bardzo",
        "wielkie",
        "za",
        "szybką",
        "odpowiedź",
        "pomoc",
        "świetnie",
        "i",
    ]
)
#: One of these says thanks; the Danish word for it means yes in Polish, so it takes another Danish one beside it.
_THANKS = frozenset(
    [
        "thank",
        "thanks",
        "thankyou",
        "thx",
        "ty",
        "danke",
        "dank",
        "gracias",
        "merci",
        "dziękuję",
        "dziękuje",
        "dziękujemy",
        "dzięki",
    ]
)
_DANISH = frozenset(
    ["tusind", "mange", "hjælpen", "svaret", "hurtige", "skal", "igen", "dejligt", "fint", "godt", "for"]
)
_MOST_THANKS = 24


def is_only_thanks(text: str) -> bool:
    """Whether it surely thanks, and says nothing else: no question, no number, no link, no word that could ask for more."""
    plain = strip_marks(text)
    words = regex.findall(r"[\p{L}\p{M}\p{N}]+", plain.lower())
    return (
        0 < len(words) <= _MOST_THANKS
        and not _QUESTION_MARK.search(text)
        and not _LINK.search(text)
        and bool(_THANKS.intersection(words) or ("tak" in words and _DANISH.intersection(words)))
        and all(word in _COURTESY for word in words)
    )


#: What a member can say of a sentiment, as the value that stands for it.
SENTIMENTS = {"negative": -0.5, "neutral": 0.0, "positive": 0.5}


def check_correction(field: str, value: object) -> str | float | list[str] | None:
    """A member's correction as the value to keep: labels in the order of ReadsAs. Raises Invalid for what cannot be said of the field."""
    match field, value:
        case "sentiment", str() if value in SENTIMENTS:
            return SENTIMENTS[value]
        case "reads_as", list() if set(value) <= set(ReadsAs):
            return [label.value for label in ReadsAs if label in value]
        case "language", None:
            return None
        case "language", str() if regex.fullmatch(r"[a-z]{2,3}", value):
            return value
    raise Invalid(f"{value!r} cannot be said of {field.replace('_', ' ')}.", "value")
