"""Which messages are answered as one conversation (docs/trade.md 2)."""

from datetime import timedelta

from sorta.core.ports import MessageSeen

PRIVATE_KEY = "private"
#: For so long what they write in private belongs to a comment of theirs that we went on about in private.
GOES_ON_FOR = timedelta(days=30)


def get_thread_key(seen: MessageSeen) -> str:
    """The key that, with account and person, names the conversation.

    Private: one per (account, person), so the key is the same for all. Public: one per (account,
    person, post); a mention elsewhere is keyed by its thread, so that further words there join it.
    """
    return f"public:{seen.thread_root}" if seen.public else PRIVATE_KEY
