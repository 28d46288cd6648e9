"""Files of every kind, chosen or dropped anywhere on the page."""

from __future__ import annotations

import base64
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from eurythm.climate.standin import standin_epw
from eurythm.exchange.samples import dxf, gbxml, massing
from tests.e2e.conftest import Server
from tests.e2e.pages import Eurythm, api


def drop(page: Page, *files: Path) -> None:
    """Drop files in the middle of the page, as from a folder."""
    named = [[f.name, base64.b64encode(f.read_bytes()).decode()] for f in files]
    data = page.evaluate_handle(
        """files => {
          const d = new DataTransfer();
          for (const [name, body] of files) d.items.add(new File([Uint8Array.from(atob(body), c => c.charCodeAt(0))], name));
          return d;
        }""",
        named,
    )
    page.locator("main").dispatch_event("dragover", {"dataTransfer": data})
    expect(page.get_by_text("Let go to read it")).to_be_visible()
    page.locator("main").dispatch_event("drop", {"dataTransfer": data})
    expect(page.get_by_text("Let go to read it")).to_have_count(0)


def test_weather_neighbours_and_plans_are_taken_where_they_are_dropped(demo: Eurythm, tmp_path: Path) -> None:
    page = demo.open("skin").page
    demo.settled()
    (tmp_path / "own.epw").write_text(standin_epw("karsk-basin"))
    massing.write_neighbours(tmp_path / "quay.geojson")
    dxf.write_court(tmp_path / "ground.dxf")
    (tmp_path / "letter.docx").write_bytes(b"PK")
    before = demo.state
    drop(page, tmp_path / "letter.docx")
    expect(page.get_by_role("alert")).to_contain_text("“letter.docx” is none of the files that are read")
    drop(page, tmp_path / "own.epw", tmp_path / "quay.geojson")
    expect(page.get_by_role("alert")).to_contain_text("One file at a time")
    assert demo.state == before
    drop(page, tmp_path / "own.epw")
    expect(page.get_by_text("own.epw is the climate year now.")).to_be_visible()
    drop(page, tmp_path / "quay.geojson")
    expect(page.get_by_text("3 outlines from quay.geojson.")).to_be_visible()
    drop(page, tmp_path / "ground.dxf")
    page.wait_for_url("**/shape/quay")
    expect(page.get_by_text("The plan is drawn in mm.")).to_be_visible()
    assert demo.given_place["climate"]["kind"] == "file"
    assert {f["name"] for f in demo.given_place["footprints"]} >= set(massing.NEIGHBOURS)
    assert [u["name"] for u in demo.given["underlays"]] == ["ground.dxf"]


def test_a_gbxml_model_that_is_dropped_becomes_a_project_of_its_own(demo: Eurythm, tmp_path: Path) -> None:
    gbxml.write_court(tmp_path / "court.xml", "IP")
    page = demo.open("shape").page
    before = demo.state["given"]
    drop(page, tmp_path / "court.xml")
    expect(page.get_by_text("30 rooms,")).to_be_visible()
    expect(page.get_by_text("gbXML, lengths in ft. Areas lie on the surfaces of the file: centre lines of walls.")).to_be_visible()
    page.get_by_role("button", name="Take over", exact=True).click()
    page.get_by_role("menuitem", name="As a project of its own").click()
    page.wait_for_url("**/shape/scheme-1")
    expect(page.get_by_text("A new project was made of it.")).to_be_visible()
    assert demo.state["given"] == before
    made = page.url.split("/p/")[1].split("/")[0]
    assert made != demo.project
    assert len(api(demo.server, f"projects/{made}")["given"]["schemes"][0]["zones"]) == 30


def test_a_mass_is_asked_for_unit_and_storeys_and_replaces_a_shape(demo: Eurythm, tmp_path: Path) -> None:
    massing.write_masses(tmp_path / "masses.obj", millimetres=True)
    page = demo.open("shape").page
    before = demo.given
    page.set_input_files('input[aria-label="Import"]', tmp_path / "masses.obj")
    page.get_by_label("One of its units is").select_option("a millimetre")
    storey = page.get_by_label("Cut into storeys of about")
    for odd in ("1", "tall"):
        storey.fill(odd)
        storey.press("Enter")
        expect(page.get_by_text("A storey is 1.5 m to 30 m high.")).to_be_visible()
        expect(page.get_by_role("button", name="Read it", exact=True)).to_be_disabled()
    storey.fill("2.3")
    storey.press("Enter")
    page.get_by_role("button", name="Read it", exact=True).click()
    expect(page.get_by_role("heading", name="3 masses,")).to_be_visible()
    page.get_by_role("button", name="Take over", exact=True).click()
    page.get_by_role("menuitem", name="In place of the shape of Quay").click()
    page.wait_for_url("**/shape/quay")
    demo.settled()
    volumes = {v["name"]: v for v in demo.given["volumes"]}
    assert {name: len(v["storeys"]) for name, v in volumes.items()} == {"Hall": 3, "Reading rooms": 3, "Workshops": 2}
    assert demo.given["use"] == before["use"]
    assert demo.given["name"] == "Quay"
    gross = sum(z["gross_volume_m3"] for z in demo.geometry()["zones"])
    assert gross == pytest.approx(massing.truth()["volume_m3"], rel=1e-3)
    demo.button("Undo").click()
    expect(demo.button("Redo")).to_be_enabled()
    assert demo.given == before


def test_a_project_begins_with_a_mass(shared: Server, page: Page, tmp_path: Path) -> None:
    massing.write_masses(tmp_path / "first ideas.stl")
    page.goto(f"{shared.url}/projects")
    expect(page.get_by_role("heading", name="Eurythm")).to_be_visible()
    before = {p["id"] for p in api(shared, "projects")}
    drop(page, tmp_path / "first ideas.stl")
    page.get_by_role("button", name="Do not read it").click()
    assert {p["id"] for p in api(shared, "projects")} == before
    drop(page, tmp_path / "first ideas.stl")
    page.get_by_role("button", name="Read it", exact=True).click()
    page.wait_for_url("**/shape/scheme-1/import/*")
    (made,) = {p["id"] for p in api(shared, "projects")} - before
    assert api(shared, f"projects/{made}")["given"]["name"] == "first ideas"
    expect(page.get_by_role("button", name="Take over", exact=True)).to_be_enabled()
