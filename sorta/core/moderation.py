"""What may be done on a network to a message or a person, and why not (docs/trade.md 7). Used by services and the sheet."""

from sorta.core.ports import Abilities, Moderation

_WORDS = {
    Moderation.LIKE: "likes",
    Moderation.UNLIKE: "likes",
    Moderation.HIDE: "hiding of what others wrote",
    Moderation.SHOW: "hiding of what others wrote",
    Moderation.DELETE: "deleting of what others wrote",
    Moderation.REPOST: "reposts",
    Moderation.BLOCK: "blocking",
    Moderation.UNBLOCK: "blocking",
}


def _can(abilities: Abilities, what: Moderation) -> bool:
    match what:
        case Moderation.LIKE | Moderation.UNLIKE:
            return abilities.like
        case Moderation.HIDE | Moderation.SHOW:
            return abilities.hide
        case Moderation.DELETE:
            return abilities.delete
        case Moderation.REPOST:
            return abilities.repost
        case Moderation.BLOCK | Moderation.UNBLOCK:
            return abilities.block


def get_moderation_obstacle(
    abilities: Abilities, what: Moderation, *, public: bool, inbound: bool, removed: bool
) -> str | None:
    """Why this cannot be done, as a sentence; None when it can.

    Our own messages can only be deleted, where the network lets a page delete at all.
    """
    if removed and what not in (Moderation.BLOCK, Moderation.UNBLOCK):
        return "It has been removed on the network."
    if not inbound:
        own = abilities.delete or abilities.delete_own_only
        if what is Moderation.DELETE and own:
            return None
        return f"{abilities.name} lets us only delete our own." if own else f"{abilities.name} has no deleting."
    if not _can(abilities, what):
        if what is Moderation.DELETE and abilities.delete_own_only:
            return f"{abilities.name} lets a page delete only its own."
        return f"{abilities.name} has no {_WORDS[what]}."
    if not public and what in (Moderation.HIDE, Moderation.SHOW, Moderation.DELETE, Moderation.REPOST):
        return "It is a private message; nobody else sees it."
    return None
