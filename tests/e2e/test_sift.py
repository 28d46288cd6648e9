"""From a model to an energy model on the screen: sift, mend, take over, a newer file."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import expect

from eurythm.exchange import ifc as ifc_files
from eurythm.exchange.samples import ifc
from eurythm.exchange.samples.ifc import Options
from tests.e2e.pages import Eurythm, api

IFC = Path(ifc_files.__file__).parent


@pytest.fixture
def demo(bare: Eurythm) -> Eurythm:
    """None of this hangs on lights and plant."""
    return bare


@pytest.fixture(scope="module")
def files(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("models")
    ifc.write_court(folder / "court.ifc")
    ifc.write_court(folder / "newer.ifc", Options(lintel=0.3))
    return folder


def read(ours: Eurythm, path: Path, label: str = "Import") -> None:
    """Choose a file and wait until the sift shows what it comes to."""
    ours.page.set_input_files(f'input[aria-label="{label}"]', path)
    expect(ours.page.locator("[data-finding]").first).to_be_attached()


def import_id(ours: Eurythm) -> str:
    return ours.page.url.rsplit("/", 1)[-1]


def settled(ours: Eurythm) -> dict:
    return api(ours.server, f"projects/{ours.project}/imports/{import_id(ours)}/settled")


def outside_walls(ours: Eurythm) -> float:
    return sum(o["wall_gross_m2"] for o in settled(ours)["report"]["orientation"].values())


def kept(ours: Eurythm) -> int:
    return sum(s["kept"] for s in settled(ours)["report"]["spaces"])


def test_the_sample_is_sifted_mended_and_taken_over(demo: Eurythm, files: Path) -> None:
    page = demo.open("shape").page
    before = demo.state["revision"]
    read(demo, files / "court.ifc")
    rows = page.locator(".class-row")
    expect(page.get_by_text("30 rooms,")).to_be_visible()
    assert rows.filter(has_text="furniture").locator("svg line").count() > 5
    # a class is left out, and comes back by undo
    page.get_by_role("button", name="Leave out windows").click()
    expect(page.get_by_role("button", name="Keep windows")).to_be_visible()
    page.get_by_role("button", name="Undo decision").click()
    expect(page.get_by_role("button", name="Leave out windows")).to_be_visible()
    # by name pattern
    page.get_by_label("Name or pattern").fill("stair*")
    page.get_by_role("button", name="Leave out", exact=True).click()
    expect(page.get_by_text("28 rooms,")).to_be_visible()
    page.get_by_role("button", name="Take back: leave out name stair*").click()
    expect(page.get_by_text("30 rooms,")).to_be_visible()
    # a named fault is mended from the list
    demo.still(page.get_by_text("Mended: 10"))
    page.get_by_text("Mended: 10").click()
    page.locator('[data-finding="space-without-name"]').click()
    page.get_by_label("name of 1.13").fill("Map store")
    page.get_by_label("name of 1.13").press("Enter")
    expect(page.locator('[data-finding="space-without-name"]')).to_have_count(0)
    # one key lays the received over the calculated
    page.keyboard.press("Escape")  # out of the field
    canvas = page.locator(".canvas")
    expect(canvas).to_have_attribute("data-look", "received")
    page.keyboard.press("o")
    page.keyboard.press("o")
    expect(canvas).to_have_attribute("data-look", "both")
    assert demo.state["revision"] == before
    page.get_by_role("button", name="Take over", exact=True).click()
    page.get_by_role("menuitem", name="As a further scheme of this project").click()
    page.wait_for_url("**/shape/merrowhaven-library")
    demo.scheme = "merrowhaven-library"
    names = {z["number"]: z["name"] for z in demo.given["zones"]}
    assert len(names) == 30
    assert names["1.13"] == "Map store"
    demo.settled()
    assert demo.outcome()["totals"]["window_m2"] == pytest.approx(387, abs=1)


def test_many_rooms_are_mended_at_once(demo: Eurythm, files: Path) -> None:
    page = demo.open("shape").page
    read(demo, files / "court.ifc")
    page.locator('tr[data-room="0.08"]').locator("td").nth(3).click()
    page.locator('tr[data-room="0.09"]').locator("td").nth(3).click(modifiers=["Shift"])
    expect(page.get_by_text("2 chosen:")).to_be_visible()
    page.get_by_label("Value for all chosen").fill("Office, open")
    page.get_by_role("button", name="Give to all").click()
    expect(page.get_by_text("2 values mended by hand")).to_be_visible()
    uses = {s["number"]: s["use"] for s in settled(demo)["report"]["spaces"]}
    assert (uses["0.08"], uses["0.09"]) == ("Office, open", "Office, open")


def test_a_newer_file_keeps_hand_made_edits(demo: Eurythm, files: Path) -> None:
    page = demo.open("shape").page
    read(demo, files / "court.ifc")
    page.get_by_role("button", name="Take over", exact=True).click()
    page.get_by_role("menuitem", name="As a further scheme of this project").click()
    page.wait_for_url("**/shape/merrowhaven-library")
    demo.scheme = "merrowhaven-library"
    state = demo.state
    edit = {"op": "set", "path": "schemes/merrowhaven-library/zones/0.02/name", "value": "Winter hall"}
    api(demo.server, f"projects/{demo.project}/edits", {"revision": state["revision"], "edit": edit})
    demo.open("shape")
    area = sum(w["width"] * w["height"] for z in demo.given["zones"] for f in z["faces"] for w in f.get("windows", []))
    read(demo, files / "newer.ifc", "Read a newer file")
    differences = page.locator('[data-section="differences"]')
    expect(differences.get_by_text("0 added")).to_be_visible()
    expect(differences.get_by_text("123 changed")).to_be_visible()
    page.get_by_role("button", name="Take over the changes").click()
    page.wait_for_url("**/shape/merrowhaven-library")
    zones = {z["id"]: z for z in demo.given["zones"]}
    assert zones["0.02"]["name"] == "Winter hall"
    newer = sum(w["width"] * w["height"] for z in zones.values() for f in z["faces"] for w in f.get("windows", []))
    assert newer > area + 50


def test_a_damaged_file_is_told_and_changes_nothing(demo: Eurythm, tmp_path: Path) -> None:
    (tmp_path / "cut.ifc").write_bytes(b"ISO-10303-21;\nHEADER;\nFILE_SCHEMA(('IFC4'));\nENDSEC;\nDATA;\n#1=IFCPR")
    page = demo.open("shape").page
    before = demo.state["given"]
    page.set_input_files('input[aria-label="Import"]', tmp_path / "cut.ifc")
    expect(page.get_by_text("“cut.ifc” was not read")).to_be_visible(timeout=30_000)
    assert demo.state["given"] == before


def test_what_counts_is_decided_by_storey_property_and_one_by_one(demo: Eurythm, files: Path) -> None:
    page = demo.open("shape").page
    read(demo, files / "court.ifc")
    expect(page.get_by_text("30 rooms,")).to_be_visible()

    def decide(by: str, *options: tuple[str, str]) -> None:
        for label, option in (("Decide by", by), *options):
            page.get_by_role("combobox", name=label, exact=True).click()
            page.get_by_role("option", name=option, exact=True).click()

    decide("storey", ("Storey", "Storey 1"))
    page.get_by_role("button", name="Leave out", exact=True).click()
    expect(page.get_by_text("16 rooms,")).to_be_visible()  # one of the upper ones is on no storey in the file
    page.get_by_role("button", name="Take back: leave out storey Storey 1").click()
    decide("property", ("Property", "Pset_WindowCommon.ThermalTransmittance"))
    page.get_by_label("Value", exact=True).fill("1.1")
    page.get_by_role("button", name="Leave out", exact=True).click()
    expect(page.get_by_text("windows 33 m² of them")).to_be_visible()  # the curtain walls
    expect(page.get_by_text("meets 123")).to_be_visible()
    page.get_by_role("button", name="Undo decision").click()
    expect(page.get_by_text("windows 387 m² of them")).to_be_visible()
    # a slip of the finger says that it meets nothing
    decide("name")
    page.get_by_label("Name or pattern").fill("stiar*")
    page.get_by_role("button", name="Leave out", exact=True).click()
    expect(page.get_by_text("meets 0")).to_be_visible()
    # one room, chosen in the list
    page.locator('tr[data-room="0.08"]').locator("td").nth(3).click()
    page.get_by_role("button", name="Leave this out").click()
    expect(page.get_by_text("29 rooms,")).to_be_visible()
    expect(page.get_by_text("Left out: by hand.")).to_be_visible()
    # what is hidden or shown alone counts as before
    page.get_by_role("button", name="Hide walls").click()
    expect(page.get_by_role("button", name="Show walls")).to_be_visible()
    page.locator('[data-class="IfcStair"] .class-name').click()
    page.get_by_role("button", name="Show all classes").click()
    expect(page.get_by_text("29 rooms,")).to_be_visible()
    assert kept(demo) == 29


def test_decisions_are_saved_and_applied_to_another_file(demo: Eurythm, files: Path, tmp_path: Path) -> None:
    page = demo.open("shape").page
    read(demo, files / "court.ifc")
    page.get_by_role("button", name="Leave out doors").click()
    expect(page.get_by_role("button", name="Keep doors")).to_be_visible()
    page.get_by_label("name of 1.13").fill("Map store")
    page.get_by_label("name of 1.13").press("Enter")
    expect(page.get_by_text("1 value mended by hand")).to_be_visible()
    with page.expect_download() as saved:
        page.get_by_role("button", name="Save these").click()
    saved.value.save_as(tmp_path / "court.sift.json")
    demo.open("shape")
    read(demo, files / "newer.ifc")
    page.set_input_files('input[aria-label="Apply saved"]', tmp_path / "court.sift.json")
    expect(page.get_by_role("button", name="Keep doors")).to_be_visible()
    expect(page.get_by_label("name of 1.13")).to_have_value("Map store")
    page.get_by_role("button", name="Undo decision").click()
    expect(page.get_by_role("button", name="Leave out doors")).to_be_visible()
    sift = f"projects/{demo.project}/imports/{import_id(demo)}/sift"
    for _ in range(100):  # the page shows a decision before the server has it
        held = api(demo.server, sift)["sift"]
        if not held["rules"]:
            break
        page.wait_for_timeout(50)
    for text, said in (("{}", "holds no decisions"), ('{"format": "eurythm.sift", "rules": [{"id": "a", "by": "luck"}]}', "by")):
        (tmp_path / "odd.json").write_text(text)
        page.set_input_files('input[aria-label="Apply saved"]', tmp_path / "odd.json")
        expect(page.get_by_role("alert")).to_contain_text(said)
        assert api(demo.server, sift)["sift"] == held


def test_requirements_are_told_and_lead_to_their_objects(demo: Eurythm, files: Path, tmp_path: Path) -> None:
    page = demo.open("shape").page
    read(demo, files / "court.ifc")
    asked = page.locator('[data-section="requirements"]')
    page.get_by_role("button", name="Check ours").click()
    names = asked.locator('[data-requirement="Rooms have a name"]')
    expect(names).to_contain_text("32 of 33 do")
    names.locator("summary").click()
    names.locator(".finding").click()
    expect(page.get_by_text("Counts for energy.")).to_be_visible()
    ours = (IFC / "energy.ids").read_text()
    (tmp_path / "own.ids").write_text(ours.replace("Rooms have a name", "Rooms bear names"))
    page.set_input_files('input[aria-label="Check an IDS file"]', tmp_path / "own.ids")
    expect(asked.locator('[data-requirement="Rooms bear names"]')).to_contain_text("32 of 33 do")
    (tmp_path / "none.ids").write_text("<ids>")
    page.set_input_files('input[aria-label="Check an IDS file"]', tmp_path / "none.ids")
    expect(page.get_by_role("alert")).to_contain_text("none.ids")


def test_of_two_norths_one_is_chosen_and_a_left_out_room_is_told_to_lie_outdoors(demo: Eurythm, files: Path) -> None:
    demo.open("place")
    demo.type("place/north_deg", "40")
    page = demo.open("shape").page
    read(demo, files / "court.ifc")
    asked = page.locator('[data-ask="north"]')
    for choice in ("The project's, 40°", "The file's, -11.0°"):
        box = demo.still(asked.get_by_text(choice))
        frame = demo.still(asked)
        assert frame["y"] < box["y"] < box["y"] + box["height"] < frame["y"] + frame["height"]
    expect(page.get_by_text("the scheme is turned by -51°")).to_be_visible()
    asked.get_by_label("The file's").check()
    expect(page.get_by_text("the scheme is turned by -51°")).to_have_count(0)
    outside = outside_walls(demo)
    page.locator('[data-room="0.99"] td').last.click()
    page.get_by_label("It lies outdoors").check()
    expect(page.get_by_text("Left out: outdoors.")).to_be_visible()
    assert outside_walls(demo) > outside
