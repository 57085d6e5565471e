"""The Outside's search and translator, as their callers know them."""

import httpx
import pytest

from outside.translator import PHRASES, translate
from tests.world import World

pytestmark = pytest.mark.anyio


async def search(world: World, network: str, words: str, after: int = 0) -> httpx.Response:
    token = world.get_token(network)
    return await world.outside.get(
        f"/api/{network}/search", params={"words": words, "after": after}, headers={"Authorization": f"Bearer {token}"}
    )


async def test_search_finds_what_is_public_and_goes_on_where_it_stopped(world: World) -> None:
    talk = {"network": "quillet", "kind": "talk", "handle": "w", "name": "W", "tell": False}
    for text in ("a Seal in the rain", "no rain here", "rain on a SEAL"):
        await world.control("say", **talk, text=text)
    await world.say("the seal and the rain, in private", network="quillet", kind="private")
    page = (await search(world, "quillet", "seal rain")).json()
    assert [a["object"]["content"] for a in page["orderedItems"]] == ["a Seal in the rain", "rain on a SEAL"]
    headers = {"Authorization": f"Bearer {world.get_token('quillet')}"}
    assert (await world.outside.get(page["next"], headers=headers)).json()["orderedItems"] == []
    gone = page["orderedItems"][0]["object"]["id"]
    await world.control("remove", id=gone)
    assert len((await search(world, "quillet", "seal")).json()["orderedItems"]) == 1


async def test_who_has_no_search_says_so(world: World) -> None:
    assert (await search(world, "commonfold", "seal")).status_code == 403
    answer = await world.outside.get("/api/quillet/search", params={"words": "x"})
    assert answer.status_code == 401


@pytest.mark.parametrize("phrase", PHRASES)
def test_each_phrase_goes_there_and_back(phrase: dict[str, str]) -> None:
    for source, text in phrase.items():
        for target, expected in phrase.items():
            assert translate(text.upper(), source, target)["text"] == expected


def test_what_is_not_in_the_table_is_marked() -> None:
    told = translate("Quokka", "es", "en")
    assert told == {"text": "[Spanish to English, not in the phrase table] Quokka", "source": "es", "rough": True}


async def test_a_language_it_does_not_have_is_refused(world: World) -> None:
    answer = await world.outside.post("/translator/translate", json={"text": "x", "target": "xx"})
    assert answer.status_code == 422
