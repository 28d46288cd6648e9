"""The whole API, asked from its own schema what nobody would ask: whatever comes is answered, and never by a fault of ours."""

from __future__ import annotations

import io
import os
from collections.abc import Iterator
from typing import Any

import pytest
import schemathesis
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st

from eurythm.api.app import create_app
from eurythm.api.describe import routes
from tests.api.conftest import with_weather

LEVERS = [{"kind": "turn", "steps": [0, 10]}, {"kind": "field", "path": "skin/glazing_ratio/south", "steps": [0.2, 0.4]}]
MOST = int(os.environ.get("FUZZ", "8"))
"""Examples of each route; more by hand."""
GONE = ("DELETE", "/api/projects/{project_id}")


@pytest.fixture(scope="session")
def world(tmp_path_factory: pytest.TempPathFactory) -> Iterator[dict[str, Any]]:
    """A server with one of everything, and the names that lead to it."""
    with TestClient(create_app(tmp_path_factory.mktemp("fuzz")), raise_server_exceptions=False) as client:
        project = with_weather(client)
        study = project.post("studies", {"revision": project.state["revision"], "study": {"levers": LEVERS}}, 201)["id"]
        client.app.state.office.jobs.wait(study)  # type: ignore[attr-defined]
        pin = project.post("pins", {"study": study, "number": 1}, 201)["id"]
        office = client.app.state.office  # type: ignore[attr-defined]
        made = office.imports.create(project.state["id"], "none.ifc", io.BytesIO(b"ISO-10303-21;"), {}, None)
        office.imports.end(made.id, "failed", fault={"code": "not-ifc", "path": "", "message": "It is none."})
        names = {
            "project_id": project.state["id"],
            "scheme_id": "scheme-1",
            "study_id": study,
            "pin_id": pin,
            "import_id": made.id,
            "number": 1,
        }
        yield {"client": client, "names": names}


OPERATIONS = [found.ok() for found in schemathesis.openapi.from_dict(routes()).get_all_operations()]


@pytest.mark.parametrize("operation", OPERATIONS, ids=lambda o: f"{o.method.upper()} {o.path}")
@given(data=st.data())
@settings(max_examples=MOST, deadline=None, database=None, phases=(Phase.generate,), suppress_health_check=list(HealthCheck))
def test_nothing_that_is_asked_is_a_fault_of_ours(operation: Any, world: dict[str, Any], data: st.DataObject) -> None:
    """Three of four times what a path names is really there, so that what lies behind it is reached."""
    case = data.draw(operation.as_strategy())
    named = case.path_parameters or {}
    if (operation.method.upper(), operation.path) != GONE and data.draw(st.integers(0, 3)):
        case.path_parameters = {**named, **{key: name for key, name in world["names"].items() if key in named}}
    answer = case.call(app=world["client"].app, base_url="http://testserver", timeout=120)
    assert answer.status_code < 500, answer.text[:400]
    if answer.status_code >= 400 and "json" in str(answer.headers.get("content-type")):
        assert "message" in answer.json() or "detail" in answer.json()
