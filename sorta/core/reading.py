"""What a message reads as, with the words that decided it (PRODUCT.md 5). Used by services.reading.

An engine (core.ports.Reader) judges language and sentiment; the rules here say what the text reads as.
The cue words are our own, from common practice, no source; they are a hint for a member, who can correct it.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

import regex

from sorta.core.errors import Invalid
from sorta.core.ports import Judgement


class ReadsAs(StrEnum):
    """What a message can read as."""

    QUESTION = "question"
    COMPLAINT = "complaint"
    PRAISE = "praise"
    THANKS = "thanks"
    SPAM = "spam"


@dataclass(frozen=True, kw_only=True)
class Reading:
    """The reading of one message. `words` decided `reads_as`, `sentiment_words` the sentiment."""

    sentiment: float
    language: str | None
    reads_as: ReadsAs | None
    words: tuple[str, ...] = ()
    sentiment_words: tuple[str, ...] = ()
    links: tuple[str, ...] = ()
    bare_mention: bool = False


_CUES: dict[ReadsAs, tuple[str, ...]] = {
    ReadsAs.SPAM: (
        "earn \\d+ a day", "followers", "link in profile", "congratulation dear", "you have been selected",
        "contact our manager", "made back all my money", "crypto", "only today", "forex", "whatsapp me", "casino",
        "work from home", "the trader",
    ),
    ReadsAs.COMPLAINT: (
        "refund", "charged twice", "not good enough", "disgrace(?:ful)?", "unacceptable", "rude", "broken", "nobody",
        "waste of", "never again", "still no", "still nothing", "disappoint(?:ed|ing)", "complain(?:t|ing)?", "queue",
        "queueing", "in the rain", "took my money", "never came", "hurt", "injur(?:ed|y)", "bleeding", "cut on",
        "hate", "terrible", "awful", "dirty", "shut the", "are not toys", "wrong currency", "got stuck", "expired",
        "enttäuscht", "beschwerde", "kaputt", "unverschämt", "rückerstattung", "virker ikke", "skuffet", "klage",
        "elendig", "queja", "decepcion\\w*", "reembolso", "no funciona", "vergüenza", "déçue?s?", "plainte",
        "rembours\\w+", "honteux", "ne marche pas", "reklamacj\\w+", "zawied\\w+", "nie działa", "zwrot\\w*", "skandal",
    ),
    ReadsAs.THANKS: (
        "thank you", "thanks", "thx", "cheers", "appreciate it", "danke(?:schön)?", "vielen dank", "tak", "tusind tak",
        "mange tak", "gracias", "merci", "dziękuj\\w+", "dzięki",
    ),
    ReadsAs.PRAISE: (
        "best", "lovely", "love(?:d|ly)?", "wonderful", "beautiful", "amazing", "brilliant", "great", "10/10", "a raise",
        "stayed for five", "rave", "wunderschön", "toll", "großartig", "fantastisk", "dejlig\\w*", "skøn\\w*",
        "precios\\w+", "maravill\\w+", "genial", "magnifique", "superbe", "adoré", "wspania\\w+", "pięk\\w+", "cudown\\w+",
    ),
    ReadsAs.QUESTION: (
        "can (?:i|you|we|an?)", "could (?:i|you|we|an?)", "do (?:i|you|we)", "does", "is (?:it|there|the|that)", "are (?:you|the|dogs)",
        "what", "when", "where", "which", "who", "how", "why", "wann", "wo", "wie", "gilt", "kann (?:ich|man)", "hvornår",
        "hvor", "kan man", "hvad", "cuándo", "dónde", "cómo", "vale", "est-ce", "quand", "où", "combien", "czy", "kiedy",
        "gdzie", "ile", "jak",
    ),
}  # fmt: skip
_FIND = {
    kind: regex.compile(r"(?<!\w)(?:" + "|".join(cues) + r")(?!\w)", regex.IGNORECASE) for kind, cues in _CUES.items()
}
_LINK = regex.compile(r"(?:https?://|www\.)[^\s<>\"]+[^\s<>\".,;:!?)\]]", regex.IGNORECASE)
_HANDLE = regex.compile(r"(?<![\w.@])@[\w][\w.\-]*", regex.UNICODE)
_HASHTAG = regex.compile(r"(?<!\w)#\w+", regex.UNICODE)
EMOJI = regex.compile(r"[\p{Extended_Pictographic}\p{Emoji_Modifier}\u200d\ufe0f\p{Regional_Indicator}]+")
_QUESTION_MARK = regex.compile(r"[?؟？¿]")

#: From where sentiment alone decides, with no cue found. VADER's compound is noise near 0.
_STRONG = 0.5


def list_links(text: str) -> tuple[str, ...]:
    """The web addresses in a text, without the full stop that ends their sentence."""
    return tuple(_LINK.findall(text))


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
        text = regex.sub(rf"(?<!\w)@{regex.escape(handle.lstrip('@'))}(?!\w)", " ", text, flags=regex.IGNORECASE)
    return text


def is_bare_mention(text: str) -> bool:
    """Whether it names somebody and says nothing else: at most 30 other letters and digits, and no question."""
    return names_somebody(text) and count_other_characters(text) <= 30 and not _QUESTION_MARK.search(text)


def _find(kind: ReadsAs, text: str) -> tuple[str, ...]:
    return tuple(dict.fromkeys(m.group().lower() for m in _FIND[kind].finditer(text)))


def read(text: str, judged: Judgement, *, own_handles: Iterable[str] = ()) -> Reading:
    """Read one message. `own_handles` are ours."""
    reads_as, words = _decide(strip_marks(text), text, judged.sentiment)
    return Reading(
        sentiment=judged.sentiment,
        language=judged.language,
        reads_as=reads_as,
        words=words,
        sentiment_words=judged.sentiment_words,
        links=list_links(text),
        bare_mention=is_bare_mention(without_handles(text, own_handles)),
    )


def _decide(plain: str, text: str, sentiment: float) -> tuple[ReadsAs | None, tuple[str, ...]]:
    found = {kind: _find(kind, plain) for kind in ReadsAs}
    asks = bool(_QUESTION_MARK.search(text))
    if found[ReadsAs.SPAM]:
        return ReadsAs.SPAM, found[ReadsAs.SPAM]
    complaint = found[ReadsAs.COMPLAINT]
    if complaint and sentiment < _STRONG and (len(complaint) > 1 or sentiment < 0.3):
        return ReadsAs.COMPLAINT, complaint
    if asks:
        return ReadsAs.QUESTION, ("?", *found[ReadsAs.QUESTION])
    if found[ReadsAs.THANKS] and sentiment > -_STRONG:
        return ReadsAs.THANKS, found[ReadsAs.THANKS]
    if found[ReadsAs.PRAISE] and sentiment >= 0:
        return ReadsAs.PRAISE, found[ReadsAs.PRAISE]
    if found[ReadsAs.QUESTION] and regex.match(_FIND[ReadsAs.QUESTION].pattern, plain, flags=regex.IGNORECASE):
        return ReadsAs.QUESTION, found[ReadsAs.QUESTION]
    if sentiment <= -_STRONG:
        return ReadsAs.COMPLAINT, ()
    return (ReadsAs.PRAISE, ()) if sentiment >= _STRONG else (None, ())


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
        "and",
        "both",
        "cheers",
        "appreciate",
        "appreciated",
        "much",
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
        "super",
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
        "for",
        "hjælpen",
        "svaret",
        "hurtige",
        "det",
        "er",
        "jer",
        "dig",
        "skal",
        "have",
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
        "super",
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
        "super",
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


def check_correction(field: str, value: str | None) -> str | float | None:
    """A member's correction as the value to keep. Raises Invalid for what cannot be said of the field."""
    match field:
        case "sentiment" if value in SENTIMENTS:
            return SENTIMENTS[value]
        case "reads_as" if value is None or value in set(ReadsAs):
            return value
        case "language" if value is None or regex.fullmatch(r"[a-z]{2,3}", value):
            return value
    raise Invalid(f"{value!r} cannot be said of {field.replace('_', ' ')}.", "value")
