"""Whether what others call us with is theirs: the Standard Webhooks scheme. Used by ingest, cases and advice."""

import base64
import secrets
from collections.abc import Mapping, Sequence
from datetime import timedelta

from standardwebhooks.webhooks import Webhook, WebhookVerificationError

from sorta.core.errors import NotAllowed

#: For how long the secret before is taken beside a new one: until whoever signs has been told the new one.
BOTH_FOR = timedelta(days=3)


def make_hook_secret() -> str:
    """A new secret in the scheme's own form: 24 random bytes, the least it asks for."""
    return f"whsec_{base64.b64encode(secrets.token_bytes(24)).decode()}"


def check_signature(taken: Sequence[str], body: bytes, headers: Mapping[str, str]) -> None:
    """Raise NotAllowed unless the body is signed with one of the secrets and at most 5 minutes old."""
    why = "nobody can sign for it"
    for secret in taken:
        try:
            Webhook(secret).verify(body, dict(headers), json_parse=False)
            return
        except WebhookVerificationError as error:
            why = str(error)
        except ValueError:
            # A header that is not shaped as the scheme says, or a body that is no text.
            why = "the signature cannot be read"
    raise NotAllowed(f"The delivery is not taken: {why}.")
