"""What a password has to be. Used by services.sign_in and services.invitations.

By length and by how many guesses it would take (zxcvbn, which knows common passwords, names, keyboard rows and dates), and by nothing else: no
kinds of signs are asked for, and none are refused (as NIST SP 800-63B advises; from memory).
"""

import unicodedata
from collections.abc import Sequence

from zxcvbn import zxcvbn

from sorta.core.errors import Invalid

SHORTEST, LONGEST = 10, 200
#: Of zxcvbn's scores, 0 to 4: 3 takes over a hundred million guesses.
_STRONG = 3
#: So many letters and digits have to stand in it besides one's own name and address.
_BESIDES = 6
#: It looks at so many characters: its work grows faster than they do. What is strong up to there is strong.
_LOOKED_AT = 64


def normalise(password: str) -> str:
    """The same signs however a keyboard writes them."""
    return unicodedata.normalize("NFKC", password)


def check_password(password: str, about: Sequence[str] = ()) -> str:
    """The password as it is hashed. Raises Invalid with what is wrong; `about` are words that others would try first: name, address."""
    said = normalise(password)
    if len(said) < SHORTEST:
        raise Invalid(f"A password has at least {SHORTEST} characters; a few words in a row are good.", "password")
    if len(said) > LONGEST:
        raise Invalid(f"A password has at most {LONGEST} characters.", "password")
    known = [word for one in about for word in (one, *one.replace("@", " ").replace(".", " ").split()) if word]
    rest = said.casefold()
    for word in sorted((w.casefold() for w in known[:40] if len(w) > 2), key=len, reverse=True):
        rest = rest.replace(word, "")
    if sum(sign.isalnum() for sign in rest) < _BESIDES:
        raise Invalid(
            "That is made of your name or address. Take a few words that others would not try first.", "password"
        )
    found = zxcvbn(said[:_LOOKED_AT], user_inputs=known[:40])
    if found["score"] < _STRONG:
        hint = found["feedback"]["warning"] or "It would be guessed soon."
        raise Invalid(f"{hint.rstrip('.')}. Take a longer one, or a few words that do not belong together.", "password")
    return said
