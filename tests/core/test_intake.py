"""Files of others to zones: the samples' own truth, planted faults, sifting, mending, damaged files."""

from __future__ import annotations

import json
import threading
import zipfile
from collections import Counter
from pathlib import Path
from typing import Any

import pytest

from eurythm.exchange.ifc.read import KINDS, read_ifc
from eurythm.exchange.importing import import_file, settled_bundle
from eurythm.exchange.intake.account import account
from eurythm.exchange.intake.process import Cancelled, Limits, read_apart
from eurythm.exchange.intake.received import Received, ReceivedElement
from eurythm.exchange.intake.settle import settle
from eurythm.exchange.intake.sift import Mend, Sift, SiftRule, lost_mends
from eurythm.exchange.readers import read
from eurythm.exchange.samples import court, gbxml, ifc
from eurythm.exchange.samples.ifc import Options
from eurythm.geometry.form import make_building
from eurythm.model.errors import EurythmError
from eurythm.model.place import Place
from eurythm.model.project import Bundle
from eurythm.model.reading import read_document
from eurythm.model.shape import GivenZone

SCHEME = {"id": "court", "name": "Court"}


@pytest.fixture(scope="session")
def samples(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The court in every form that it is handed on in."""
    folder = tmp_path_factory.mktemp("samples")
    ifc.write_court(folder / "ifc4.ifc")
    ifc.write_court(folder / "ifc2x3.ifc", Options(schema="IFC2X3", millimetres=True))
    ifc.write_court(folder / "ifc4x3.ifc", Options(schema="IFC4X3", clutter=False))
    gbxml.write_court(folder / "si.xml", "SI")
    gbxml.write_court(folder / "ip.xml", "IP")
    return folder


@pytest.fixture(scope="session")
def received(samples: Path) -> Received:
    return read_ifc(samples / "ifc4.ifc", "court.ifc")


def assert_true(said: dict[str, Any], truth: dict[str, Any]) -> None:
    """The account agrees with what the generator worked out by hand."""
    kept = {s["id"]: s for s in said["spaces"] if s["kept"]}
    assert kept.keys() == truth["spaces"].keys()
    for name, wanted in truth["spaces"].items():
        for figure, value in wanted.items():
            assert kept[name][figure] == pytest.approx(value, rel=0.005)
    for side, figures in truth["orientation"].items():
        for figure, value in figures.items():
            assert said["orientation"][side][figure] == pytest.approx(value, rel=0.01)
    for figure in ("roof_m2", "ground_m2"):
        assert said[figure] == pytest.approx(truth[figure], rel=0.005)
    found = {(p["a"], p["b"], p["kind"]): p["area_m2"] for p in said["adjacency"]}
    wanted = {(*sorted((p["a"], p["b"])), p["kind"]): p["area_m2"] for p in truth["adjacency"]}
    assert found == pytest.approx(wanted, rel=0.01)
    assert said["true_north_deg"] == pytest.approx(truth["true_north_deg"])


@pytest.mark.parametrize("name", ["ifc4.ifc", "ifc2x3.ifc", "ifc4x3.ifc"])
def test_an_ifc_comes_to_what_its_generator_knows(samples: Path, name: str) -> None:
    _, said = settled_bundle(read(samples / name, name), Sift(), None)
    assert_true(said, court.truth())
    assert Counter(r["code"] for r in said["remarks"]) == ifc.FAULTS
    assert said["units"]["length"] == ("mm" if name == "ifc2x3.ifc" else "m")
    assert said["reference_plane"] == "inner faces of the rooms"
    assert said["location"]["latitude_deg"] == pytest.approx(court.LATITUDE)
    left = {c["class"]: c["count"] for c in said["left_out"]}
    assert left["IfcSpace"] == 3
    assert (left.get("IfcColumn", 0) == 30) == (name != "ifc4x3.ifc")


@pytest.mark.parametrize("system", ["si", "ip"])
def test_a_gbxml_comes_to_what_its_generator_knows(samples: Path, system: str) -> None:
    _, said = settled_bundle(read(samples / f"{system}.xml", "court.xml"), Sift(), None)
    assert_true(said, gbxml.truth())
    assert Counter(r["code"] for r in said["remarks"]) == gbxml.FAULTS
    assert said["units"]["length"] == ("Meters" if system == "si" else "Feet")
    assert {c["id"]: c["u_w_m2k"] for c in said["constructions"]} == pytest.approx(
        {"AW-1-brick": 0.2609, "IW-1-plasterboard": 0.3015, "GF-1-ground-slab": 0.2752, "IF-1-floor-slab": 2.6087, "RO-1-roof": 0.1601},
        rel=1e-3,
    )


def test_layers_are_listed_from_outside_to_inside(received: Received) -> None:
    bundle, said = settled_bundle(received, Sift(), None)
    by_id = {c.id: c for c in bundle.library.constructions}
    assert [layer.name for layer in by_id["AW-1-brick"].layers] == ["Brick", "Mineral wool", "Concrete", "Lime plaster"]
    assert [layer.name for layer in by_id["RO-1-roof"].layers] == ["Rigid insulation", "Concrete"]
    assert {c["id"]: c["kind"] for c in said["constructions"]} == {
        "AW-1-brick": "wall", "IW-1-plasterboard": "partition", "GF-1-ground-slab": "ground_floor", "IF-1-floor-slab": "intermediate_floor", "RO-1-roof": "roof",
    }  # fmt: skip
    assert {g.u_value for g in bundle.library.glazings} == {1.0, 1.1, 1.6}


def test_every_object_that_a_remark_names_is_in_the_file(received: Received) -> None:
    _, said = settled_bundle(received, Sift(), None)
    known = {s.id for s in received.spaces} | {e.id for e in received.elements}
    assert all(r["object"] in known for r in said["remarks"])


def sifted(received: Received, *rules: dict[str, Any], mends: tuple[dict[str, Any], ...] = ()) -> dict[str, Any]:
    sift = Sift(
        rules=tuple(SiftRule(id=f"r{k}", **r) for k, r in enumerate(rules)), mends=tuple(Mend(id=f"m{k}", **m) for k, m in enumerate(mends))
    )
    return account(settle(received, sift, SCHEME, Place()))


def kept(said: dict[str, Any]) -> set[str]:
    return {s["id"] for s in said["spaces"] if s["kept"]}


def test_rules_by_class_storey_name_property_and_hand(received: Received) -> None:
    upper = received.storeys[1].id
    left = kept(sifted(received, {"by": "storey", "value": upper, "keep": False}))
    assert {s for s in left if not s.startswith("0.")} == {"1.14"}  # which says no storey
    assert "0.04" not in kept(sifted(received, {"by": "name", "value": "stair*", "keep": False}))
    no_windows = sifted(received, {"by": "class", "value": "IfcWindow", "keep": False})
    assert sum(s["window_m2"] for s in no_windows["orientation"].values()) < 40
    by_property = sifted(received, {"by": "property", "value": "Pset_WindowCommon.ThermalTransmittance=1.1", "keep": False})
    assert by_property["orientation"] == no_windows["orientation"]
    room = next(s.id for s in received.spaces if s.number == "0.01")
    by_hand = sifted(received, {"by": "object", "value": room, "keep": False}, {"by": "class", "value": "IfcSpace", "keep": True})
    assert "0.01" not in kept(by_hand)
    assert next(s for s in by_hand["spaces"] if s["id"] == "0.01")["reason"] == "by hand"


def test_a_proposal_can_be_turned_down_by_hand(received: Received) -> None:
    duct = next(s.id for s in received.spaces if s.name == "Duct")
    said = sifted(received, {"by": "object", "value": duct, "keep": True})
    assert "0.99" in kept(said)


def test_mends_are_applied_and_lost_ones_told(received: Received) -> None:
    store = next(s.id for s in received.spaces if s.number == "1.13")
    mends = ({"object": store, "field": "name", "value": "Map store"}, {"object": "gone", "field": "use", "value": "x"})
    said = sifted(received, mends=mends)
    assert next(s for s in said["spaces"] if s["source"] == store)["name"] == "Map store"
    assert "space-without-name" not in {r["code"] for r in said["remarks"]}
    sift = Sift(mends=tuple(Mend(id=f"m{k}", **m) for k, m in enumerate(mends)))
    assert [m.object for m in lost_mends(received, sift)] == ["gone"]


def test_ids_of_rooms_stay_when_a_newer_file_comes(samples: Path, received: Received, tmp_path: Path) -> None:
    ifc.write_court(tmp_path / "newer.ifc", Options(lintel=0.3, faults=False))
    newer = read_ifc(tmp_path / "newer.ifc", "newer.ifc")
    renamed = newer.model_copy(update={"spaces": [s.model_copy(update={"number": f"N{s.number}"}) for s in newer.spaces]})
    first = settle(received, Sift(), SCHEME, Place())
    again = settle(renamed, Sift(), SCHEME, Place(), {z.source: z.id for z in first.scheme.zones})
    assert {z.id for z in again.scheme.zones} == {z.id for z in first.scheme.zones}
    wide = lambda s: sum(w.width for z in s.scheme.zones for f in z.faces for w in f.windows)  # noqa: E731
    assert wide(again) > wide(first) + 30


def test_a_model_without_spaces_gives_rooms_between_its_walls(received: Received) -> None:
    bare = received.model_copy(update={"spaces": []})
    by_walls = account(settle(bare, Sift(), SCHEME, Place()))
    areas = sorted(s["floor_area_m2"] for s in by_walls["spaces"] if s["kept"])
    assert areas == pytest.approx(sorted([c.area for c in court.CELLS] * 2), rel=0.01)
    assert by_walls["zones_from"] == "walls"
    whole = account(settle(bare, Sift(basis="outline"), SCHEME, Place()))
    assert [s["floor_area_m2"] for s in whole["spaces"] if s["kept"]] == pytest.approx([court.LENGTH * court.DEPTH - 14 * 12] * 2, rel=0.01)


def test_a_model_with_nothing_to_make_rooms_of_is_told(received: Received) -> None:
    empty = received.model_copy(update={"spaces": [], "elements": []})
    with pytest.raises(EurythmError) as fault:
        settle(empty, Sift(), SCHEME, Place())
    assert fault.value.code == "nothing-to-settle"


def test_a_wider_gap_than_the_limit_is_remarked_on(received: Received) -> None:
    said = account(settle(received, Sift(gap_m=0.3), SCHEME, Place()))
    assert "gap-too-wide" in {r["code"] for r in said["remarks"]}
    assert not [p for p in said["adjacency"] if p["kind"] == "floor"]


def test_a_model_far_off_its_origin_is_moved_and_comes_to_the_same(tmp_path: Path) -> None:
    ifc.write_court(tmp_path / "far.ifc", Options(shift=(512_000.0, 5_400_000.0), clutter=False))
    _, said = settled_bundle(read_ifc(tmp_path / "far.ifc", "far.ifc"), Sift(), None)
    assert_true(said, court.truth())
    assert "moved-to-origin" in {r["code"] for r in said["remarks"]}
    gbxml.write_court(tmp_path / "far.xml", "IP", faults=False, far_m=500_000.0)
    _, said = settled_bundle(read(tmp_path / "far.xml", "far.xml"), Sift(), None)
    assert said["orientation"]["N"]["wall_gross_m2"] == pytest.approx(gbxml.truth()["orientation"]["N"]["wall_gross_m2"], rel=0.01)


def test_an_import_runs_in_its_own_process_and_tells_how_far_it_is(samples: Path) -> None:
    told: list[float] = []
    received = read_apart(samples / "ifc4x3.ifc", "court.ifc", progress=lambda share, what: told.append(share))
    assert len(received.spaces) == 33
    assert len(told) > 5
    assert told == sorted(told)
    bundle, _ = import_file(samples / "si.xml")
    assert len(bundle.scheme.zones) == 30
    assert bundle.scheme.imported_from is not None


def test_an_import_that_hangs_or_is_called_off_ends(samples: Path) -> None:
    with pytest.raises(EurythmError) as fault:
        read_apart(samples / "ifc4.ifc", "court.ifc", limits=Limits(seconds=0.2))
    assert fault.value.code == "import-took-too-long"
    stop = threading.Event()
    stop.set()
    with pytest.raises(Cancelled):
        read_apart(samples / "ifc4.ifc", "court.ifc", stop=stop)


def test_an_import_that_takes_too_much_memory_breaks_alone(samples: Path) -> None:
    with pytest.raises(EurythmError) as fault:
        read_apart(samples / "ifc4.ifc", "court.ifc", limits=Limits(memory=60_000_000))
    assert fault.value.code in ("import-broke", "too-large")


BOMB = b'<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;">]><gbXML>&b;</gbXML>'
OUTSIDE = b'<?xml version="1.0"?><!DOCTYPE x [<!ENTITY f SYSTEM "file:///etc/passwd">]><gbXML>&f;</gbXML>'


@pytest.mark.parametrize(
    ("name", "body", "code"),
    [
        ("empty.ifc", b"", "empty-file"),
        ("noise.ifc", bytes(range(256)) * 20, "wrong-extension"),
        ("cut.ifc", b"ISO-10303-21;\nHEADER;\nFILE_SCHEMA(('IFC4'));\nENDSEC;\nDATA;\n#1=IFCPROJ", "not-ifc"),
        ("hollow.ifc", b"ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION((''),'2;1');\nFILE_NAME('','',(''),(''),'','','');\nFILE_SCHEMA(('IFC4'));\nENDSEC;\nDATA;\nENDSEC;\nEND-ISO-10303-21;\n", "ifc-empty"),
        ("old.ifc", b"ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION((''),'2;1');\nFILE_NAME('','',(''),(''),'','','');\nFILE_SCHEMA(('AUTOMOTIVE_DESIGN'));\nENDSEC;\nDATA;\nENDSEC;\nEND-ISO-10303-21;\n", "not-ifc"),
        ("model.xml", b"ISO-10303-21;\nHEADER;", "wrong-extension"),
        ("bomb.xml", BOMB, "xml-entities"),
        ("outside.xml", OUTSIDE, "xml-entities"),
        ("cut.xml", b"<gbXML><Campus>", "not-xml"),
        ("other.xml", b"<html><body/></html>", "not-gbxml"),
        ("hollow.xml", b'<gbXML lengthUnit="Meters"/>', "not-gbxml"),
        ("odd.xml", b'<gbXML lengthUnit="Cubits"><Campus id="c"/></gbXML>', "unknown-unit"),
        ("words.xml", b'<gbXML lengthUnit="Meters"><Campus id="c"><Location><Latitude>north</Latitude></Location></Campus></gbXML>', "wrong-number"),
        ("noise.obj", b"\x00\x01\x02", "wrong-extension"),
        ("empty.obj", b"# nothing\n", "not-a-mesh"),
        ("noise.glb", b"glTF\x02\x00\x00\x00garbage", "not-a-mesh"),
        ("locked.docx", b"\xd0\xcf\x11\xe0" * 300, "unknown-format"),
        ("cut.ifczip", b"PK\x03\x04rubbish", "wrong-archive"),
    ],
)  # fmt: skip
def test_bad_files_get_one_clear_error(tmp_path: Path, name: str, body: bytes, code: str) -> None:
    (tmp_path / name).write_bytes(body)
    with pytest.raises(EurythmError) as fault:
        import_file(tmp_path / name)
    assert fault.value.code == code, fault.value.message
    assert name in fault.value.message or fault.value.path


def test_a_zip_that_would_fill_the_disk_is_refused(tmp_path: Path) -> None:
    with zipfile.ZipFile(tmp_path / "bomb.ifczip", "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("bomb.ifc", b"0" * 40_000_000)
    with pytest.raises(EurythmError) as fault:
        import_file(tmp_path / "bomb.ifczip")
    assert fault.value.code == "too-large"


def test_a_zipped_ifc_is_read(samples: Path, tmp_path: Path) -> None:
    with zipfile.ZipFile(tmp_path / "court.ifczip", "w", zipfile.ZIP_DEFLATED) as archive:
        archive.write(samples / "ifc4x3.ifc", "court.ifc")
    assert len(read(tmp_path / "court.ifczip", "court.ifczip").spaces) == 33


@pytest.mark.parametrize("share", [0.2, 0.5, 0.9])
def test_a_truncated_ifc_never_breaks_us(samples: Path, tmp_path: Path, share: float) -> None:
    whole = (samples / "ifc4x3.ifc").read_bytes()
    (tmp_path / "cut.ifc").write_bytes(whole[: int(len(whole) * share)])
    try:
        bundle, _ = import_file(tmp_path / "cut.ifc")
    except EurythmError as fault:
        assert fault.message  # noqa: PT017
    else:
        assert bundle.scheme.zones


def test_the_sift_is_a_document_that_is_written_and_read(received: Received) -> None:
    sift = Sift(rules=(SiftRule(id="a", by="class", value="IfcDoor", keep=False),), gap_m=0.4)
    assert Sift.model_validate(json.loads(sift.model_dump_json(exclude_unset=True))) == sift


# the engine under it: openings, walls and bodies that are not where they should be


def with_element(received: Received, **values: Any) -> Received:
    """The court with one thing more in it: a slab of glass or wall by its corner and size."""
    x, y, z, dx, dy, dz = values.pop("box")
    corners = [(x + i * dx, y + j * dy, z + k * dz) for i in (0, 1) for j in (0, 1) for k in (0, 1)]
    made = ReceivedElement(id="extra", kind=KINDS[values["class_name"]], points=corners, triangles=[(0, 1, 2), (1, 2, 3)], **values)
    return received.model_copy(update={"elements": [*received.elements, made]})


def found(settled_account: dict[str, Any]) -> set[str]:
    return {r["code"] for r in settled_account["remarks"] if r["object"] == "extra"}


def test_a_window_that_reaches_beyond_its_room_is_cut_and_told(received: Received) -> None:
    tall = with_element(received, class_name="IfcWindow", box=(5.4, 0.15, 2.5, 1.2, 0.08, 2.0))
    said = account(settle(tall, Sift(), SCHEME, Place()))
    assert found(said) == {"window-cut"}
    plain = account(settle(received, Sift(), SCHEME, Place()))
    more = said["orientation"]["S"]["window_m2"] - plain["orientation"]["S"]["window_m2"]
    assert more == pytest.approx(1.2 * (court.CLEAR - 2.5), rel=0.01)


def test_a_window_between_two_rooms_is_no_outside_window(received: Received) -> None:
    inside = with_element(received, class_name="IfcWindow", box=(12.62, 4.0, 1.0, 0.1, 1.5, 1.0))
    said = account(settle(inside, Sift(), SCHEME, Place()))
    plain = account(settle(received, Sift(), SCHEME, Place()))
    assert said["orientation"] == plain["orientation"]
    assert found(said) == set()


def test_a_window_that_stands_twice_counts_once(received: Received) -> None:
    first = next(e for e in received.elements if e.class_name == "IfcWindow" and e.host)
    twin = first.model_copy(update={"id": "extra", "points": [(x, y + 0.02, z) for x, y, z in first.points]})
    said = account(settle(received.model_copy(update={"elements": [*received.elements, twin]}), Sift(), SCHEME, Place()))
    plain = account(settle(received, Sift(), SCHEME, Place()))
    assert said["orientation"] == plain["orientation"]


def test_a_u_value_alone_makes_a_construction_and_layers_without_values_are_told(received: Received) -> None:
    walls = {e.id for e in received.elements if e.class_name == "IfcWall" and e.external}
    ref = next(e.construction for e in received.elements if e.id in walls)
    bare = [c.model_copy(update={"layers": [], "u_value": 0.42}) if c.id == ref else c for c in received.constructions]
    bundle, _ = settled_bundle(received.model_copy(update={"constructions": bare}), Sift(), None)
    assert next(c for c in bundle.library.constructions if c.id == "AW-1-brick").u_value == 0.42
    blank = [
        c.model_copy(update={"layers": [la.model_copy(update={"conductivity": None}) for la in c.layers]}) if c.id == ref else c
        for c in received.constructions
    ]
    bundle, said = settled_bundle(received.model_copy(update={"constructions": blank}), Sift(), None)
    assert "construction-without-values" in {r["code"] for r in said["remarks"]}
    assert "AW-1-brick" not in {c.id for c in bundle.library.constructions}


def test_rooms_that_share_a_number_get_ids_of_their_own(received: Received) -> None:
    assert Counter(z.id for z in settle(received, Sift(), SCHEME, Place()).scheme.zones).most_common(1)[0][1] == 1
    doubled = [s.model_copy(update={"number": "0.01"}) if s.number == "0.02" else s for s in received.spaces]
    zones = settle(received.model_copy(update={"spaces": doubled}), Sift(), SCHEME, Place()).scheme.zones
    assert {"0.01", "0.01-2"} <= {z.id for z in zones}


def test_a_project_keeps_its_own_place_and_names_beside_the_files(received: Received) -> None:
    """Library entries of the same name but other content are renamed; a given north stays, and the difference is told."""
    base = read_document(
        Bundle,
        {
            "scheme": {"id": "mine", "name": "Mine", "use": {"heating_c": 21}, "volumes": []},
            "place": {"north_deg": 40.0},
            "library": {"constructions": [{"id": "AW-1-brick", "name": "Other", "u_value": 1.5}]},
        },
    )
    bundle, said = settled_bundle(received, Sift(), base)
    assert bundle.place.north_deg == 40.0
    assert "turned-to-north" in {r["code"] for r in said["remarks"]}
    assert {c.id: c.name for c in bundle.library.constructions}["AW-1-brick"] == "Other"
    used = {f.construction for z in bundle.scheme.zones for f in z.faces}
    assert "AW-1-brick-2" in used
    assert "AW-1-brick" not in used
    assert bundle.scheme.use.heating_c == 21


def outside_walls(said: dict[str, Any]) -> float:
    return sum(side["wall_gross_m2"] for side in said["orientation"].values())


def test_a_room_that_is_left_out_does_not_turn_its_neighbours_inside_out(received: Received) -> None:
    """Walls towards it are neither outside nor inner walls to a zone; its own outside walls and windows go with it."""
    room = next(s for s in received.spaces if s.number == "0.01")
    whole = sifted(received)
    wanted = {"by": "object", "value": room.id, "keep": False}
    left = settle(received, Sift(rules=(SiftRule(id="r", **wanted),)), SCHEME, Place())
    assert outside_walls(account(left)) < outside_walls(whole)
    assert [r.name for r in left.scheme.left_out if "0.01" in r.name]
    assert "left-out-beside" in {f.code for f in left.findings}
    towards = [p for p in whole["adjacency"] if "0.01" in (p["a"], p["b"])]
    gone = {f.zone for f in left.building.faces if f.boundary == "adiabatic"}
    assert gone >= {p["a"] if p["b"] == "0.01" else p["b"] for p in towards}
    assert not [f for f in left.building.faces if "0.01" in (f.zone, f.other)]
    open_air = settle(
        received,
        Sift(rules=(SiftRule(id="r", **wanted),), mends=(Mend(id="m", object=room.id, field="external", value=True),)),
        SCHEME,
        Place(),
    )
    assert outside_walls(account(open_air)) > outside_walls(account(left)) + 20


def test_a_place_that_is_taken_again_is_no_longer_left_out(received: Received) -> None:
    """Whoever models the room anew, or draws a volume there, gets contact with it."""
    duct = settle(received, Sift(), SCHEME, Place()).scheme
    assert [r.name for r in duct.left_out] == ["0.99 Duct"]
    at = duct.left_out[0].outline
    assert at is not None
    again = duct.model_copy(update={"zones": (*duct.zones, read_document(GivenZone, {"id": "duct", "outline": at.model_dump()}))})
    faces = make_building(again, 0.0).faces
    assert [f for f in faces if "duct" in (f.zone, f.other) and f.other is not None]


def test_a_terrace_is_no_room(received: Received) -> None:
    spaces = [s.model_copy(update={"external": True}) if s.number == "1.01" else s for s in received.spaces]
    said = sifted(received.model_copy(update={"spaces": spaces}))
    assert "1.01" not in kept(said)
    assert next(s for s in said["spaces"] if s["id"] == "1.01")["reason"] == "outdoors"
