"""What each network can do: the one table that the interface, the API and the outbox obey."""

from sorta.core.ports import Abilities

COMMONFOLD = Abilities(
    network="commonfold",
    name="Commonfold",
    letters="Cf",
    public_reply=True,
    private_reply=True,
    private_reply_to_public=True,
    handle_in_front=False,
    length_limit=2000,
)
QUILLET = Abilities(
    network="quillet",
    name="Quillet",
    letters="Qu",
    public_reply=True,
    private_reply=True,
    private_reply_to_public=False,
    handle_in_front=True,
    length_limit=300,
)
HUSHLINE = Abilities(
    network="hushline",
    name="Hushline",
    letters="Hl",
    public_reply=False,
    private_reply=True,
    private_reply_to_public=False,
    handle_in_front=False,
    length_limit=4000,
    reply_window_hours=24,
)

TABLE = {a.network: a for a in (COMMONFOLD, QUILLET, HUSHLINE)}
