"""The API against its own description, by schemathesis: whatever fits it, or just does not, is answered with a declared
status and never with a 500."""

import json
import os
import re
from pathlib import Path
from typing import Any

import pytest
import schemathesis
from fastapi import FastAPI
from hypothesis import HealthCheck, Phase, given, settings
from schemathesis.core import NotSet
from schemathesis.generation import GenerationMode

from tests.api.conftest import Client
from tests.world import World

pytestmark = pytest.mark.anyio
DESCRIPTION = Path(__file__).parents[2] / "docs" / "openapi.json"
#: Of each kind, for each operation; `make fuzz` has more.
CASES = int(os.environ.get("SORTA_CASES", "2"))
#: Ends the session that asks, or never ends.
LEFT_OUT = {"delete_session", "stream_live"}
#: What HTTP itself, or the address, is refused with before an operation is reached.
BEFORE = {404, 405, 422}


def collect(operation: Any, mode: GenerationMode) -> list[Any]:
    """Some cases of one operation, the same each time."""
    found: list[Any] = []

    @settings(
        max_examples=CASES if mode is GenerationMode.POSITIVE else (CASES + 1) // 2,
        phases=[Phase.generate],
        database=None,
        deadline=None,
        derandomize=True,
        suppress_health_check=list(HealthCheck),
    )
    @given(operation.as_strategy(generation_mode=mode))
    def gather(case: Any) -> None:
        found.append(case)

    try:
        gather()
    except Exception as error:  # An operation without parameters has nothing that would not fit.
        if mode is GenerationMode.POSITIVE:
            raise
        assert "negat" in str(error).lower() or "satisf" in str(error).lower(), error
    return found


def is_declared(operation: Any, status: int) -> bool:
    """500 is nowhere declared; /readyz declares that it is 503 while something is missing."""
    declared = operation.definition.raw["responses"]
    return str(status) in declared or f"{status // 100}XX" in declared or status in BEFORE


@pytest.mark.parametrize("mode", [GenerationMode.POSITIVE, GenerationMode.NEGATIVE], ids=["fitting", "unfitting"])
async def test_every_operation_answers_as_it_is_described(
    app: FastAPI, anyone: Client, world: World, mode: GenerationMode
) -> None:
    await world.hear("hi")
    await anyone.enter("noor")
    schema = schemathesis.openapi.from_dict(app.openapi())
    wrong: list[str] = []
    asked = 0
    for result in schema.get_all_operations():
        operation = result.ok()
        if operation.definition.raw["operationId"] in LEFT_OUT:
            continue
        for case in collect(operation, mode):
            # Ids that are there lead further in than ids that are not.
            for name in case.path_parameters or {}:
                if name == "workspace_id" and mode is GenerationMode.POSITIVE:
                    case.path_parameters[name] = world.workspace_id
                elif asked % 2 and mode is GenerationMode.POSITIVE and isinstance(case.path_parameters[name], int):
                    case.path_parameters[name] = 1
            given_ = case.as_transport_kwargs(base_url="http://sorta.test")
            body = {k: v for k, v in given_.items() if k in ("json", "data") and not isinstance(v, NotSet)}
            headers = {k: v for k, v in (case.headers or {}).items() if k.lower() == "content-type"}
            if "data" in body:
                body = {"content": body["data"]} if isinstance(body["data"], (bytes, str)) else {"data": body["data"]}
            answer = await anyone.request(
                given_["method"], given_["url"], params=given_.get("params"), headers=headers, **body
            )
            asked += 1
            if not is_declared(operation, answer.status_code):
                wrong.append(f"{operation.method} {given_['url']} {body}: {answer.status_code} {answer.text[:300]}")
    assert not wrong, "\n".join(wrong)
    assert asked > 200


def test_no_request_passes_over_a_key_that_it_does_not_know() -> None:
    """Every shape that a request body is made of refuses unknown keys."""
    described = json.loads(DESCRIPTION.read_text())
    shapes = described["components"]["schemas"]

    def list_refs(value: Any) -> set[str]:
        return set(re.findall(r"#/components/schemas/(\w+)", json.dumps(value)))

    todo = {
        ref
        for ops in described["paths"].values()
        for op in ops.values()
        for ref in list_refs(op.get("requestBody", {}))
    }
    seen: set[str] = set()
    while todo:
        name = todo.pop()
        seen.add(name)
        todo |= list_refs(shapes[name]) - seen
    open_ones = {
        n for n in seen if shapes[n].get("type") == "object" and shapes[n].get("additionalProperties") is not False
    }
    assert open_ones == set()
    assert len(seen) > 60
