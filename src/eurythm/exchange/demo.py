"""The demo: a made-up public library with workshops in the invented harbour town of Merrowhaven."""

from __future__ import annotations

import hashlib
import tempfile
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING, Any

from eurythm.climate.standin import PLACES, standin_epw
from eurythm.exchange.bundle import write_bundle, write_json
from eurythm.exchange.envelope import CASES, envelope_bundle
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.project import Bundle, BundleClimate, Project
from eurythm.model.reading import dump, read_document
from eurythm.model.study import StudyFile, StudySpec

if TYPE_CHECKING:
    from eurythm.exchange.drawing import Drawing
    from eurythm.exchange.intake.received import Received


def _storeys(count: int, height: float) -> list[dict[str, Any]]:
    return [{"id": f"s{i}", "name": f"Storey {i}", "height_m": height} for i in range(count)]


def _volume(id: str, name: str, form: dict[str, Any], x: float, y: float, storeys: list[dict[str, Any]], **more: Any) -> dict[str, Any]:
    zoning = {"kind": "perimeter_core", "depth_m": 4.5}
    return {"id": id, "name": name, "form": form, "x": x, "y": y, "storeys": storeys, "zoning": zoning, **more}


def _skin(north: float, sides: float, south: float, **more: Any) -> dict[str, Any]:
    return {"glazing_ratio": {"north": north, "east": sides, "south": south, "west": sides}, **more}


STUD_WALL: dict[str, Any] = {
    "id": "stud-wall",
    "name": "Timber studs, 240 mm insulated",
    "element": "wall",
    "layers": [
        {"name": "timber cladding", "thickness_m": 0.022, "conductivity": 0.13, "density": 500, "specific_heat": 1600,
         "vapour_resistance": 50, "carbon_kg_kg": 0.25},
        {"name": "air", "thickness_m": 0.04, "air": "ventilated"},
        {"name": "wood fibre board", "thickness_m": 0.06, "conductivity": 0.045, "density": 160, "specific_heat": 2100,
         "vapour_resistance": 5, "carbon_kg_kg": 0.4},
        {"name": "cellulose, blown", "thickness_m": 0.24, "conductivity": 0.039, "density": 50, "specific_heat": 2000,
         "vapour_resistance": 2, "carbon_kg_kg": 0.2, "insulation": True,
         "inlay": {"name": "softwood", "share": 0.1, "conductivity": 0.13, "density": 480, "carbon_kg_kg": 0.25}},
        {"name": "strand board", "thickness_m": 0.015, "conductivity": 0.13, "density": 620, "specific_heat": 1700,
         "vapour_resistance": 200, "carbon_kg_kg": 0.45},
        {"name": "gypsum fibre board", "thickness_m": 0.0125, "conductivity": 0.32, "density": 1150, "specific_heat": 1100,
         "vapour_resistance": 13, "carbon_kg_kg": 0.3},
    ],
    "source": "the project's own",
}  # fmt: skip
TIMBER_UPSTAIRS = {
    "id": "upstairs",
    "name": "Reading rooms in timber",
    "element": "wall",
    "matching": "rooms*",
    "construction": "stud-wall",
}


def _day(*opened: tuple[int, int, float], else_: float = 0.0) -> list[float]:
    """Return a day of 24 shares: each span of hours at its share, the rest at another."""
    return [next((share for first, last, share in opened if first <= h < last), else_) for h in range(24)]


def _weeks(weekday: list[float], monday: list[float], saturday: list[float], sunday: list[float], closed: list[float]) -> dict[str, Any]:
    """Return a schedule of the library's weeks: its Mondays, Saturdays, Sundays, holidays and closures have days of their own."""
    named = {"weekday": weekday, "monday": monday, "saturday": saturday, "sunday": sunday, "closed": closed}
    return {
        "days": [{"id": k, "name": k.capitalize(), "values": values} for k, values in named.items()],
        "rules": [
            *({"id": f"{day}s", "day": day, "weekdays": [day]} for day in ("monday", "saturday", "sunday")),
            {"id": "holidays", "day": "closed", "on": "holidays"},
            {"id": "closures", "day": "closed", "on": "closures"},
        ],
    }


NOBODY, STAND_BY = _day(), _day(else_=0.1)
OPENED: dict[str, Any] = {
    "id": "rope-quay-library",
    "name": "Library, as it opens",
    "occupancy": _weeks(_day((10, 12, 0.5), (12, 18, 0.8), (18, 20, 0.4)), NOBODY, _day((10, 17, 0.7)), _day((13, 17, 0.4)), NOBODY),
    "person_area": 8.0,
    "lighting": _weeks(
        _day((9, 20, 0.85)), _day((9, 13, 0.3)), _day((9, 17, 0.85)), _day((12, 17, 0.6)), NOBODY
    ),
    "lighting_w_m2": 7.5,
    "equipment": _weeks(
        _day((9, 20, 0.8), else_=0.1), _day((9, 13, 0.3), else_=0.1), _day((9, 17, 0.7), else_=0.1), _day((12, 17, 0.5), else_=0.1), STAND_BY
    ),
    "equipment_w_m2": 4.0,
    "heating_c": 20.5,
    "source": "the library's own opening hours",
}  # fmt: skip
"""Closed on Mondays but for those who shelve, on holidays and in the summer closure."""
CALENDAR: dict[str, Any] = {
    "holidays": [
        {"id": "new-year", "name": "New Year", "date": "01-01"},
        {"id": "harbour", "name": "Harbour Day", "date": "05-16"},
        {"id": "herring", "name": "Herring Fair", "date": "09-04"},
        *({"id": f"midwinter-{k}", "name": f"Midwinter, day {k}", "date": f"12-{24 + k}"} for k in (1, 2)),
    ],
    "closures": [{"id": "summer", "name": "Summer closure", "first": "07-20", "last": "08-09"}],
}


def _dimmed(*zones: str) -> list[dict[str, Any]]:
    """Return rules by which the lights of reading rooms follow daylight."""
    return [{"id": f"readers-{k}", "zone": zone, "lights": "dimmed"} for k, zone in enumerate(zones)]


DEMO_PLACE = read_document(
    Place,
    {
        "name": "Merrowhaven, Rope Quay",
        "climate": {"kind": "stand-in", "id": "merrowhaven", "name": "Merrowhaven"},
        "north_deg": -11.0,
        "calendar": CALENDAR,
        "boxes": [
            {"id": "warehouse-a", "name": "Salt warehouse", "x": 2, "y": 52, "length": 34, "depth": 18, "height": 14},
            {"id": "warehouse-b", "name": "Timber warehouse", "x": 42, "y": 54, "length": 26, "depth": 16, "height": 11},
            {"id": "ropewalk", "name": "Ropewalk", "x": 86, "y": 2, "length": 13, "depth": 46, "height": 12},
        ],
        "trees": [
            {"id": f"tree-{i + 1}", "name": f"Quay tree {i + 1}", "x": 8 + 9.5 * i, "y": -9, "height": 9, "crown": 5.5} for i in range(7)
        ],
    },
)


@lru_cache(maxsize=1)
def demo_map() -> tuple[str, bytes, Drawing]:
    """Return the map that lies under the demo's site: its digest, its file, and what is read from it."""
    from eurythm.exchange.picture import read_picture
    from eurythm.exchange.samples.sitemap import map_picture

    data = map_picture(DEMO_PLACE)
    return hashlib.blake2b(data, digest_size=16).hexdigest(), data, read_picture(data, "rope-quay-map.png")


def demo_project() -> Project:
    """Return the demo project with its three schemes; everything in it is invented."""
    from eurythm.exchange.samples.sitemap import SIZE, map_underlay

    site = DEMO_PLACE.model_copy(update={"underlays": (map_underlay(DEMO_PLACE, demo_map()[0], *SIZE),)})
    quay = {
        "id": "quay",
        "name": "Quay",
        "volumes": [_volume("bar", "Bar", {"kind": "rectangle", "length": 56, "depth": 17}, 6, 6, _storeys(3, 3.8))],
        "skin": _skin(0.30, 0.25, 0.45, head_m=3.0),
        "use": {
            "profile": OPENED["id"],
            "lights": {"kind": "dimmed"},
            "zones": [{"id": "workshops", "zone": "bar/s0/*", "profile": "workshop", "lights": "none"}],
        },
        "sun_pictures": [
            {
                "id": "summer",
                "name": "Summer sun on the quay side",
                "kinds": ["wall"],
                "orientations": ["south"],
                "first_day": 151,
                "last_day": 242,
            },
            {"id": "roof", "name": "The roof over the year, for panels", "kinds": ["roof"]},
        ],
        "light_pictures": [
            {"id": "readers", "name": "Enough daylight in the reading rooms", "levels": [3.8]},
            {"id": "noon", "name": "Noon in midwinter", "levels": [3.8], "measure": "hour", "hour": 24 * 354 + 12},
        ],
        "plant": {"main": {"ready": "district-radiators", "cold": {"kind": "air_chiller"}}},
    }
    court = {
        "id": "court",
        "name": "Court",
        "skin": _skin(0.30, 0.30, 0.40, head_m=3.2, glazing="triple-clear"),
        "use": {"profile": OPENED["id"], "zones": _dimmed("*.01", "*.11")},
        "plant": {"main": {"ready": "ground-pump-floor"}, "photovoltaics": {"roof_share": 0.25}},
        **court_import()[0],
    }
    terraces = {
        "id": "terraces",
        "name": "Terraces",
        "volumes": [
            _volume("hall", "Hall", {"kind": "rectangle", "length": 44, "depth": 22}, 8, 6, _storeys(2, 3.6)),
            _volume("rooms", "Reading rooms", {"kind": "rectangle", "length": 20, "depth": 22}, 8, 6, _storeys(2, 3.6), base_level_m=7.2),
            _volume("shed", "Workshops", {"kind": "rectangle", "length": 16, "depth": 16}, 52, 9, _storeys(1, 4.4), zoning={"kind": "one"}),
        ],
        "skin": _skin(0.25, 0.25, 0.50, overhang_depth_m={"south": 1.0}, rules=[TIMBER_UPSTAIRS]),
        "use": {
            "profile": OPENED["id"],
            "zones": [{"id": "workshops", "zone": "shed/*", "profile": "workshop"}, *_dimmed("rooms/*")],
        },
        "plant": {
            "main": {"ready": "air-pump-fan-coils"},
            "systems": [{"id": "hall", "name": "All-air in the hall", "ready": "all-air-pump", "margin": 1.4, "zones": ["hall/*"]}],
            "arrays": [
                {"id": "roofs", "name": "Roof of the reading rooms", "target": "rooms", "tilt_deg": 12, "inverter": "roof"},
                {"id": "awning", "name": "Over the south windows", "on": "shade", "target": "hall/*/e1", "inverter": "south"},
            ],
            "inverters": [{"id": "roof", "name": "Roof", "rated_kw": 30}, {"id": "south", "name": "South side", "rated_kw": 14}],
            "battery": {"usable_kwh": 30},
        },
    }
    data = {"name": "Merrowhaven Library", "place": dump(site), "schemes": [quay, court, terraces], "reference": "quay"}
    library = court_import()[1]
    own = {**library, "constructions": [*library.get("constructions", []), STUD_WALL], "profiles": [OPENED]}
    return read_document(Project, data | {"library": own, "factors": {"money": {"horizon_years": 30}}})


COURT_FILE = "court.ifc"
SHAPE = ("zones", "left_out", "contact_gap_m", "imported_from")


@lru_cache(maxsize=1)
def court_received() -> tuple[bytes, Received]:
    """Return the sample model of the court as a file, and what is read from it."""
    from eurythm.exchange.ifc.read import read_ifc
    from eurythm.exchange.samples.ifc import write_court

    with tempfile.TemporaryDirectory(prefix="eurythm-sample-") as folder:
        path = Path(folder) / COURT_FILE
        write_court(path)
        return path.read_bytes(), read_ifc(path, COURT_FILE)


@lru_cache(maxsize=1)
def court_import() -> tuple[dict[str, Any], dict[str, Any]]:
    """Return the shape of the Court and the library entries that it needs, imported from its sample model."""
    from eurythm.exchange.intake.merge import merge
    from eurythm.exchange.intake.settle import settle
    from eurythm.exchange.intake.sift import Sift

    settled = settle(court_received()[1], Sift(), {"id": "court", "name": "Court"}, Place())
    merged = merge(settled, Place(), Library())
    scheme = dump(merged.scheme)
    return {k: scheme[k] for k in SHAPE}, dump(merged.library)


DEMO_COST_LIMIT = 1020.0
"""What a scheme may cost over all years, €/m²."""


def demo_study() -> StudySpec:
    """Return the demo's study on its reference scheme: 300 cases."""
    levers = [
        {"kind": "turn", "steps": [-30, -15, 0, 15, 30]},
        {"kind": "field", "path": "skin/glazing_ratio/south", "steps": [0.2, 0.3, 0.45, 0.6, 0.75]},
        {"kind": "field", "path": "skin/glazing", "steps": ["double-lowe", "double-solar", "triple-clear"]},
        {"kind": "field", "path": "skin/overhang_depth_m/south", "steps": [0, 0.6, 1.2, 1.8]},
    ]
    return read_document(StudySpec, {"name": "Which glass, where", "scheme": "quay", "levers": levers})


def demo_light_study() -> StudySpec:
    """Return a study of glass judged by heat and by light: 24 cases."""
    levers = [
        {"kind": "field", "path": "skin/glazing_ratio/south", "steps": [0.2, 0.3, 0.45, 0.6]},
        {"kind": "field", "path": "skin/glazing", "steps": ["double-lowe", "double-solar", "triple-clear"]},
        {"kind": "field", "path": "use/lights/kind", "steps": ["none", "dimmed"]},
        {"kind": "field", "path": "use/lights/floors", "steps": ["yes"]},
    ]
    return read_document(StudySpec, {"name": "Glass by heat and light", "scheme": "quay", "levers": levers})


def demo_form_study() -> StudySpec:
    """Return a small study across the three schemes."""
    levers = [
        {"kind": "scheme", "steps": ["quay", "court", "terraces"]},
        {"kind": "field", "path": "skin/wall_insulation_m", "steps": [0.1, 0.16, 0.24]},
        {"kind": "field", "path": "use/infiltration_ach", "steps": [0.05, 0.15, 0.4]},
    ]
    return read_document(StudySpec, {"name": "Which form", "scheme": "quay", "levers": levers})


def demo_measures_study() -> StudySpec:
    """Return what six measures bring on the reference scheme, with what they cost: every mix, 64 cases."""
    glass = {"kind": "field", "path": "skin/glazing", "step": "triple-clear"}
    north = [{"kind": "field", "path": f"skin/glazing_ratio/{side}", "step": 0.25} for side in ("north", "east")]
    measures: list[dict[str, Any]] = [
        {"id": "glass", "name": "Triple glass", "changes": [glass], "cost": 96_000, "life_years": 30},
        {"id": "sides", "name": "Less glass north and east", "changes": north, "cost": -28_000, "life_years": 40},
        {"id": "shades", "name": "Overhangs to the south", "changes": [{"kind": "field", "path": "skin/overhang_depth_m/south", "step": 1.2}],
         "cost": 34_000, "life_years": 30, "upkeep": 250},
        {"id": "walls", "name": "Thicker walls", "changes": [{"kind": "field", "path": "skin/wall_insulation_m", "step": 0.24}]},
        {"id": "tight", "name": "Tighter joints", "changes": [{"kind": "field", "path": "use/infiltration_ach", "step": 0.05}], "cost": 15_000,
         "life_years": 30},
        {"id": "sun", "name": "Panels on half the roof", "changes": [{"kind": "field", "path": "plant/photovoltaics/roof_share", "step": 0.5}]},
    ]  # fmt: skip
    return read_document(StudySpec, {"name": "What six measures bring", "kind": "measures", "scheme": "quay", "measures": measures})


def demo_sample_study() -> StudySpec:
    """Return a sample of six ranges on the reference scheme: 48 cases."""
    ranges = [
        ("skin/glazing_ratio/south", 0.15, 0.8),
        ("skin/glazing_ratio/north", 0.15, 0.6),
        ("skin/wall_insulation_m", 0.08, 0.3),
        ("skin/roof_insulation_m", 0.12, 0.4),
        ("use/infiltration_ach", 0.02, 0.5),
        ("use/heating_c", 19.0, 22.0),
    ]
    levers = [{"kind": "field", "path": path, "low": low, "high": high} for path, low, high in ranges]
    return read_document(StudySpec, {"name": "Where it matters", "kind": "sample", "scheme": "quay", "levers": levers, "size": 48})


def demo_search_study() -> StudySpec:
    """Return a search of energy against floor with enough daylight, under a limit of cost."""
    levers = [
        {"kind": "field", "path": "skin/glazing_ratio/south", "steps": [0.2, 0.3, 0.4, 0.5, 0.6, 0.7]},
        {"kind": "field", "path": "skin/glazing_ratio/north", "steps": [0.2, 0.3, 0.4, 0.5, 0.6]},
        {"kind": "field", "path": "skin/glazing", "steps": ["double-lowe", "double-solar", "triple-clear"]},
        {"kind": "field", "path": "skin/wall_insulation_m", "low": 0.1, "high": 0.3},
        {"kind": "field", "path": "use/lights/floors", "steps": ["yes"]},
    ]
    search = {
        "goals": [{"outcome": "eui_kwh_per_m2"}, {"outcome": "daylit_share"}],
        "limits": [{"outcome": "global_cost_per_m2", "at_most": DEMO_COST_LIMIT}],
        "size": 64,
    }
    return read_document(
        StudySpec, {"name": "Little energy, much daylight", "kind": "search", "scheme": "quay", "levers": levers, **search}
    )


def textbook_room() -> Bundle:
    """Return a room as textbooks have them: a box with one window in rectangles, lit from one side, with sensors along its axis."""
    sensors = [{"id": f"at-{d}", "zone": "room", "x": 2.0, "y": float(d), "share": 0.2} for d in range(1, 6)]
    scheme = {
        "id": "side-lit",
        "name": "A side-lit room",
        "zones": [
            {
                "id": "room",
                "name": "Room",
                "box": {"length": 4.0, "depth": 6.0, "height": 3.0},
                "faces": [{"id": "south", "side": "south", "windows": [{"x": 0.5, "z": 0.9, "width": 3.0, "height": 1.8}]}],
            }
        ],
        "use": {"profile": "office", "lights": {"kind": "dimmed"}, "sensors": sensors},
    }
    return read_document(Bundle, {"place": {"name": "A field"}, "scheme": scheme, "climate": {"file": "../merrowhaven.epw"}})


def _write_samples(folder: Path) -> list[str]:
    """Write the library as other programs would hand it on: models with clutter and faults, plans, masses, neighbours."""
    from eurythm.exchange.samples import dxf, gbxml, ifc, massing

    folder.mkdir(exist_ok=True)
    ifc.write_court(folder / "court-ifc4.ifc")
    ifc.write_court(folder / "court-ifc2x3.ifc", ifc.Options(schema="IFC2X3", millimetres=True))
    gbxml.write_court(folder / "court-si.xml", "SI")
    gbxml.write_court(folder / "court-ip.xml", "IP")
    dxf.write_court(folder / "ground-floor.dxf", "mm", origin_m=(350_000.0, 5_600_000.0))
    for ending in ("obj", "stl", "glb"):
        massing.write_masses(folder / f"masses.{ending}")
    massing.write_neighbours(folder / "neighbours.geojson")
    (folder / "rope-quay-map.png").write_bytes(demo_map()[1])
    return sorted(f"models/{path.name}" for path in folder.iterdir())


def write_examples(folder: Path) -> list[str]:
    """Write the demo's schemes as bundles, the stand-in climates as EPW, three study files, sample models, a textbook room and the envelope cases; returns the names written."""
    folder.mkdir(parents=True, exist_ok=True)
    project = demo_project()
    written = []
    for place in PLACES:
        (folder / f"{place.id}.epw").write_text(standin_epw(place.id), encoding="utf-8")
        written.append(f"{place.id}.epw")
    for scheme in project.schemes:
        climate = BundleClimate(file="merrowhaven.epw")
        bundle = Bundle(place=DEMO_PLACE, library=project.library, factors=project.factors, scheme=scheme, climate=climate)
        write_bundle(folder / f"{scheme.id}.eurythm.json", bundle)
        written.append(f"{scheme.id}.eurythm.json")
    bundles = tuple(f"{s.id}.eurythm.json" for s in project.schemes)
    for name, study, needed in (
        ("which-glass", demo_study(), bundles[:1]),
        ("glass-by-light", demo_light_study(), bundles[:1]),
        ("which-form", demo_form_study(), bundles),
    ):
        write_json(folder / f"{name}.study.json", dump(StudyFile(study=study, bundles=needed)))
        written.append(f"{name}.study.json")
    written += _write_samples(folder / "models")
    (folder / "rooms").mkdir(exist_ok=True)
    write_bundle(folder / "rooms" / "side-lit.eurythm.json", textbook_room())
    written.append("rooms/side-lit.eurythm.json")
    (folder / "envelope").mkdir(exist_ok=True)
    for name in CASES:
        write_bundle(folder / "envelope" / f"{name}.eurythm.json", envelope_bundle(name))
        written.append(f"envelope/{name}.eurythm.json")
    return written
