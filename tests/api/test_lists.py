"""The desk's lists: counted, taken out as tables; what a query cannot mean."""

import csv
import io

import openpyxl
import pytest

from tests.api.conftest import Client
from tests.world import World

pytestmark = pytest.mark.anyio


async def fill(world: World) -> None:
    await world.hear("the walrus is loud", handle="lucia", name='=HYPERLINK("x")')
    await world.hear("seal", handle="jonas", network="pixfern")


async def test_a_list_is_counted_and_taken_out_as_it_is_filtered(mara: Client, world: World, here: str) -> None:
    await fill(world)
    assert (await mara.get(f"{here}/count?move=unsorted")).json() == {"n": 2, "is_more": False}
    assert (await mara.get(f"{here}/count?move=unsorted&network=pixfern")).json()["n"] == 1
    assert (await mara.get(f"{here}/count?move=settled")).json()["n"] == 0
    answer = await mara.get(f"{here}/conversations.csv?move=any&words=walrus")
    assert answer.headers["content-disposition"] == 'attachment; filename="conversations.csv"'
    (row,) = csv.DictReader(io.StringIO(answer.content.decode("utf-8-sig")))
    # No spreadsheet takes a name for a formula.
    assert (row["Person"], row["Move"]) == ('\'=HYPERLINK("x")', "unsorted")
    book = openpyxl.load_workbook(io.BytesIO((await mara.get(f"{here}/conversations.xlsx?move=unsorted")).content))
    head, *rows = book.worksheets[0].values
    assert [dict(zip(head, row, strict=True))["Network"] for row in rows] == ["Commonfold", "Pixfern"]
    assert {cell.data_type for cell in book.worksheets[0]["F"]} <= {"s", "inlineStr"}


async def test_taking_a_list_out_needs_the_permission_and_is_noted(
    mara: Client, anyone: Client, world: World, here: str
) -> None:
    await fill(world)
    await mara.get(f"{here}/conversations.csv?move=unsorted")
    async with world.house.db.transact(world.workspace_id) as tx:
        noted = await (
            await tx.execute("select about ->> 'what' from security_event where about::text like '%of the desk%'")
        ).fetchall()
    assert [row[0] for row in noted] == ["2 conversations of the desk"]
    await anyone.enter("ilse")
    for path in ("conversations.csv", "conversations.xlsx"):
        assert (await anyone.get(f"{here}/{path}?move=unsorted")).status_code == 403


@pytest.mark.parametrize("query", ["move=elsewhere", "colour=red", "priority=9", "words=-x"])
async def test_what_cannot_be_filtered_by_is_refused(mara: Client, here: str, query: str) -> None:
    for path in ("count", "conversations.csv"):
        answer = await mara.get(f"{here}/{path}?{query}")
        assert answer.status_code == 422, answer.text
