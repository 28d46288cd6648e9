"""The envelope cases of ANSI/ASHRAE Standard 140 (editions up to 2017) as bundles, run on any climate.

The box, its materials and the published ranges were put down from memory of public literature and are `unverified`; the
ranges hold for the standard's own weather file (cold, sunny, 39.8 N, 1609 m), which does not ship with Eurythm.
What this version does in its own way: the floor is adiabatic (the standard's is insulated so heavily that its loss to the
ground is some 20 W); overhang and fins of 630 and 930 stand at the edges of the wall, not of its window; infiltration is
scaled by the site's air density.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from eurythm.climate.year import ClimateYear
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.project import Bundle, BundleClimate, Factors
from eurythm.model.reading import read_document
from eurythm.model.scheme import Scheme
from eurythm.simulate import run

NOTE = "Ranges hold for the standard's own weather file; they are indicative (unverified), and other climates give other figures."
SUBSTEPS = 4
NIGHT = (18, 7)
"""Hours of night ventilation: from, to."""


@dataclass(frozen=True)
class EnvelopeCase:
    """What one case does differently from the light box with south windows, always heated and cooled."""

    heavy: bool = False
    windows: tuple[tuple[str, float, float], ...] = (("south", 0.5, 3.0), ("south", 4.5, 3.0))
    overhang: float = 0.0
    fins: float = 0.0
    setback: bool = False
    night_air: bool = False
    floating: bool = False


EAST_WEST = (("east", 1.5, 3.0), ("west", 1.5, 3.0))


def _family(heavy: bool) -> dict[str, EnvelopeCase]:
    first = "9" if heavy else "6"
    return {
        f"{first}00": EnvelopeCase(heavy),
        f"{first}10": EnvelopeCase(heavy, overhang=1.0),
        f"{first}20": EnvelopeCase(heavy, EAST_WEST),
        f"{first}30": EnvelopeCase(heavy, EAST_WEST, overhang=1.0, fins=1.0),
        f"{first}40": EnvelopeCase(heavy, setback=True),
        f"{first}50": EnvelopeCase(heavy, night_air=True),
        f"{first}00FF": EnvelopeCase(heavy, floating=True),
        f"{first}50FF": EnvelopeCase(heavy, night_air=True, floating=True),
    }


CASES: dict[str, EnvelopeCase] = {**_family(False), **_family(True)}

Range = tuple[float, float]
PUBLISHED: dict[str, dict[str, Range]] = {
    "600": {"heating_mwh": (4.30, 5.71), "cooling_mwh": (6.14, 8.45), "peak_heating_kw": (3.44, 4.35), "peak_cooling_kw": (5.97, 6.83)},
    "610": {"heating_mwh": (4.36, 5.79), "cooling_mwh": (3.92, 6.14), "peak_heating_kw": (3.44, 4.35), "peak_cooling_kw": (5.67, 6.67)},
    "620": {"heating_mwh": (4.61, 5.94), "cooling_mwh": (3.42, 5.48), "peak_heating_kw": (3.59, 4.38), "peak_cooling_kw": (3.63, 5.10)},
    "630": {"heating_mwh": (5.05, 6.47), "cooling_mwh": (2.13, 3.70), "peak_heating_kw": (3.59, 4.28), "peak_cooling_kw": (3.07, 4.12)},
    "640": {"heating_mwh": (2.75, 3.80), "cooling_mwh": (5.95, 8.10), "peak_heating_kw": (5.23, 6.95), "peak_cooling_kw": (5.89, 6.78)},
    "650": {"heating_mwh": (0.0, 0.0), "cooling_mwh": (4.82, 7.06), "peak_heating_kw": (0.0, 0.0), "peak_cooling_kw": (5.83, 6.68)},
    "900": {"heating_mwh": (1.17, 2.04), "cooling_mwh": (2.13, 3.67), "peak_heating_kw": (2.85, 3.80), "peak_cooling_kw": (2.89, 3.87)},
    "910": {"heating_mwh": (1.51, 2.28), "cooling_mwh": (0.82, 1.88), "peak_heating_kw": (2.86, 3.80), "peak_cooling_kw": (1.90, 3.28)},
    "920": {"heating_mwh": (3.26, 4.30), "cooling_mwh": (1.84, 3.09), "peak_heating_kw": (3.31, 4.06), "peak_cooling_kw": (2.39, 3.51)},
    "930": {"heating_mwh": (4.14, 5.34), "cooling_mwh": (1.04, 2.24), "peak_heating_kw": (3.36, 4.06), "peak_cooling_kw": (1.87, 3.08)},
    "940": {"heating_mwh": (0.79, 1.41), "cooling_mwh": (2.08, 3.55), "peak_heating_kw": (3.98, 6.43), "peak_cooling_kw": (2.89, 3.87)},
    "950": {"heating_mwh": (0.0, 0.0), "cooling_mwh": (0.39, 0.92), "peak_heating_kw": (0.0, 0.0), "peak_cooling_kw": (2.03, 3.17)},
    "600FF": {"air_max_c": (64.9, 75.1), "air_min_c": (-18.8, -15.6), "air_mean_c": (24.2, 27.4)},
    "650FF": {"air_max_c": (63.2, 73.5), "air_min_c": (-23.0, -21.0)},
    "900FF": {"air_max_c": (41.8, 46.4), "air_min_c": (-6.4, -1.6), "air_mean_c": (24.5, 27.5)},
    "950FF": {"air_max_c": (35.5, 38.5), "air_min_c": (-20.2, -17.8)},
}
"""Smallest to largest of the programs published with the standard; `unverified`."""


def _layers(*layers: tuple[str, float, float, float, float]) -> list[dict[str, Any]]:
    keys = ("name", "thickness_m", "conductivity", "density", "specific_heat")
    return [dict(zip(keys, layer, strict=True)) for layer in layers]


def _library() -> Library:
    walls = {
        "wall-light": _layers(
            ("wood siding", 0.009, 0.14, 530, 900), ("fibreglass", 0.066, 0.04, 12, 840), ("plasterboard", 0.012, 0.16, 950, 840)
        ),
        "wall-heavy": _layers(
            ("wood siding", 0.009, 0.14, 530, 900), ("foam", 0.0615, 0.04, 10, 1400), ("concrete block", 0.100, 0.51, 1400, 1000)
        ),
        "roof": _layers(
            ("roof deck", 0.019, 0.14, 530, 900), ("fibreglass", 0.1118, 0.04, 12, 840), ("plasterboard", 0.010, 0.16, 950, 840)
        ),
        "floor-light": _layers(("insulation", 1.003, 0.04, 0, 1000), ("timber", 0.025, 0.14, 650, 1200)),
        "floor-heavy": _layers(("insulation", 1.007, 0.04, 0, 1000), ("concrete slab", 0.080, 1.13, 1400, 1000)),
    }
    made = [
        {"id": f"140-{name}", "name": name.replace("-", ", "), "element": "roof" if name == "roof" else "wall", "layers": layers,
         "solar_absorptance": 0.6, "emissivity": 0.9, "source": "Standard 140, unverified"}
        for name, layers in walls.items()
    ]  # fmt: skip
    glass = {"id": "140-double", "name": "Double, clear", "u_value": 3.0, "g_value": 0.789, "visible": 0.75, "panes": 2, "frame_share": 0.0}
    return read_document(Library, {"constructions": made, "glazings": [{**glass, "source": "Standard 140, unverified"}]})


def _day(outside: float, inside: float, hours: tuple[int, int] = NIGHT) -> dict[str, list[float]]:
    """A day with one value from an evening hour to a morning hour, and another one between."""
    start, end = hours
    return {"weekday": [inside if h >= start or h < end else outside for h in range(24)]}


LENGTH_M, DEPTH_M, HEIGHT_M = 8.0, 6.0, 2.7
GROUND_C = 10.0
"""Below the floor's insulation the ground is at one temperature all year (unverified)."""


def _about_windows(case: EnvelopeCase) -> list[dict[str, Any]]:
    """Fins at both sides of each east and west window, from the floor to the roof, and an overhang between them at roof level."""
    shades: list[dict[str, Any]] = []
    for side, start, width in case.windows:
        wall, out = (LENGTH_M, 1.0) if side == "east" else (0.0, -1.0)
        tip, lip = wall + out * case.fins, wall + out * case.overhang
        ends = (start, start + width)  # the room is as deep on either side of the windows
        for k, y in enumerate(ends):
            corners = [[wall, y, 0.0], [tip, y, 0.0], [tip, y, HEIGHT_M], [wall, y, HEIGHT_M]]
            shades.append({"id": f"{side}-fin-{k + 1}", "name": f"Fin, {side}", "corners": corners})
        roof = [[wall, ends[0], HEIGHT_M], [lip, ends[0], HEIGHT_M], [lip, ends[1], HEIGHT_M], [wall, ends[1], HEIGHT_M]]
        shades.append({"id": f"{side}-overhang", "name": f"Overhang, {side}", "corners": roof})
    return shades


def envelope_bundle(name: str) -> Bundle:
    """Return one case as a bundle without climate. Raises KeyError."""
    case = CASES[name]
    mass = "heavy" if case.heavy else "light"
    construction = {"roof": "140-roof", "floor": f"140-floor-{mass}"}
    faces: list[dict[str, Any]] = []
    for side in ("south", "east", "north", "west", "roof", "floor"):
        windows = [{"x": x, "z": 0.2, "width": width, "height": 2.0, "glazing": "140-double"} for s, x, width in case.windows if s == side]
        face: dict[str, Any] = {"id": side, "side": side, "construction": construction.get(side, f"140-wall-{mass}"), "windows": windows}
        if side == "floor":
            face |= {"boundary": "fixed", "boundary_c": GROUND_C}
        if windows and case.overhang and not case.fins:
            face["overhang_depth_m"] = case.overhang  # over the whole wall, at roof level
        faces.append(face)
    # 1703.16 m3/h through a room of 129.6 m3, on top of half an air change
    night = 0.5 + 1703.16 / 129.6
    zone: dict[str, Any] = {
        "id": "room",
        "zone": "room",
        "gains_w": 200.0,
        "gains_radiant_share": 0.6,
        "air_changes": night if case.night_air else 0.5,
        "heating_c": {"weekday": [20.0] * 24},
        "cooling_c": {"weekday": [27.0] * 24},
    }
    if case.night_air:
        zone["air_schedule"] = _day(0.5 / night, 1.0)
        zone["heating_c"] = {"weekday": [-100.0] * 24}
        zone["cooling_c"] = _day(27.0, 500.0)
    if case.setback:
        zone["heating_c"] = _day(20.0, 10.0, (23, 7))
    if case.floating:
        zone["conditioned"] = False
    scheme = {
        "id": f"case-{name.lower()}",
        "name": f"Envelope case {name}",
        "shades": _about_windows(case) if case.fins else [],
        "zones": [{"id": "room", "name": "Room", "box": {"length": LENGTH_M, "depth": DEPTH_M, "height": HEIGHT_M}, "faces": faces}],
        "skin": {"thermal_bridges": {"surcharge_w_m2k": 0.0}},
        "use": {"zones": [zone]},
    }
    place = read_document(Place, {"ground_reflectance": 0.2})
    return Bundle(place=place, library=_library(), scheme=read_document(Scheme, scheme), climate=BundleClimate(file="../merrowhaven.epw"))


def check_envelope(climate: ClimateYear) -> dict[str, dict[str, float]]:
    """Run every case on a climate year, four steps an hour; returns demand, peaks and air temperatures by case."""
    found = {}
    for name in CASES:
        bundle = envelope_bundle(name)
        outcome = run(bundle.place, bundle.library, bundle.scheme, Factors(), climate, SUBSTEPS).outcome
        air = outcome.zones[0]["air_c"]
        found[name] = {
            "heating_kwh": outcome.totals["heating_demand_kwh"],
            "cooling_kwh": outcome.totals["cooling_demand_kwh"],
            "peak_heating_w": outcome.peaks["heating_w"],
            "peak_cooling_w": outcome.peaks["cooling_w"],
            "air_min_c": air["min"],
            "air_mean_c": air["mean"],
            "air_max_c": air["max"],
        }
    return found


FIGURES = (
    ("heating_mwh", "heating_kwh", 1000.0, "heating MWh"),
    ("cooling_mwh", "cooling_kwh", 1000.0, "cooling MWh"),
    ("peak_heating_kw", "peak_heating_w", 1000.0, "peak heating kW"),
    ("peak_cooling_kw", "peak_cooling_w", 1000.0, "peak cooling kW"),
    ("air_min_c", "air_min_c", 1.0, "lowest °C"),
    ("air_mean_c", "air_mean_c", 1.0, "mean °C"),
    ("air_max_c", "air_max_c", 1.0, "highest °C"),
)


def envelope_table(found: dict[str, dict[str, float]], climate: ClimateYear) -> str:
    """Return the figures beside the published ranges, as text."""
    here = climate.location
    lines = [f"Envelope cases on {here.city} ({here.latitude_deg:.1f}°, {here.altitude_m:.0f} m), {SUBSTEPS} steps an hour", NOTE, ""]
    width = 26
    for floating in (False, True):
        shown = [f for f in FIGURES if f[0].startswith("air") == floating]
        lines.append("case   " + "".join(f"{title:<{width}}" for *_, title in shown))
        for name, figures in found.items():
            if CASES[name].floating != floating:
                continue
            cells = []
            for key, field, per, _ in shown:
                limits = PUBLISHED[name].get(key)
                beside = f" [{limits[0]:g} to {limits[1]:g}]" if limits else ""
                cells.append(f"{figures[field] / per:7.2f}{beside}".ljust(width))
            lines.append(f"{name:<7}" + "".join(cells))
        lines.append("")
    return "\n".join(lines)
