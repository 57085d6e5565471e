"""Whether what others call us with is theirs: the Standard Webhooks scheme. Used by ingest, cases and advice."""

from collections.abc import Mapping

from standardwebhooks.webhooks import Webhook, WebhookVerificationError

from sorta.core.errors import NotAllowed


def check_signature(secret: str, body: bytes, headers: Mapping[str, str]) -> None:
    """Raise NotAllowed unless the body is signed with the secret and at most 5 minutes old."""
    try:
        Webhook(secret).verify(body, dict(headers), json_parse=False)
    except (WebhookVerificationError, ValueError) as error:
        # A header that is not shaped as the scheme says, or a body that is no text, is a ValueError there.
        why = str(error) if isinstance(error, WebhookVerificationError) else "the signature cannot be read"
        raise NotAllowed(f"The delivery is not taken: {why}.") from error
