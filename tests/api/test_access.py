"""What is told to browsers, and who is let in beyond this computer."""

from __future__ import annotations

import asyncio
import stat
import time
from collections.abc import Awaitable, Callable
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from eurythm.api import access
from eurythm.api.app import create_app
from eurythm.api.guard import HEADS, Guard
from eurythm.model.errors import EurythmError
from tests.api.conftest import Project


@pytest.fixture
def shut(tmp_path: Path) -> tuple[TestClient, str]:
    """An application that asks for a token, and the token."""
    asking, token = access.opened("0.0.0.0", {"plans.example"}, tmp_path)
    app = create_app(tmp_path, hosts={"plans.example"}, access=asking)
    return TestClient(app, base_url="http://plans.example", follow_redirects=False), token


def test_every_answer_tells_the_browser_what_it_may_do(client: TestClient) -> None:
    for path in ("/api/projects", "/api/none", "/p/x/shape", "/api/projects/none", "/api/openapi.json"):
        answer = client.get(path)
        assert {head: answer.headers.get(head) for head in HEADS} == HEADS
    policy = HEADS["Content-Security-Policy"]
    assert "unsafe-eval" not in policy
    assert "script-src" not in policy  # as by default: our own files alone
    assert client.get("/api/projects", headers={"host": "evil.example"}).headers["X-Frame-Options"] == "DENY"


def test_this_computer_alone_is_asked_nothing(tmp_path: Path) -> None:
    for host in ("127.0.0.1", "localhost", "::1"):
        assert access.opened(host, set(), tmp_path) == (None, "")


@pytest.mark.parametrize("host", ["0.0.0.0", "::", "192.168.0.4", "plans.example"])
def test_beyond_this_computer_a_name_is_needed(host: str, tmp_path: Path) -> None:
    with pytest.raises(EurythmError) as fault:
        access.opened(host, set(), tmp_path)
    assert fault.value.code == "host-not-allowed"
    assert "--allow-host" in fault.value.message


def test_the_token_is_made_once_and_kept_as_a_digest(tmp_path: Path) -> None:
    _, token = access.opened("0.0.0.0", {"a"}, tmp_path)
    assert len(token) >= 30
    kept = tmp_path / access.FILE
    assert token not in kept.read_text()
    assert stat.S_IMODE(kept.stat().st_mode) == 0o600
    asking, again = access.opened("0.0.0.0", {"a"}, tmp_path)
    assert again == ""
    assert asking is not None
    assert asking.holds(token)
    assert not asking.holds("")
    other = access.new_token(tmp_path)
    asking, _ = access.opened("0.0.0.0", {"a"}, tmp_path)
    assert asking is not None
    assert asking.holds(other)
    assert not asking.holds(token)


def test_nothing_is_answered_without_the_token(shut: tuple[TestClient, str]) -> None:
    client, token = shut
    assert client.get("/api/projects").status_code == 401
    assert client.post("/api/projects", json={"name": "x"}).status_code == 401
    assert client.get("/api/openapi.json").status_code == 401
    away = client.get("/p/x/shape")
    assert (away.status_code, away.headers["location"]) == (303, "/enter")
    assert "Token" in client.get("/enter").text
    started = time.perf_counter()
    wrong = client.post("/enter", content="token=guess", headers={"content-type": "application/x-www-form-urlencoded"})
    assert wrong.status_code == 403
    assert "This is not the token" in wrong.text
    assert time.perf_counter() - started >= access.WRONG_S
    assert client.get("/api/projects").status_code == 401
    right = client.post("/enter", content=f"token={token}", headers={"content-type": "application/x-www-form-urlencoded"})
    assert (right.status_code, right.headers["location"]) == (303, "/")
    cookie = right.headers["set-cookie"].casefold()
    assert "httponly" in cookie
    assert "samesite=strict" in cookie
    assert client.get("/api/projects").status_code == 200
    assert client.get("/api/projects", headers={"host": "other.example"}).status_code == 400


def test_wrong_tries_wait_for_each_other(shut: tuple[TestClient, str], monkeypatch: pytest.MonkeyPatch) -> None:
    from concurrent.futures import ThreadPoolExecutor

    monkeypatch.setattr(access, "WRONG_S", 0.2)
    client, _ = shut
    started = time.perf_counter()
    with client, ThreadPoolExecutor(5) as hands:
        codes = list(hands.map(lambda k: client.post("/enter", content=f"token={k}").status_code, range(5)))
    assert codes == [403] * 5
    assert time.perf_counter() - started >= 1.0


def test_behind_a_proxy_pages_are_called_by_its_name(tmp_path: Path) -> None:
    """A proxy that calls us by our own name tells the page's name beside it; only a name that is allowed counts."""
    client = TestClient(create_app(tmp_path, hosts={"plans.example"}), base_url="http://127.0.0.1:8710")
    heads = {"origin": "https://plans.example", "x-forwarded-host": "plans.example", "x-forwarded-proto": "https"}
    assert client.post("/api/projects", json={"name": "A"}, headers=heads).status_code == 201
    assert client.post("/api/projects", json={"name": "A"}, headers=heads | {"x-forwarded-host": "evil.example"}).status_code == 403
    evil = {"origin": "https://evil.example", "x-forwarded-host": "evil.example"}
    assert client.post("/api/projects", json={"name": "A"}, headers=evil).status_code == 403


def test_what_the_disk_refuses_is_told_without_a_path(project: Project, monkeypatch: pytest.MonkeyPatch) -> None:
    import errno

    from eurythm.store.projects import Projects

    def full(*_: object, **__: object) -> None:
        raise OSError(errno.ENOSPC, "No space left on device", "/secret/place/file")

    monkeypatch.setattr(Projects, "edit", full)
    answer = project.edit(507, op="set", path="name", value="x")
    assert answer["code"] == "disk-full"
    assert "secret" not in str(answer)


@pytest.mark.parametrize(
    ("edit", "said"),
    [
        ({"op": "set", "path": "schemes/scheme-1/turn_deg", "value": True}, "valid number"),
        ({"op": "set", "path": "schemes/scheme-1/turn_deg", "value": "12"}, "valid number"),
        ({"op": "set", "path": "name", "value": "bell\u0007"}, "control characters"),
        ({"op": "set", "path": "name", "value": "\u0000"}, "control characters"),
    ],
)
def test_true_and_text_are_no_numbers_and_names_have_no_control_characters(project: Project, edit: dict, said: str) -> None:
    before = project.state["revision"]
    assert said in project.edit(422, **edit)["message"]
    assert project.get("")["revision"] == before


def test_a_revision_is_a_number(project: Project) -> None:
    edit = {"op": "set", "path": "name", "value": "x"}
    for revision in (True, str(project.state["revision"])):
        assert project.client.post(f"{project.path}/edits", json={"revision": revision, "edit": edit}).status_code == 422


@pytest.mark.parametrize(
    "path",
    [
        "",
        "/revision",
        "/studies",
        "/pins",
        "/imports",
        "/shelf",
        "/file",
        "/climate-sheet",
        "/findings",
        "/schemes/quay/outcome",
        "/drawings/none",
    ],
)
def test_an_unknown_project_is_not_found_anywhere(client: TestClient, path: str) -> None:
    answer = client.get(f"/api/projects/none{path}")
    assert (answer.status_code, answer.json()["code"]) == (404, "no-such-project")


def test_one_project_s_studies_and_pins_are_not_another_s(project: Project) -> None:
    client = project.client
    levers = [{"kind": "turn", "steps": [0, 10]}]
    study = project.post("studies", {"revision": project.state["revision"], "study": {"levers": levers}}, 201)["id"]
    client.app.state.office.jobs.wait(study)
    pin = project.post("pins", {"study": study, "number": 0}, 201)["id"]
    other = client.post("/api/projects", json={"name": "Other"}).json()["id"]
    there = f"/api/projects/{other}"
    for way in ("", "/cases", "/matters", "/cases.csv", "/events"):
        assert client.get(f"{there}/studies/{study}{way}").status_code == 404
    assert client.post(f"{there}/studies/{study}/cancel").status_code == 404
    assert client.delete(f"{there}/studies/{study}").status_code == 404
    assert client.post(f"{there}/pins", json={"study": study, "number": 0}).status_code == 404
    assert client.put(f"{there}/pins/{pin}/note", json={"note": "x"}).status_code == 404
    assert client.delete(f"{there}/pins/{pin}").status_code == 404
    assert project.get(f"studies/{study}")["status"] == "done"
    assert len(project.get("pins")) == 1


@pytest.mark.parametrize("ends", [True, False])
def test_an_answer_that_stops_in_the_middle_is_ended_once(ends: bool) -> None:
    """What is followed stops in the middle where the server does; the connection is told, and no fault is logged."""

    async def following(_: object, __: object, send: Callable[[dict], Awaitable[None]]) -> None:
        await send({"type": "http.response.start", "status": 200, "headers": []})
        await send({"type": "http.response.body", "body": b"a", "more_body": True})
        if ends:
            await send({"type": "http.response.body", "body": b"", "more_body": False})

    sent: list[dict] = []

    async def send(message: dict) -> None:
        sent.append(message)

    scope = {"type": "http", "method": "GET", "path": "/", "headers": [(b"host", b"localhost")]}
    asyncio.run(Guard(following, {"localhost"})(scope, None, send))
    assert [m.get("more_body") for m in sent] == [None, True, False]
    assert {name.decode() for name, _ in sent[0]["headers"]} >= {name.lower() for name in HEADS}
