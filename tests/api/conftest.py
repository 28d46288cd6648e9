"""The API on a database of its own, cases run in this process."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from eurythm.api.app import create_app
from tests.conftest import volume


class Project:
    """One project behind the API, with the calls that tests make over and over."""

    def __init__(self, client: TestClient, state: dict[str, Any]) -> None:
        self.client, self.state = client, state
        self.path = f"/api/projects/{state['id']}"

    def edit(self, expected: int = 200, revision: int | None = None, **edit: Any) -> dict[str, Any]:
        body = {"revision": self.state["revision"] if revision is None else revision, "edit": edit}
        answer = self.client.post(f"{self.path}/edits", json=body)
        assert answer.status_code == expected, answer.text
        if expected == 200:
            self.state = answer.json()
        return answer.json()

    def walk(self, way: str, expected: int = 200) -> dict[str, Any]:
        answer = self.client.post(f"{self.path}/{way}", json={"revision": self.state["revision"]})
        assert answer.status_code == expected, answer.text
        if expected == 200:
            self.state = answer.json()
        return answer.json()

    def get(self, path: str, expected: int = 200) -> Any:
        answer = self.client.get(f"{self.path}/{path}".rstrip("/"))
        assert answer.status_code == expected, answer.text
        return answer.json()

    def post(self, path: str, body: dict[str, Any], expected: int) -> Any:
        answer = self.client.post(f"{self.path}/{path}", json=body)
        assert answer.status_code == expected, answer.text
        return answer.json()


@pytest.fixture
def client(tmp_path: Path) -> Iterator[TestClient]:
    with TestClient(create_app(tmp_path)) as made:
        yield made


def with_weather(client: TestClient) -> Project:
    """Make a project with weather and one volume."""
    made = Project(client, client.post("/api/projects", json={"name": "Test"}).json())
    made.edit(op="set", path="place/climate", value={"kind": "stand-in", "id": "merrowhaven"})
    made.edit(op="put", path="schemes/scheme-1/volumes", item=volume())
    return made


@pytest.fixture
def project(client: TestClient) -> Project:
    return with_weather(client)
