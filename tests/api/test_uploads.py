"""Files that are sent: bounded before they are read, and nobody waits for somebody else's."""

from __future__ import annotations

import inspect
import io
import json
import resource
import threading
import time
import zipfile
from typing import Any

import pytest
from openpyxl import Workbook

from eurythm.api import uploads
from eurythm.api.routes import drawings, files, imports, library, projects, use
from eurythm.model import reading
from tests.api.conftest import Project


def workbook_of(sheet: bytes) -> bytes:
    """A workbook whose only sheet holds these bytes."""
    book, out = Workbook(), io.BytesIO()
    book.save(out)
    packed = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(out.getvalue())) as old, zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as new:
        for part in old.infolist():
            new.writestr(part.filename, sheet if "sheet1" in part.filename else old.read(part))
    return packed.getvalue()


def sent(project: Project, path: str, name: str, body: bytes) -> Any:
    return project.client.post(f"{project.path}/{path}", files={"file": (name, body)})


def peak_mb() -> float:
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1000


@pytest.mark.parametrize("path", ["materials/read", "schedules/table"])
def test_a_workbook_that_unpacks_to_400_mb_is_refused_before_it_is_unpacked(project: Project, path: str) -> None:
    row = b'<row r="1"><c r="A1" t="inlineStr"><is><t>' + b"x" * 400_000_000 + b"</t></is></c></row>"
    head = b'<?xml version="1.0"?><worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>'
    body = workbook_of(head + row + b"</sheetData></worksheet>")
    del row
    assert len(body) < 1_000_000
    before, started = peak_mb(), time.perf_counter()
    answer = sent(project, path, "large.xlsx", body)
    assert (answer.status_code, answer.json()["code"]) == (422, "too-large")
    assert "unpacks to more than 40 MB" in answer.json()["message"]
    assert time.perf_counter() - started < 2.0
    assert peak_mb() - before < 50


def test_a_table_of_commas_takes_no_memory(project: Project) -> None:
    before = peak_mb()
    answer = sent(project, "materials/read", "commas.csv", b"," * 4_900_000)
    assert (answer.status_code, answer.json()["code"]) == (422, "too-wide")
    assert peak_mb() - before < 250  # one row of five million cells


def test_a_wide_table_of_hours_keeps_all_its_columns(project: Project) -> None:
    """Sixty columns as CSV: none is left out in silence."""
    table = "\n".join([",".join(f"c{k}" for k in range(60)), *[",".join(["0.5"] * 60)] * 8760])
    answer = sent(project, "schedules/table", "wide.csv", table.encode())
    assert answer.status_code == 200
    assert len(answer.json()) == 60


def test_outlines_are_counted_before_any_is_made(project: Project) -> None:
    ring = [[0, 0], [0, 0.001], [0.001, 0.001], [0, 0]]
    feature = {"type": "Feature", "properties": {"height": 5}, "geometry": {"type": "MultiPolygon", "coordinates": [[ring]] * 6000}}
    answer = sent(project, f"surroundings?revision={project.state['revision']}", "many.geojson", json.dumps(feature).encode())
    assert answer.json()["code"] == "too-large"
    assert "6,000 outlines" in answer.json()["message"]


def test_values_are_counted_before_they_are_decoded(project: Project, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(reading, "MAX_VALUES", 1000)
    answer = sent(project, "../open", "many.eurythm.json", b"[" + b"1," * 2000 + b"1]")
    assert (answer.status_code, answer.json()["code"]) == (422, "too-large")


def test_a_request_is_bounded_as_it_comes(project: Project, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(uploads, "MOST_JSON_BYTES", 1000)
    edit = {"revision": project.state["revision"], "edit": {"op": "set", "path": "name", "value": "x" * 2000}}
    assert project.client.post(f"{project.path}/edits", json=edit).status_code == 413  # by what it says of itself
    pieces = iter([json.dumps(edit).encode()[k : k + 100] for k in range(0, 2000, 100)])
    answer = project.client.post(f"{project.path}/edits", content=pieces, headers={"content-type": "application/json"})
    assert (answer.status_code, answer.json()["code"]) == (413, "too-large")
    assert project.get("")["revision"] == project.state["revision"]


def test_nobody_waits_while_somebody_elses_table_is_read(project: Project, monkeypatch: pytest.MonkeyPatch) -> None:
    """Every upload is read beside the event loop: while one takes a second, others are answered."""
    reading_now = threading.Event()

    def slow(*_: object) -> list[Any]:
        reading_now.set()
        time.sleep(1.0)
        return []

    monkeypatch.setattr(use, "read_hours", slow)
    sending = threading.Thread(target=sent, args=(project, "schedules/table", "slow.csv", b"1\n"))
    sending.start()
    assert reading_now.wait(5.0)
    started = time.perf_counter()
    assert project.get("revision")["revision"] == project.state["revision"]
    assert time.perf_counter() - started < 0.5
    sending.join()


def test_no_route_reads_a_file_on_the_event_loop() -> None:
    """Routes with ``async`` run on the loop itself; of those that take files there is none."""
    taking = [
        route.endpoint
        for module in (drawings, files, imports, library, projects, use)
        for route in module.router.routes
        if any("UploadFile" in str(p.annotation) for p in inspect.signature(route.endpoint).parameters.values())  # type: ignore[attr-defined]
    ]
    assert len(taking) == 8
    assert not [endpoint.__name__ for endpoint in taking if inspect.iscoroutinefunction(endpoint)]
