"""The naming week's prize draw in the demo: announced when the week began, drawn after it, its winners not written to yet."""

from datetime import datetime, timedelta

from demo.load import Loader
from sorta.core.draw import DrawRules
from sorta.services import draws, tags
from sorta.services.house import Scope

#: How long people could enter, from the beginning of the week.
OPEN_FOR = timedelta(days=6.1)
STAFF = "staff"


async def hold_draw(loader: Loader, scope: Scope, title: str, begins: datetime) -> None:
    """Among those who spoke under the post with this title; nothing where the demo has no such post."""
    posts = await draws.list_posts(loader.house, scope, title)
    if not posts:
        return
    staff = await tags.get_tag(loader.house, scope, STAFF, make=True)
    rules = DrawRules(name="Octopus naming week", deadline=begins + OPEN_FOR, staff=(staff,), winners=3, reserves=2)
    id = await draws.announce(loader.house, scope, posts[0]["id"], rules, begins + timedelta(minutes=10))
    await draws.close_due(loader.house, scope.workspace_id, begins + OPEN_FOR + timedelta(seconds=4))
    await draws.draw_now(loader.house, scope, id, begins + OPEN_FOR + timedelta(hours=20))
