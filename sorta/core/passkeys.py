"""Passkeys by WebAuthn (W3C, Level 2): what a browser is asked, and whether its answer holds. Used by services.passkeys.

The signatures and the format are python-fido2's to check. A passkey always says that its device has seen who uses it (user verification), so that it
is two steps in one. Who made a device is not asked (attestation 'none'). Driven by a browser's own virtual authenticator in the browser tests.
"""

import ipaddress
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any
from urllib.parse import urlsplit

from fido2.cose import ES256, RS256, EdDSA
from fido2.server import Fido2Server
from fido2.utils import websafe_encode
from fido2.webauthn import (
    AttestedCredentialData,
    AuthenticationResponse,
    CollectedClientData,
    PublicKeyCredentialParameters,
    PublicKeyCredentialRpEntity,
    PublicKeyCredentialType,
    PublicKeyCredentialUserEntity,
    RegistrationResponse,
    ResidentKeyRequirement,
    UserVerificationRequirement,
)

#: What devices sign with; the first is what most do.
ALGORITHMS = (ES256.ALGORITHM, EdDSA.ALGORITHM, RS256.ALGORITHM)


class PasskeyRefused(Exception):
    """What a browser showed does not hold; `str()` says why, for the log."""


@dataclass(frozen=True, kw_only=True)
class Site:
    """Where passkeys hold: the name that browsers keep them under, and the address of its pages."""

    host: str
    origin: str


@dataclass(frozen=True, kw_only=True)
class NewPasskey:
    """A passkey as it is kept; `sign_count` is how often it was shown by its own count, 0 where it does not count."""

    credential_id: bytes
    credential: bytes
    sign_count: int


def find_site(address: str) -> Site | None:
    """Where passkeys hold for an installation at this address; None where browsers know none: at a number, or over plain HTTP elsewhere than here."""
    parts = urlsplit(address)
    host = (parts.hostname or "").rstrip(".")
    is_here = host == "localhost" or host.endswith(".localhost")
    if not host or not (parts.scheme == "https" or is_here):
        return None
    try:
        ipaddress.ip_address(host)
    except ValueError:
        return Site(host=host, origin=f"{parts.scheme}://{parts.netloc}")
    return None


def _make_server(site: Site) -> Fido2Server:
    server = Fido2Server(
        PublicKeyCredentialRpEntity(id=site.host, name="Sorta"), verify_origin=lambda origin: origin == site.origin
    )
    server.allowed_algorithms = [
        PublicKeyCredentialParameters(type=PublicKeyCredentialType.PUBLIC_KEY, alg=one) for one in ALGORITHMS
    ]
    return server


def ask_for_new(
    site: Site, challenge: bytes, *, handle: bytes, email: str, name: str, there: Sequence[bytes]
) -> dict[str, Any]:
    """What a browser is asked to make one (PublicKeyCredentialCreationOptions, as JSON); `there` are the member's present ones."""
    options, _ = _make_server(site).register_begin(
        PublicKeyCredentialUserEntity(id=handle, name=email, display_name=name),
        credentials=[AttestedCredentialData(one) for one in there],
        resident_key_requirement=ResidentKeyRequirement.REQUIRED,
        user_verification=UserVerificationRequirement.REQUIRED,
        challenge=challenge,
    )
    return dict(options.public_key)


def ask_for_one(site: Site, challenge: bytes) -> dict[str, Any]:
    """What a browser is asked to show one, whichever its user chooses (PublicKeyCredentialRequestOptions, as JSON)."""
    options, _ = _make_server(site).authenticate_begin(
        user_verification=UserVerificationRequirement.REQUIRED, challenge=challenge
    )
    return dict(options.public_key)


@contextmanager
def _refusing() -> Iterator[None]:
    """Whatever a stranger wrote: the library says what is wrong with it in all these ways."""
    try:
        yield
    except (ArithmeticError, AssertionError, AttributeError, LookupError, NotImplementedError, RecursionError, TypeError, ValueError) as error:  # fmt: skip
        raise PasskeyRefused(f"{type(error).__name__}: {error}"[:200]) from error


def read_new(said: Mapping[str, Any]) -> bytes:
    """What the answer with a new passkey says it was asked. Raises PasskeyRefused."""
    with _refusing():
        return bytes(RegistrationResponse.from_dict(said).response.client_data.challenge)


def read_shown(said: Mapping[str, Any]) -> tuple[bytes, bytes]:
    """What the answer with a passkey says it was asked, and which one it says it is. Raises PasskeyRefused."""
    with _refusing():
        answer = AuthenticationResponse.from_dict(said)
        return bytes(answer.response.client_data.challenge), bytes(answer.raw_id)


def _check_own_page(said: CollectedClientData) -> None:
    if said.cross_origin:
        raise PasskeyRefused("it was shown within another site's page")


def take_new(site: Site, challenge: bytes, said: Mapping[str, Any]) -> NewPasskey:
    """The passkey that a browser has made. Raises PasskeyRefused."""
    with _refusing():
        answer = RegistrationResponse.from_dict(said)
        made = _make_server(site).register_complete(_make_state(challenge), answer)
        _check_own_page(answer.response.client_data)
        kept = made.credential_data
        if kept is None or answer.raw_id != kept.credential_id:
            raise PasskeyRefused("it says two names of itself")
        if kept.public_key.ALGORITHM not in ALGORITHMS:
            raise PasskeyRefused("it signs in a way that nobody here knows")
        return NewPasskey(credential_id=kept.credential_id, credential=bytes(kept), sign_count=made.counter)


def check_shown(
    site: Site, challenge: bytes, said: Mapping[str, Any], *, credential: bytes, handle: bytes, sign_count: int
) -> int:
    """How often a passkey was shown by its own count, when the answer is signed by it. Raises PasskeyRefused.

    A count that does not grow says that there are two of what there can be one of (WebAuthn, 6.1.1); one that stays 0 says nothing.
    """
    with _refusing():
        answer = AuthenticationResponse.from_dict(said)
        _make_server(site).authenticate_complete(_make_state(challenge), [AttestedCredentialData(credential)], answer)
        _check_own_page(answer.response.client_data)
        if answer.response.user_handle != handle:
            raise PasskeyRefused("it is somebody else's")
        count = int(answer.response.authenticator_data.counter)
    if (count or sign_count) and count <= sign_count:
        raise PasskeyRefused("its count does not grow: there may be a copy of it")
    return count


def _make_state(challenge: bytes) -> dict[str, Any]:
    return {"challenge": websafe_encode(challenge), "user_verification": UserVerificationRequirement.REQUIRED}
