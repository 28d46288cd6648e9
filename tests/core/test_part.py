"""Every field of every document is changed once: results from a warm memory are those from an empty one, and its part holds."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise
from typing import Any, get_args

import pytest
from pydantic import BaseModel

from eurythm import simulate as pipeline
from eurythm.assess.facts import NAMES, Documents, what_differs
from eurythm.climate.standin import standin_year
from eurythm.explain.case import Case
from eurythm.explain.shares import changed_groups, mixed
from eurythm.memo import Memo
from eurythm.model.errors import EurythmError
from eurythm.model.field import limits, notes
from eurythm.model.library import Library
from eurythm.model.part import STEPS, UNSAID, Part, excerpt, fields_below, models_in, part_at, part_of
from eurythm.model.place import Place
from eurythm.model.project import Bundle, stage_at
from eurythm.model.reading import dump, read_document
from eurythm.model.scheme import Scheme
from eurythm.simulate import simulate
from tests.conftest import make_scheme, volume

DAY = [1.0] * 24
RICH: dict[str, Any] = {
    "place": {
        "climate": {"kind": "stand-in", "id": "merrowhaven"},
        "calendar": {"holidays": [{"id": "h", "date": "05-01"}], "closures": [{"id": "c", "first": "07-20", "last": "08-09"}]},
        "ground_by_month": [0.2] * 12,
        "boxes": [{"id": "b", "x": -12, "y": -20, "length": 10, "depth": 6, "height": 9}],
        "footprints": [{"id": "f", "points": [{"x": 30, "y": -20}, {"x": 40, "y": -20}, {"x": 35, "y": -12}], "height": 8}],
        "trees": [{"id": "t", "x": 10, "y": -6, "height": 8, "crown": 5}],
    },
    "library": {
        "constructions": [
            {"id": "own-wall", "name": "Own", "layers": [
                {"name": "a", "thickness_m": 0.12, "conductivity": 0.8, "density": 1700},
                {"name": "b", "thickness_m": 0.18, "conductivity": 0.036, "insulation": True,
                 "inlay": {"share": 0.1, "conductivity": 0.13}},
            ]},
            {"id": "own-floor", "name": "Light", "element": "ground_floor", "u_value": 0.4, "mass": "inside"},
        ],
        "glazings": [{"id": "own-glass", "name": "Own", "u_value": 1.1, "g_value": 0.5}],
        "profiles": [{
            "id": "own-use", "name": "Own", "occupancy": {"weekday": DAY, "sunday": [0.0] * 24}, "person_area": 10, "fresh_air": {"weekday": DAY}, "lighting": {"weekday": DAY},
            "equipment": {"weekday": DAY},
        }],
    },
    "scheme": {
        "id": "s", "name": "Rich", "turn_deg": 5, "turned_about": {"x": 3, "y": 2},
        "volumes": [volume(storeys=1, form={"length": 9, "depth": 6}, roof={"kind": "mono", "pitch_deg": 10}, zoning="one")],
        "zones": [
            {"id": "room", "outline": {"points": [{"id": f"e{k}", "x": x, "y": y} for k, (x, y) in enumerate([(20, 0), (25, 0), (25, 4), (20, 4)])]},
             "by_ratio": True, "faces": [{"id": "r", "side": "e0", "overhang_depth_m": 0.5, "fin_depth_m": 0.3, "windows": [
                 {"id": "w", "x": 1, "z": 0.9, "width": 1.5, "height": 1.2}]}]},
            {"id": "box", "box": {"x": 25, "length": 4, "depth": 4, "height": 3}, "profile": "own-use", "floor_area_m2": 14},
        ],
        "left_out": [{"id": "gone", "outline": {"points": [{"id": f"e{k}", "x": x, "y": y} for k, (x, y) in enumerate([(20, 4), (25, 4), (25, 7), (20, 7)])]}}],
        "shades": [{"id": "sail", "corners": [[20, -2, 4], [25, -2, 4], [25, 0, 4]]}],
        "air_paths": [{"id": "p", "zone_a": "room", "zone_b": "box", "flow_m3_h": 20, "opening_m2": 0.4}],
        "sun_pictures": [{"id": "summer", "name": "Summer"}],
        "light_pictures": [{"id": "floors", "name": "Floors"}],
        "underlays": [{"id": "u", "drawing": "d"}],
        "imported_from": {"file": "a.ifc"},
        "skin": {
            "wall": "own-wall", "ground_floor": "own-floor", "rooflight_ratio": 0.05, "inner_walls_m2_m2": 0.3,
            "overhang_depth_m": {"south": 0.4}, "louvre_depth_m": {"east": 0.1}, "fin_depth_m": {"west": 0.2},
            "blinds": {"place": "inside"},
            "rules": [{"id": "rule", "element": "wall", "orientation": "north", "construction": "wall-good", "glazing": "own-glass"}],
            "overrides": [{"id": "o", "face": "v1/*/e1", "windows": [{"id": "q", "x": 1, "z": 1, "width": 2, "height": 1}]},
                          {"id": "o2", "face": "v1/*/e2", "glazing_ratio": 0.4},
                          {"id": "o3", "face": "v1/*/e4", "boundary": "fixed", "boundary_c": 8}],
        },
        "use": {
            "airing": {"openable_share": 0.1, "night_purge": True}, "humidity_most_pct": 65, "humidity_least_pct": 30,
            "zones": [{"id": "z", "zone": "room", "gains_w": 60, "gains_schedule": {"weekday": DAY}, "air_changes": 0.4, "air_schedule": {"weekday": DAY}}],
        },
        "plant": {
            "photovoltaics": {"roof_share": 0.2}, "ventilation": {"economiser": 1.5},
            "systems": [{"id": "hall", "name": "Hall", "ready": "all-air-gas", "zones": ["box"]}],
            "arrays": [{"id": "pv", "tilt_deg": 20, "inverter": "one"}, {"id": "screen", "on": "free", "x": 30, "y": -4, "width_m": 3, "depth_m": 2}],
            "inverters": [{"id": "one", "rated_kw": 2}, {"id": "two", "rated_kw": 3}], "battery": {"usable_kwh": 4},
            "collectors": [{"id": "sun", "share": 0.1, "tilt_deg": 40}],
        },
        "method": {"run_in_days": 1},
    },
}  # fmt: skip
"""Something of everything, as small as it may be."""
IDS = ("id", "format", "version", "kind", "zones", "zone_a", "zone_b", "face", "side", "eaves", "drawing")
"""Fields that name things or say what a thing is: changing one makes another document."""
OTHER = {
    "glazing": "triple-clear", "rooflight_glazing": "triple-clear", "wall": "wall-good", "party_wall": "wall-old", "basement_wall": "wall-old",
    "construction": "wall-old", "roof": "roof-old", "ground_floor": "ground-good", "exposed_floor": "masonry-1920-exposed-floor", "ready": "ground-pump-floor", "inverter": "two", "target": "v1/*", "day": "weekday", "date": "03-04", "first": "03-04", "last": "05-06", "partition": "partition-brick",
    "intermediate_floor": "floor-timber", "profile": "office", "zone": "box", "storey": "s1", "matching": "room", "orientation": "east", "element": "roof",
}  # fmt: skip


def leaves(document: BaseModel, holder: Part, way: tuple[Any, ...] = ()) -> Iterator[tuple[tuple[Any, ...], BaseModel, str, Part]]:
    """Every field that holds no further document, with the keys that lead to it."""
    for name in type(document).model_fields:
        part, value = part_of(type(document), name, holder), getattr(document, name)
        things = value if isinstance(value, tuple) else (value,)
        if any(isinstance(t, BaseModel) for t in things):
            for k, thing in enumerate(things):
                if isinstance(thing, BaseModel):
                    yield from leaves(thing, part, (*way, name, k) if isinstance(value, tuple) else (*way, name))
        elif not models_in(type(document).model_fields[name].annotation):
            yield (*way, name), document, name, part


def others(document: BaseModel, name: str) -> Iterator[Any]:
    """Values that a field could have instead."""
    value, model = getattr(document, name), type(document)
    kinds = get_args(model.model_fields[name].annotation)
    words = [w for kind in kinds for w in (kind, *get_args(kind)) if isinstance(w, str)]
    if isinstance(value, bool):
        yield not value
    elif name == "weekdays":
        yield ["monday"]
    elif words:
        yield from (w for w in words if w != value)
    elif isinstance(value, (int, float)):
        usual = notes(model, name).get("usual", [])
        yield from (v for v in (value * 1.2, value + 1, value - 1, *usual) if v != value)
        yield from (int(value) + k for k in (1, -1))
    elif isinstance(value, tuple):
        yield [[v[0] + 0.1, *v[1:]] if isinstance(v, tuple) else v * 0.9 if isinstance(v, float) else v for v in value] or ["x"]
    elif name in OTHER:
        yield OTHER[name]
        yield "shed"
    elif isinstance(value, str):
        yield f"{value} x"
    elif value is None:
        usual = notes(model, name).get("usual") or [v * 1.0 for v in limits(model, name).values()]
        yield from [sum(usual) / len(usual), *usual] if usual else ()
        yield from (1.0, True)
        yield {"weekday": [20.0] * 24}


def changed(bundle: Bundle, way: tuple[Any, ...], value: Any) -> Bundle | None:
    """The bundle with one value changed, None where that is none of its kind."""
    data = dump(bundle)
    here: Any = data
    for step, following in pairwise(way):
        here = here[step] if isinstance(step, int) else here.setdefault(step, [] if isinstance(following, int) else {})
    here[way[-1]] = value
    try:
        return read_document(Bundle, data)
    except EurythmError:
        return None


def result(bundle: Bundle) -> Any:
    """What a year comes to, or why there is none."""
    place, climate = bundle.place, standin_year(bundle.place.climate.id if bundle.place.climate else "merrowhaven")
    try:
        outcome = simulate(place, bundle.library, bundle.scheme, bundle.factors, climate)
    except EurythmError as fault:
        return fault.code
    return outcome.totals, outcome.peaks, outcome.comfort


BASE = read_document(Bundle, RICH)
DOCUMENTS = ("place", "library", "scheme", "factors")
FOUND = [leaf for name in DOCUMENTS for leaf in leaves(getattr(BASE, name), UNSAID, (name,)) if leaf[2] not in IDS]


def changed_somehow(way: tuple[Any, ...], document: BaseModel, name: str) -> Bundle | None:
    made = (changed(BASE, way, value) for value in others(document, name))
    return next((m for m in made if m is not None and m != BASE), None)


def case_of(bundle: Bundle) -> Case:
    return Case(bundle.place, bundle.library, bundle.scheme, bundle.factors, standin_year("merrowhaven"))


@pytest.mark.parametrize("share", range(8))
def test_every_field_changes_what_it_says(share: int, monkeypatch: pytest.MonkeyPatch) -> None:
    """Warm against empty memory, the group of a difference, and a fact that tells it."""
    warm = Memo()
    ran, moved = 0, 0
    for k, (way, document, name, part) in enumerate(FOUND[share::8]):
        other = changed_somehow(way, document, name)
        if other is None:
            continue
        monkeypatch.setattr(pipeline, "MEMO", warm)
        if k % 4 == 0:  # kept by every step until then
            before = result(BASE)
        after = result(other)
        monkeypatch.setattr(pipeline, "MEMO", Memo())
        fresh = result(other)
        assert after == fresh, f"{way}: the memory was stale"
        ran += not isinstance(fresh, str)
        moved += fresh != before
        assert part.step in STEPS
        assert part.stage is not None
        if part.step == "nothing":
            assert fresh == before, f"{way} is said to change nothing"
        groups = changed_groups(case_of(BASE), case_of(other))
        assert groups == ([] if part.group == "none" else [part.group]), way
        told = what_differs([Documents(b.place, b.library, b.scheme) for b in (BASE, other)])
        if name not in NAMES:
            assert bool(told[1]) == (part.step != "nothing" and way[0] != "factors"), f"{way} tells {told}"
        if part.group != "none":
            whole = mixed(case_of(BASE), case_of(other), [str(part.group)])
            assert (whole.scheme, whole.library, whole.place) == (other.scheme, other.library, other.place), way
    assert ran > 0.8 * len(FOUND[share::8])
    assert moved > 0.4 * len(FOUND[share::8])


def test_every_described_field_is_among_those_changed() -> None:
    asked = {(type(d).__name__, name): notes(type(d), name) for _, d, name, _ in FOUND}
    done = {(type(d).__name__, name) for way, d, name, _ in FOUND if changed_somehow(way, d, name) is not None}
    assert {key for key, note in asked.items() if note} - done == {("ZoneFace", "other")}  # the zone beyond is given with its boundary


def test_what_plays_no_part_is_known() -> None:
    """A field that forgot to say its part would stand here."""
    nothing = {
        path.split("/")[0]
        for kind in (Scheme, Place, Library)
        for path, _, name, part in fields_below(kind)
        if part.step == "nothing" and name != "assumed"
    }
    assert nothing == {"assumed", "format", "version", "id", "name", "underlays", "sun_pictures", "light_pictures", "imported_from", "aims", "materials"} - {"assumed"}  # fmt: skip


def test_a_part_is_found_by_path() -> None:
    assert part_at(Scheme, "skin/louvre_depth_m/east").group == "glass"
    assert part_at(Scheme, "volumes/v1/storeys/s0/height_m") == part_at(Scheme, "volumes/other/form/depth")
    assert all(part_at(Scheme, path).casts for path in ("turn_deg", "skin/rooflight_ratio", "skin/window_width_m"))
    assert not part_at(Scheme, "skin/glazing_ratio/south").casts
    assert not part_at(Place, "terrain").casts
    with pytest.raises(KeyError):
        part_at(Scheme, "walls")


def test_an_excerpt_leaves_out_what_is_confirmed() -> None:
    """That somebody confirmed a value which the program chose changes no step's input."""
    form = {"length": 36, "depth": 30}
    proposed, confirmed = (make_scheme(volumes=[volume(kind="l", form={**form, **more})]) for more in ({"assumed": ["length"]}, {}))
    assert proposed != confirmed
    assert excerpt(proposed, "step", frozenset({"form"})) == excerpt(confirmed, "step", frozenset({"form"})) != ""


@pytest.mark.parametrize(
    ("path", "stage"),
    [
        ("scheme/skin/head_m", "skin"), ("schemes/quay/use/heating_c", "use"), ("schemes/quay/plant/heating/efficiency", "plant"),
        ("scheme/volumes/v/form/length", "shape"), ("place/north_deg", "place"), ("factors/gas/price", "plant"), ("line 12", None),
        ("schemes/quay", None), ("scheme/nothing", None),
    ],
)  # fmt: skip
def test_a_path_of_a_fault_leads_to_its_stage(path: str, stage: str | None) -> None:
    assert stage_at(path) == stage
