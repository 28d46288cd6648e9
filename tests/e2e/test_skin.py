"""Skin: a wall built with studs, rules and one face by hand, how deep a shade, sun on faces, and the register."""

from __future__ import annotations

import io
import re
from pathlib import Path

import pytest
from openpyxl import load_workbook
from playwright.sync_api import expect

from tests.e2e.pages import Eurythm, api, new_demo
from tests.e2e.test_drawing import drag, middle, pull


def cell(demo: Eurythm, label: str, value: str) -> None:
    """Type into a table's cell and wait until the edit is kept."""
    before = demo.revision
    box = demo.page.get_by_label(label, exact=True)
    box.fill(value)
    box.press("Enter")
    demo.settled(before)


def press(demo: Eurythm, name: str) -> None:
    before = demo.revision
    demo.page.get_by_label(name, exact=True).click()
    demo.settled(before)


@pytest.fixture
def demo(bare: Eurythm) -> Eurythm:
    """Nothing of the skin hangs on lights and plant."""
    return bare


@pytest.fixture
def quay(demo: Eurythm) -> Eurythm:
    demo.open("skin", "quay").settled()
    return demo


def south_face(demo: Eurythm, edge: str = "bar/s1/e1") -> dict:
    return next(f for f in demo.geometry()["faces"] if f["edge"] == edge)


def select_face(demo: Eurythm, edge: str) -> None:
    corners = south_face(demo, edge)["loops"][0]
    at = [sum(p[k] for p in corners) / len(corners) for k in range(3)]
    demo.page.mouse.click(*demo.on_canvas(at[0] + 1.5, at[1], corners[0][2] + 0.3))
    expect(demo.page.get_by_role("heading", name=re.compile("wall"))).to_be_visible()


def test_a_timber_wall_with_studs_is_built_and_a_slipped_decimal_asked_about(quay: Eurythm) -> None:
    before = quay.revision
    quay.button("Build one by layers").click()
    quay.settled(before)
    cell(quay, "Layer 1, thickness", "160")
    press(quay, "Layer 1, interrupt by studs")
    cell(quay, "Layer 1, share of studs", "12")
    for _ in range(2):
        before = quay.revision
        quay.button("Add layer").click()
        quay.settled(before)
    press(quay, "Layer 3 further out")
    press(quay, "Layer 2 further out")
    cell(quay, "Layer 1, material", "wood fibre board")
    cell(quay, "Layer 1, thickness", "60")
    cell(quay, "Layer 2, conductivity", "0.35")
    asked = quay.page.get_by_text("0.35 W/mK is unusual for mineral wool")
    expect(asked).to_be_visible()
    before = quay.revision
    quay.button("Take 0.035").click()
    quay.settled(before)
    expect(quay.page.locator("[data-u]")).to_contain_text("0.193")  # the hand-worked case of the standard
    expect(asked).to_be_hidden()
    expect(quay.page.locator("[data-mould]")).to_have_text("No mould at the inner surface.")
    quay.button("IP").click()
    expect(quay.page.locator("[data-u]")).to_contain_text("0.0340")
    quay.button("SI").click()
    quay.button("Back to the model").click()
    before = quay.revision
    quay.page.get_by_role("combobox", name="Wall", exact=True).click()
    quay.page.get_by_role("option", name="New construction", exact=True).click()
    quay.settled(before)
    assert south_face(quay)["construction"] == "own-1"


def test_nonsense_in_a_layer_is_refused_and_leaves_no_trace(quay: Eurythm) -> None:
    before = quay.revision
    quay.button("Build one by layers").click()
    quay.settled(before)
    given = quay.state["given"]
    for typed in ("-5", "thick"):
        quay.page.get_by_label("Layer 1, thickness").fill(typed)
        quay.page.get_by_label("Layer 1, thickness").press("Enter")
        expect(quay.page.get_by_text(re.compile("thickness_m"))).to_be_visible()
        assert quay.state["given"] == given


def test_rules_give_constructions_and_one_face_differs(quay: Eurythm) -> None:
    quay.page.locator("summary", has_text="Rules").click()
    before = quay.revision
    quay.button("Add rule").click()
    quay.settled(before)
    before = quay.revision
    quay.page.get_by_role("combobox", name="Rule 1, orientation").click()
    quay.page.get_by_role("option", name="south").click()
    quay.settled(before)
    quay.choose("Rule 1, construction", "Timber frame, 240 mm insulated")
    expect(quay.page.get_by_text("3 faces")).to_be_visible()
    select_face(quay, "bar/s1/e1")
    expect(quay.page.locator("[data-clad-by]")).to_have_text("by rule 1: wall, south")
    quay.choose("Construction", "Solid brick, plastered")
    expect(quay.page.locator("[data-clad-by]")).to_have_text("by hand")
    kinds = {f["edge"]: f["construction"] for f in quay.geometry()["faces"] if f["edge"].endswith("/e1")}
    assert kinds == {"bar/s0/e1": "wall-timber", "bar/s1/e1": "wall-old", "bar/s2/e1": "wall-timber"}


def test_a_shade_is_deepened_by_how_deep_and_the_cooling_falls(quay: Eurythm) -> None:
    select_face(quay, "bar/s1/e1")
    quay.page.locator("summary", has_text="How deep").click()
    quay.button("How deep?").click()
    told = quay.page.locator("[data-how-deep]")
    expect(told).to_contain_text("kept out")
    before = quay.revision
    told.get_by_role("button", name=re.compile("^Take")).first.click()
    quay.settled(before)
    expect(quay.page.locator("[data-before-after]")).to_contain_text(re.compile(r"cooling ↓ \d+% less"))
    override = quay.given["skin"]["overrides"][0]
    assert override["overhang_m"] > 0.5
    press(quay, "Overhang here: as the scheme again")
    assert "overhang_m" not in quay.given["skin"]["overrides"][0]


def test_a_side_of_a_volume_is_varied_from_one_of_its_faces(quay: Eurythm) -> None:
    quay.open("skin")
    quay.settled()
    select_face(quay, "bar/s1/e1")
    row = quay.page.locator(".field", has=quay.page.get_by_label("Overhang here", exact=True))
    row.hover()
    row.get_by_role("button", name="± vary").click()
    expect(quay.page.get_by_text("Overhang, Bar, south is a lever of the study now.")).to_be_visible()
    quay.open("study")
    expect(quay.page.get_by_label("Steps of Overhang, Bar, south")).to_be_visible()


def test_faces_are_coloured_by_the_summers_sun_and_one_value_is_read(quay: Eurythm) -> None:
    quay.page.locator("summary", has_text="Sun on faces").click()
    quay.button("summer").click()
    quay.button("Show the sun").click()
    expect(quay.page.locator("[data-sun]")).to_contain_text("points on 17 faces")
    scale = quay.page.locator("[data-sun-scale]")
    expect(scale).to_contain_text("kWh/m²")
    corners = south_face(quay)["loops"][0]
    at = [sum(p[k] for p in corners) / len(corners) for k in range(3)]
    name = quay.page.locator(".hover-name")
    place = quay.on_canvas(*at)
    for k in range(60):
        quay.page.mouse.move(place[0] + k % 2, place[1])
        if name.is_visible() and "kWh" in name.inner_text():
            break
    expect(name).to_contain_text(re.compile(r"\d+ kWh/m² here; the face \d+ kWh/m²"))
    value = int(name.inner_text().split()[0])
    assert 150 < value < 450
    quay.button("IP").click()
    expect(scale).to_contain_text("kBtu/ft²")
    quay.button("SI").click()


def test_five_assumed_values_are_confirmed_in_one_step(quay: Eurythm) -> None:
    quay.page.get_by_role("link", name="assumed").click()
    expect(quay.page.locator('[data-ranking="current"]')).to_be_visible()
    rows = quay.page.locator("[data-assumed]")
    count = rows.count()
    paths = [rows.nth(k).get_attribute("data-assumed") for k in range(5)]
    for k in range(5):
        rows.nth(k).get_by_role("checkbox").check()
    before = quay.revision
    quay.button("Confirm 5 as they are").click()
    quay.settled(before)
    expect(rows).to_have_count(count - 5)
    left = {rows.nth(k).get_attribute("data-assumed") for k in range(count - 5)}
    assert not left & set(paths)
    quay.button("Undo").click()
    expect(rows).to_have_count(count)


def test_the_area_sheet_is_saved_and_opens_as_a_workbook(quay: Eurythm) -> None:
    quay.page.locator("summary", has_text="Schedule").click()
    with quay.page.expect_download() as waited:
        quay.page.get_by_role("link", name="Save as XLSX", exact=True).click()
    book = load_workbook(io.BytesIO(waited.value.path().read_bytes()))
    head, *rows = book["Areas"].iter_rows(values_only=True)
    walls = [r for r in rows if r[0] == "Outside wall"]
    drawn = sum(f["area"] - f["window_area"] for f in quay.geometry()["faces"] if f["element"] == "wall")
    assert head[9] == "Sum m²"
    assert sum(r[9] for r in walls) == pytest.approx(drawn)
    with quay.page.expect_popup() as popup:
        quay.page.get_by_role("link", name="Page to print").click()
    expect(popup.value.get_by_role("heading", name="Quay: constructions and areas")).to_be_visible()


def test_a_table_of_materials_is_read_its_bad_cells_told_and_only_then_taken(quay: Eurythm, tmp_path: Path) -> None:
    table = tmp_path / "own.csv"
    table.write_text("Material,Conductivity W/mK,Density kg/m³\nhemp board,0.045,60\nslag,very good,900\n")
    quay.page.locator("summary", has_text="Materials").click()
    before = quay.state["given"]
    quay.page.get_by_label("Read a table of materials").set_input_files(table)
    told = quay.page.locator("[data-table-read]")
    expect(told).to_contain_text("own.csv: 1 material can be taken, 1 row cannot.")
    expect(told).to_contain_text("Row 3, Conductivity W/mK: “very good” is no number")
    assert quay.state["given"] == before
    revision = quay.revision
    quay.button("Take 1").click()
    quay.settled(revision)
    assert [m["name"] for m in quay.state["given"]["library"]["materials"]] == ["hemp board"]


def test_a_window_is_built_of_panes_and_used(quay: Eurythm) -> None:
    quay.page.locator("summary", has_text="Build a window of panes").click()
    told = quay.page.locator("[data-glass]")
    expect(told).to_contain_text("Glass U 1.06")
    quay.page.get_by_role("combobox", name="Gas").click()
    quay.page.get_by_role("option", name="air", exact=True).click()
    expect(told).not_to_contain_text("Glass U 1.06")
    quay.button("Add pane").click()
    quay.page.get_by_label("Name of the window").fill("Quay triple")
    before = quay.revision
    quay.button("Use it").click()
    quay.settled(before)
    made = quay.state["given"]["library"]["glazings"][-1]
    assert made["name"] == "Quay triple"
    assert len(made["build"]["panes"]) == made["panes"] == 3
    assert quay.given["skin"]["glazing"] == made["id"]


def test_a_whole_set_is_taken_at_once_and_taken_back_at_once(demo: Eurythm) -> None:
    demo.open("skin")
    before = float(demo.eui())
    demo.choose("Whole set of constructions", "Masonry 1975 wall U 1.41 W/m²K")
    skin = demo.given["skin"]
    assert (skin["wall"], skin["roof"], skin["glazing"]) == ("masonry-1975-wall", "masonry-1975-roof", "double-clear")
    assert float(demo.eui()) > 1.3 * before
    demo.button("Undo").click()
    expect(demo.button("Redo")).to_be_enabled()
    demo.settled()
    assert float(demo.eui()) == before


def test_an_own_material_is_made_changed_and_kept_for_all_projects(demo: Eurythm) -> None:
    name = f"Straw {demo.project[:6]}"
    demo.open("skin")
    demo.page.locator("summary", has_text="Materials").first.click()
    demo.button("New material").click()
    demo.page.locator("[data-material] > summary").click()
    demo.type("library/materials/own-material-1/conductivity", "0.055")
    field = demo.field("library/materials/own-material-1/name")
    field.fill(name)
    field.press("Enter")
    expect(demo.page.locator("[data-material] > summary")).to_have_text(name)
    demo.button("Keep for all projects").click()
    expect(demo.page.get_by_text(f"“{name}” is kept")).to_be_visible()
    other = new_demo(demo.server)
    demo.page.goto(f"{demo.server.url}/p/{other}/skin/quay")
    demo.page.locator("summary", has_text="Kept for all projects").click()
    demo.page.get_by_role("button", name=f"Take {name} into this project").click()
    expect(demo.page.get_by_text("in this project's library now")).to_be_visible()
    (taken,) = api(demo.server, f"projects/{other}")["given"]["library"]["materials"]
    assert (taken["name"], taken["conductivity"]) == (name, 0.055)
    demo.page.get_by_role("button", name=f"Remove {name} from what is kept").click()
    expect(demo.page.get_by_role("button", name=f"Take {name} into this project")).to_have_count(0)


@pytest.fixture
def south_wall(demo: Eurythm) -> Eurythm:
    """The middle storey of Quay's south wall, selected in the model."""
    demo.open("skin").settled()
    demo.page.mouse.click(*demo.on_canvas(34.5, 6, 4.2))
    expect(demo.page.get_by_role("heading", name="South wall")).to_be_visible()
    return demo


def override(demo: Eurythm) -> dict:
    (own,) = demo.given["skin"]["overrides"]
    return own


def test_windows_are_placed_one_by_one_on_the_wall_as_it_is_seen(south_wall: Eurythm) -> None:
    wall = south_wall.page.locator("[data-elevation]")
    first = wall.locator('[data-window="0"]')
    count = wall.locator("[data-window]").count()
    at = middle(south_wall, first)
    drag(south_wall, at, (0, -12))
    south_wall.settled(1)
    own = override(south_wall)
    assert len(own["windows"]) == count
    assert own["windows"][0]["z"] > own["windows"][1]["z"] + 0.3  # the first was lifted, the others stay
    expect(wall).to_contain_text("placed one by one")
    drag(south_wall, middle(south_wall, wall.locator("[data-size]")), (-10, 8))
    south_wall.settled(2)
    smaller = override(south_wall)["windows"][0]
    assert smaller["width"] < own["windows"][0]["width"] - 0.3
    wall.get_by_label("Width", exact=True).fill("0.9")
    wall.get_by_label("Width", exact=True).press("Enter")
    south_wall.settled(3)
    assert override(south_wall)["windows"][0]["width"] == 0.9
    wall.get_by_label("From the left").fill("70")  # beyond the wall of 56 m
    wall.get_by_label("From the left").press("Enter")
    expect(south_wall.page.get_by_text("beyond the south wall of")).to_be_visible()
    assert override(south_wall)["windows"][0]["x"] < 5
    glass = south_wall.outcome()["totals"]["window_m2"]
    wall.get_by_role("button", name="Remove it").click()
    south_wall.settled(4)
    assert len(override(south_wall)["windows"]) == count - 1
    assert south_wall.outcome()["totals"]["window_m2"] == pytest.approx(glass - 0.9 * smaller["height"])
    wall.get_by_role("button", name="Add a window").click()
    south_wall.settled(5)
    assert len(override(south_wall)["windows"]) == count
    wall.get_by_role("button", name="As the pattern again").click()
    south_wall.settled(6)
    assert "windows" not in override(south_wall)


def test_an_overhang_is_pulled_out_of_the_wall_and_the_readout_follows(south_wall: Eurythm) -> None:
    cooling = south_wall.outcome()["totals"]["cooling_demand_kwh"]
    knob = south_wall.on_canvas(34, 6, 3.8 + 3.05)
    pull(south_wall, knob, (-10, 34))
    south_wall.settled(1)
    depth = override(south_wall)["overhang_m"]
    assert 0.5 < depth < 8
    assert south_wall.outcome()["totals"]["cooling_demand_kwh"] < cooling
    south_wall.page.get_by_label("Overhang here: as the scheme again").click()
    south_wall.settled(2)
    assert "overhang_m" not in override(south_wall)


def test_blinds_and_an_egg_crate_of_one_wall(south_wall: Eurythm) -> None:
    demands = [south_wall.outcome()["totals"]["cooling_demand_kwh"]]
    south_wall.choose("Blinds here", "outside")
    demands.append(south_wall.outcome()["totals"]["cooling_demand_kwh"])
    louvres = south_wall.page.get_by_label("Louvres here", exact=True)
    louvres.fill("0.3")
    louvres.press("Enter")
    south_wall.settled(2)
    demands.append(south_wall.outcome()["totals"]["cooling_demand_kwh"])
    south_wall.page.get_by_role("combobox", name="Louvres as").first.scroll_into_view_if_needed()
    south_wall.page.get_by_role("combobox", name="Louvres as").first.click()
    south_wall.page.get_by_role("option", name="crossed, an egg-crate").click()
    south_wall.settled(3)
    demands.append(south_wall.outcome()["totals"]["cooling_demand_kwh"])
    assert demands == sorted(demands, reverse=True)
    own = override(south_wall)
    assert (own["blinds"], own["louvre_m"], own["louvre_kind"]) == ("outside", 0.3, "crossed")


def test_rooflights_are_drawn_on_the_roof_and_bring_sun(demo: Eurythm) -> None:
    demo.open("skin").settled()
    before = demo.outcome()["totals"]
    demo.page.locator("summary", has_text="Rooflights").click()
    demo.type("skin/rooflight_ratio", "10")
    after = demo.outcome()["totals"]
    assert after["rooflight_m2"] == pytest.approx(0.1 * before["roof_m2"], rel=0.02)
    assert after["cooling_demand_kwh"] > before["cooling_demand_kwh"]
    roofs = [f for f in demo.geometry()["faces"] if f["kind"] == "ceiling" and f["boundary"] == "outdoors"]
    assert sum(len(f["windows"]) for f in roofs) > 10


def test_a_picture_of_the_sun_is_kept_with_the_scheme_and_shown_again(demo: Eurythm) -> None:
    demo.open("skin").settled()
    demo.page.locator("summary", has_text="Sun on faces").click()
    demo.page.get_by_role("button", name="Summer sun on the quay side", exact=True).click()  # the demo's own
    shown = demo.page.locator("[data-sun]")
    expect(shown).to_contain_text("points on")
    assert "0 points" not in (shown.text_content() or "")[:8]
    scale = demo.page.locator('[name="sun-high"]')
    scale.fill("500")
    scale.press("Enter")
    demo.button("Keep this picture").click()
    demo.page.get_by_label("Name of the picture").fill("Mine")
    demo.page.get_by_label("Name of the picture").press("Enter")
    expect(demo.page.get_by_role("button", name="Mine", exact=True)).to_be_visible()
    mine = demo.given["sun_pictures"][-1]
    assert (mine["name"], mine["orientations"], mine["first_day"], mine["last_day"]) == ("Mine", ["south"], 151, 242)
    assert mine["high"] == 500
    demo.page.get_by_role("button", name="Summer sun on the quay side", exact=True).click()
    expect(scale).not_to_have_value("500")  # that one's scale follows its faces
    demo.page.get_by_role("button", name="Mine", exact=True).click()
    expect(scale).to_have_value("500")
    demo.page.get_by_role("button", name="Remove the picture Mine").click()
    expect(demo.page.get_by_role("button", name="Mine", exact=True)).to_have_count(0)
