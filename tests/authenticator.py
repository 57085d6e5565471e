"""A device that makes and shows passkeys as WebAuthn says, with its parts to be bent: for tests that attack. Keys are cryptography's own."""

import hashlib
import json
import secrets
from typing import Any

from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.hazmat.primitives.hashes import SHA256
from fido2.cose import ES256
from fido2.utils import websafe_decode, websafe_encode
from fido2.webauthn import AttestationObject, AttestedCredentialData, AuthenticatorData

FLAG = AuthenticatorData.FLAG
PRESENT_AND_VERIFIED = FLAG.UP | FLAG.UV


class Authenticator:
    """One passkey, of the site at `origin`. What is passed to `make` and `show` bends the answer."""

    def __init__(self, origin: str, *, counts: bool = True) -> None:
        self.origin, self.host = origin, origin.split("//")[1].split(":")[0]
        self.key = ec.generate_private_key(ec.SECP256R1())
        self.id = secrets.token_bytes(32)
        self.count, self.step = 0, int(counts)
        self.handle = b""

    def _say(self, kind: str, challenge: str, **bent: Any) -> bytes:
        said = {"type": kind, "challenge": challenge, "origin": self.origin, "crossOrigin": False, **bent}
        return json.dumps(said).encode()

    def make(self, options: dict[str, Any], *, flags: Any = PRESENT_AND_VERIFIED, **bent: Any) -> dict[str, Any]:
        """A RegistrationResponse in JSON."""
        self.handle = websafe_decode(options["user"]["id"])
        kept = AttestedCredentialData.create(bytes(16), self.id, ES256.from_cryptography_key(self.key.public_key()))
        host = bent.pop("host", self.host)
        data = AuthenticatorData.create(hashlib.sha256(host.encode()).digest(), flags | FLAG.AT, self.count, kept)
        challenge = bent.pop("challenge", options["challenge"])
        return {
            "id": websafe_encode(self.id),
            "rawId": websafe_encode(self.id),
            "type": "public-key",
            "clientExtensionResults": {},
            "response": {
                "clientDataJSON": websafe_encode(self._say("webauthn.create", challenge, **bent)),
                "attestationObject": websafe_encode(AttestationObject.create("none", data, {})),
            },
        }

    def show(self, options: dict[str, Any], *, flags: Any = PRESENT_AND_VERIFIED, **bent: Any) -> dict[str, Any]:
        """An AuthenticationResponse in JSON."""
        self.count += self.step
        host, key = bent.pop("host", self.host), bent.pop("key", self.key)
        handle, count = bent.pop("handle", self.handle), bent.pop("count", self.count)
        challenge, kind = bent.pop("challenge", options["challenge"]), bent.pop("kind", "webauthn.get")
        data = AuthenticatorData.create(hashlib.sha256(host.encode()).digest(), flags, count)
        said = self._say(kind, challenge, **bent)
        signature = key.sign(bytes(data) + hashlib.sha256(said).digest(), ec.ECDSA(SHA256()))
        return {
            "id": websafe_encode(self.id),
            "rawId": websafe_encode(self.id),
            "type": "public-key",
            "clientExtensionResults": {},
            "response": {
                "clientDataJSON": websafe_encode(said),
                "authenticatorData": websafe_encode(data),
                "signature": websafe_encode(signature),
                "userHandle": websafe_encode(handle),
            },
        }
