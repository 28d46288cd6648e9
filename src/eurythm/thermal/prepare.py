"""From a brief and a building to the arrays of the kernel."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from operator import attrgetter
from typing import Any

import numpy as np
from numpy.typing import NDArray

from eurythm.brief.resolve import Brief, ZoneBrief
from eurythm.climate.air import STEFAN_BOLTZMANN
from eurythm.climate.sunpath import substep_shape
from eurythm.climate.year import HOURS, ClimateYear
from eurythm.fabric.glass import inward_share, with_blinds
from eurythm.fabric.opaque import BuildUp, build_up
from eurythm.geometry.building import Building, Face
from eurythm.model.amount import amount
from eurythm.model.errors import EurythmError
from eurythm.model.library import Element, Glazing
from eurythm.model.scheme import ORIENTATIONS
from eurythm.sun.radiation import FaceLight
from eurythm.thermal.air import air_paths, zone_arrays
from eurythm.thermal.chains import factored
from eurythm.thermal.comfort import adaptive_c
from eurythm.thermal.demands import Demands, by_month
from eurythm.thermal.elements import (
    ADIABATIC,
    AIR_HEAT,
    FIXED,
    GROUND,
    LOOKS_DOWN,
    LOOKS_UP,
    OUTDOORS,
    RADIANT_H,
    UPRIGHT,
    ZONE,
)
from eurythm.thermal.ground import SOIL, couplings, ground_swing, outdoor_mean, periodic_starts, virtual_layer
from eurythm.thermal.radiant import star_conductances

Series = NDArray[np.float64]
Ints = NDArray[np.uint64]
Plane = tuple[float, ...]
WINDOW_FILMS = 0.17
GLASS_EMISSIVITY = 0.84
DARK: Series = np.zeros(HOURS)


SERIES = ("fresh", "heat", "cool", "bypass", "occupied", "leak", "open_c", "moisture")
"""What use asks by the hour, in the kernel's order."""


@dataclass(frozen=True, eq=False)
class ElementSpec:
    """One element of the balance before it becomes part of flat arrays. Areas m², films W/m2K.

    `plane` is what its inner surface lies in with others, which exchange no radiation with it; `ground_ratio` the swing of the ground's
    temperature over the outdoor one's, `ground_h` the film of the virtual layer below it.
    """

    face: str
    kind: int
    zone_in: int
    zone_out: int
    side_in: int
    side_out: int
    area: float
    emissivity: float
    sky_view: float
    layers: tuple[tuple[float, float], ...]
    standard_in: float
    standard_out: float
    absorptance: float
    plane: Plane
    ground_h: float = 0.0
    ground_ratio: float = 0.0
    fixed_h: float = 0.0
    fixed_c: float = 0.0
    sun: Series | None = None
    glass: bool = False
    floor_of_in: bool = False
    floor_of_out: bool = False


@dataclass(frozen=True, eq=False)
class Arrays:
    """Everything that the heat balance takes of one case, and what results are named by.

    Attributes
    ----------
    climate : digest of the climate year
    solar : (Z, 8760) sun through glass, as light and as heat, W; zone["short"] is the part that is light
    element : by name, (E,): kind, zones, area, views, films, shares of the entering sun, row of absorbed sun
    zone : by name, (Z,): what each zone has all year (capacities, openings, limits of the plant)
    system : (Z,) the group that each zone's demand is summed up in, and `owner` the system of each group
    sun_outside : (8760,) each, absorbed sun by row, W/m²; the first one is dark, cases with the same light share them
    weather : by name, (8760,), and `shape` (8760, substeps)
    ground_k : (8760,) swing of the outdoor year about its mean, a month late, K; elements have their share of it
    heat_per_m3 : heat capacity of air at the site, J/m³K
    first_h, hours : which hours are run after the run-in, whole days; series of others stay zero
    start_c : node temperatures to begin the run-in with, by element
    """

    climate: str
    zone_ids: tuple[str, ...]
    elements: tuple[ElementSpec, ...]
    zones: tuple[ZoneBrief, ...]
    floor_area: Series
    air_volume: Series
    solar: Series
    asked: Demands
    element: dict[str, Any]
    zone: dict[str, Series]
    system: Ints
    owner: tuple[int, ...]
    sun_outside: tuple[Series, ...]
    weather: dict[str, Series]
    ground_k: Series
    start_c: tuple[Series, ...]
    paths: tuple[tuple[int, int, float, float], ...]
    heat_per_m3: float
    standard: bool
    substeps: int
    run_in_h: int
    refine: int = 1
    first_h: int = 0
    hours: int = HOURS

    @property
    def nbytes(self) -> int:
        """How much its arrays take."""
        tables = [*self.element.values(), *self.zone.values(), *self.weather.values(), *self.start_c, *self.sun_outside]
        plain = (self.floor_area, self.air_volume, self.solar, self.ground_k)
        return int(sum(a.nbytes for a in (*tables, *plain))) + self.asked.of.stacked.nbytes + self.asked.by.stacked.nbytes

    @property
    def series(self) -> dict[str, Series]:
        """What use asks by the hour in the units of the kernel, (Z, 8760) by name: W, W/K, °C, kg/s."""
        zones = len(self.zone_ids)
        scales = self.asked.scales(self.heat_per_m3)
        unit = self.asked.of.by_zone.T.reshape(len(SERIES), zones, HOURS)
        asked = {name: series * scale[:, None] for name, series, scale in zip(SERIES, unit, scales, strict=True)}
        return asked | {"convective": self.asked.convective, "radiant": self.asked.radiant}


COUNTS = ("kind", "zone_in", "zone_out", "side_in", "side_out")
SIZES = ("area", "emissivity", "sky_view", "ground_h", "ground_ratio", "standard_in", "standard_out", "fixed_h", "fixed_c")
COUNTS_OF, SIZES_OF = attrgetter(*COUNTS), attrgetter(*SIZES)


def _sides(face: Face) -> tuple[int, int]:
    """How the inner and the outer surface of a face look: upright, up or down."""
    if face.kind == "wall":
        return UPRIGHT, UPRIGHT
    return (LOOKS_DOWN, LOOKS_UP) if face.kind == "ceiling" else (LOOKS_UP, LOOKS_DOWN)


STANDARD_INSIDE = {UPRIGHT: 1 / 0.13, LOOKS_DOWN: 1 / 0.10, LOOKS_UP: 1 / 0.17}


def _built(brief: Brief, face: Face, element: Element) -> BuildUp:
    if face.construction is None:
        return brief.build_ups[element]
    path = f"scheme/zones/{face.id}/construction"
    return build_up(brief.shelf.construction(face.construction, path), element, path)


def _elements(brief: Brief, building: Building, light: dict[str, FaceLight]) -> list[ElementSpec]:
    """Return the elements of the balance."""
    index = {z.id: i for i, z in enumerate(building.zones)}
    built_of = {f.id: _built(brief, f, f.element) for f in building.faces}
    on_ground = {f.id: built_of[f.id].resistance for f in building.faces if f.boundary == "ground"}
    ground = couplings(building, brief.place.ground_level_m, brief.build_ups["wall"].thickness, on_ground) if on_ground else {}
    specs: list[ElementSpec] = []
    for face in building.faces:
        built = built_of[face.id]
        side_in, side_out = _sides(face)
        window_area = min(face.window_area, face.area)
        if face.other is not None:
            specs.append(_between(face, built, index, side_in, side_out))
            continue
        common: dict[str, Any] = {
            "face": face.id,
            "zone_in": index[face.zone],
            "zone_out": -1,
            "side_in": side_in,
            "side_out": side_out,
            "standard_in": STANDARD_INSIDE[side_in] - RADIANT_H * built.emissivity,
            "standard_out": 25.0,
            "plane": face.plane,
        }
        floor = face.kind == "floor"
        if face.boundary == "ground":
            coupled = ground[face.id]
            specs.append(
                ElementSpec(
                    kind=GROUND,
                    area=face.area,
                    emissivity=built.emissivity,
                    sky_view=0.0,
                    layers=(SOIL, *built.layers),
                    absorptance=built.solar_absorptance,
                    ground_h=1 / virtual_layer(coupled, face.kind, built.resistance),
                    ground_ratio=coupled.ratio,
                    floor_of_in=floor,
                    **common,
                )
            )
            continue
        if face.boundary == "fixed":
            beyond = STANDARD_INSIDE[side_out]
            specs.append(
                ElementSpec(kind=FIXED, area=face.area, emissivity=built.emissivity, sky_view=0.0, layers=built.layers,
                            absorptance=built.solar_absorptance, fixed_h=beyond, fixed_c=face.boundary_c, floor_of_in=floor, **common)
            )  # fmt: skip
            continue
        outdoors = face.boundary == "outdoors"
        opaque = face.area - window_area
        lit = light.get(face.id)
        if opaque > 1e-6:
            specs.append(
                ElementSpec(
                    kind=OUTDOORS if outdoors else ADIABATIC,
                    area=opaque,
                    emissivity=built.emissivity,
                    sky_view=lit.sky_view if lit else 0.0,
                    layers=built.layers,
                    absorptance=built.solar_absorptance,
                    sun=lit.absorbed(built.solar_absorptance) if lit else None,
                    floor_of_in=floor,
                    **common,
                )
            )
        if outdoors and window_area > 1e-6:
            specs += [_pane(brief, face, glazing, area, lit, common) for glazing, area in _glazings(brief, face)]
    return specs


def _between(face: Face, built: BuildUp, index: dict[str, int], side_in: int, side_out: int) -> ElementSpec:
    """An element between two zones. A slab is listed from the room below to the room above, so its inside is the upper one."""
    assert face.other is not None
    here, there = index[face.zone], index[face.other]
    plane = face.plane
    if face.kind == "ceiling":
        plane = tuple(-v for v in plane)
        here, there, side_in, side_out = there, here, side_out, side_in
    return ElementSpec(
        face=face.id, kind=ZONE, zone_in=here, zone_out=there, side_in=side_in, side_out=side_out, area=face.area,
        emissivity=built.emissivity, sky_view=0.0, layers=built.layers, absorptance=built.solar_absorptance,
        standard_in=STANDARD_INSIDE[side_in] - RADIANT_H * built.emissivity,
        standard_out=STANDARD_INSIDE[side_out] - RADIANT_H * built.emissivity,
        floor_of_in=side_in == LOOKS_UP, floor_of_out=side_out == LOOKS_UP, plane=plane,
    )  # fmt: skip


def _glazings(brief: Brief, face: Face) -> list[tuple[Glazing, float]]:
    areas: dict[str, float] = {}
    for w in face.windows:
        areas[w.glazing or brief.glazing.id] = areas.get(w.glazing or brief.glazing.id, 0.0) + w.area
    return [(brief.shelf.glazing(name, "scheme/skin/glazing"), area) for name, area in areas.items()]


def _pane(brief: Brief, face: Face, glazing: Glazing, area: float, lit: FaceLight | None, common: dict[str, Any]) -> ElementSpec:
    left = 1 / glazing.u_value - WINDOW_FILMS
    if left <= 1e-4:
        raise EurythmError(
            "u-value-too-high",
            f"U {amount(glazing.u_value, 'W/m²K')} leaves nothing after the standard films.",
            f"library/glazings/{glazing.id}/u_value",
        )
    return ElementSpec(
        kind=OUTDOORS,
        area=area,
        emissivity=GLASS_EMISSIVITY,
        sky_view=lit.glass_sky_view if lit else 0.0,
        layers=((left, 0.0),),
        absorptance=0.0,
        glass=True,
        **common | {"standard_in": STANDARD_INSIDE[common["side_in"]] - RADIANT_H * GLASS_EMISSIVITY},
    )


def _inner_walls(brief: Brief, floor_area: Series) -> list[ElementSpec]:
    """Walls that stand within zones: both faces of them, each with half of the layers behind it."""
    ratio = brief.scheme.skin.inner_walls_m2_m2
    if ratio <= 0:
        return []
    built = brief.build_ups["partition"]
    return [
        ElementSpec(
            face="", kind=ADIABATIC, zone_in=z, zone_out=-1, side_in=UPRIGHT, side_out=UPRIGHT, area=2 * ratio * float(area),
            emissivity=built.emissivity, sky_view=0.0, layers=half_of(built.layers), absorptance=built.solar_absorptance,
            standard_in=STANDARD_INSIDE[UPRIGHT] - RADIANT_H * built.emissivity, standard_out=25.0, plane=(),
        )
        for z, area in enumerate(floor_area)
    ]  # fmt: skip


def half_of(layers: tuple[tuple[float, float], ...]) -> tuple[tuple[float, float], ...]:
    """Return the inner half of a construction's layers by heat capacity; massless ones are cut by resistance."""
    whole = sum(capacity for _, capacity in layers) or sum(resistance for resistance, _ in layers)
    by = 1 if any(capacity > 0 for _, capacity in layers) else 0
    left, half = 0.5 * whole, []
    for layer in reversed(layers):
        share = min(1.0, left / layer[by]) if layer[by] > 0 else 1.0
        half.append((layer[0] * share, layer[1] * share))
        left -= layer[by] * share
        if left <= 1e-9 * whole:
            break
    return tuple(reversed(half))


SIDES = (*ORIENTATIONS, "up")


def transmitted_by_side(brief: Brief, building: Building, light: dict[str, FaceLight]) -> dict[str, Series]:
    """Sun that enters each zone through glass by the side that the glass looks to, W: each (Z, 8760)."""
    through = {side: np.zeros((len(building.zones), HOURS)) for side in SIDES}
    index = {z.id: i for i, z in enumerate(building.zones)}
    for face in building.faces:
        lit = light.get(face.id)
        if lit is None or not face.windows:
            continue
        side = face.orientation(brief.place.north_deg) if abs(face.normal[2]) < 0.7 else "up"
        for glazing, area in _glazings(brief, face):
            through[side][index[face.zone]] += _through(brief, face, glazing, area, lit)
    return through


def transmitted(brief: Brief, building: Building, light: dict[str, FaceLight]) -> tuple[Series, Series]:
    """Sun that enters each zone through glass, as light and as heat of the inner pane, W, (Z, 8760), and the year's part of it that is light, (Z,)."""
    through, inward = np.zeros((len(building.zones), HOURS)), np.zeros(len(building.zones))
    index = {z.id: i for i, z in enumerate(building.zones)}
    for face in building.faces:
        lit = light.get(face.id)
        if lit is not None and face.windows:
            for glazing, area in _glazings(brief, face):
                part = _through(brief, face, glazing, area, lit)
                through[index[face.zone]] += part
                inward[index[face.zone]] += inward_share(glazing) * float(part.sum())
    return through, 1.0 - inward / np.maximum(through.sum(axis=1), 1e-9)


def _through(brief: Brief, face: Face, glazing: Glazing, area: float, lit: FaceLight) -> Series:
    through: Series = glazing.g_value * (1 - glazing.frame_share) * area * lit.on_glass(glazing.panes)
    blinds = brief.scheme.skin.blinds
    where = face.blinds or blinds.place
    if where != "none" and glazing.g_value > 0:
        closed = with_blinds(glazing.g_value, glazing.u_value, where, blinds.transmittance, blinds.reflectance) / glazing.g_value
        through = through * (1.0 - lit.veiled(blinds.closes_w_m2) * (1.0 - closed))
    return through


def _sun_shares(specs: list[ElementSpec], zones: int, absorb_back: float = 0.85) -> tuple[Series, Series]:
    """How a zone's entering sun falls on its surfaces, 1/m² per element side; what is missing to one leaves through glass.

    First to the floor by its absorptance, the rest to all surfaces by area and absorptance; glass lets `absorb_back` of
    what meets it out again (our own assumption).
    """
    floor_area, weight = np.zeros(zones), np.zeros(zones)
    for s in specs:
        out = 1.0 if s.kind == ZONE else 0.0
        floor_area[s.zone_in] += s.area * s.floor_of_in
        weight[s.zone_in] += s.area * (absorb_back if s.glass else s.absorptance)
        if out:
            floor_area[s.zone_out] += s.area * s.floor_of_out
            weight[s.zone_out] += s.area * s.absorptance
    on_floor = np.zeros(zones)
    for s in specs:
        if s.floor_of_in:
            on_floor[s.zone_in] += s.absorptance * s.area / floor_area[s.zone_in]
        if s.kind == ZONE and s.floor_of_out:
            on_floor[s.zone_out] += s.absorptance * s.area / floor_area[s.zone_out]
    share_in, share_out = np.zeros(len(specs)), np.zeros(len(specs))
    for i, s in enumerate(specs):
        z = s.zone_in
        first = s.absorptance / floor_area[z] if s.floor_of_in else 0.0
        rest = 0.0 if s.glass else (1 - on_floor[z]) * s.absorptance / max(weight[z], 1e-9)
        share_in[i] = first + rest
        if s.kind == ZONE:
            z = s.zone_out
            first = s.absorptance / floor_area[z] if s.floor_of_out else 0.0
            share_out[i] = first + (1 - on_floor[z]) * s.absorptance / max(weight[z], 1e-9)
    return share_in, share_out


def wind_film(climate: ClimateYear) -> Series:
    """Outside convective coefficient, W/m2K, (8760,): 4 + 4 v (ISO 6946, annex C)."""
    out: Series = 4.0 + 4.0 * climate["wind_speed_m_s"]
    return out


def prepare(
    brief: Brief, building: Building, light: dict[str, FaceLight], inside: dict[str, tuple[float, float]], zones: tuple[ZoneBrief, ...],
    asked: Demands, substeps: int = 1, refine: int = 1,
) -> Arrays:  # fmt: skip
    """Make the kernel's arrays. `inside` holds internal floor area and air volume by zone."""
    climate = brief.climate
    index = {z.id: i for i, z in enumerate(building.zones)}
    floor_area = np.array([inside[z.id][0] for z in building.zones])
    air_volume = np.array([inside[z.id][1] for z in building.zones])
    specs = _elements(brief, building, light)
    specs += _inner_walls(brief, floor_area)
    enclosed = {s.zone_in for s in specs} | {s.zone_out for s in specs}
    for zone in building.zones:
        if index[zone.id] not in enclosed:
            raise EurythmError("zone-without-faces", f"“{zone.name}” has no faces.", f"scheme/zones/{zone.id}")
    solar, short = transmitted(brief, building, light)
    share_in, share_out = _sun_shares(specs, len(index))
    heat_per_m3 = climate.air_density * AIR_HEAT
    sun_rows, sun_row = _sun_rows(specs)
    chains = [factored(s.layers, 3600.0 / substeps, refine) for s in specs]
    counts = np.maximum(np.array([COUNTS_OF(s) for s in specs], dtype=np.int64), 0).T.astype(np.uint64, order="C")
    element: dict[str, Any] = dict(zip(COUNTS, counts, strict=True))
    sizes = dict(zip(SIZES, np.array([SIZES_OF(s) for s in specs], dtype=float).T.copy(), strict=True))
    ground_h, ground_ratio, fixed_c = sizes["ground_h"], sizes.pop("ground_ratio"), sizes.pop("fixed_c")
    element |= sizes
    element["ground_swing"] = ground_h * ground_ratio
    element["fixed_e"] = sizes["fixed_h"] * fixed_c + ground_h * outdoor_mean(climate)
    element |= _radiant(specs, brief.scheme.method.films == "standard")
    element |= {"share_in": share_in, "share_out": share_out, "sun_row": sun_row}
    group, owner = grouped(zones)
    all_year = zone_arrays(brief, building, zones, floor_area, air_volume) | {"short": short}
    return Arrays(
        climate=climate.digest,
        zone_ids=tuple(z.id for z in building.zones),
        elements=tuple(specs),
        zones=zones,
        floor_area=floor_area,
        air_volume=air_volume,
        solar=solar,
        asked=asked,
        element=element,
        zone=all_year,
        system=np.array(group, dtype=np.uint64),
        owner=owner,
        sun_outside=sun_rows,
        weather=weather_of(climate, substeps),
        ground_k=ground_swing(climate),
        start_c=_start(brief, specs, chains, _inside_by_month(specs, all_year, solar, asked, heat_per_m3, climate), refine),
        paths=air_paths(brief, index, heat_per_m3),
        heat_per_m3=heat_per_m3,
        standard=brief.scheme.method.films == "standard",
        substeps=substeps,
        run_in_h=24 * brief.scheme.method.run_in_days,
        refine=refine,
    )


def grouped(zones: Sequence[ZoneBrief]) -> tuple[list[int], tuple[int, ...]]:
    """Return the group that each zone's demand is summed up in, and the system of each group: rooms that air heats and cools are asked one by one."""
    groups: dict[tuple[int, int], int] = {}
    of = [groups.setdefault((z.air.system, k if z.air.by_air else -1), len(groups)) for k, z in enumerate(zones)]
    return of, tuple(system for system, _ in groups)


def sized_for_heating(arrays: Arrays) -> Arrays:
    """Return the arrays of a case for sizing its heating: nobody and nothing gives heat, and nothing is set back."""
    return replace(arrays, asked=arrays.asked.for_sizing_heat())


@lru_cache(maxsize=8)
def weather_of(climate: ClimateYear, substeps: int) -> dict[str, Series]:
    """Return what the balance takes of the weather, by the names that the kernel gives it; kept by year and step."""
    here = climate.location
    air_k, sky_k = climate.air_c + 273.15, climate.sky_c + 273.15
    weather = {
        "outdoor_c": climate.air_c,
        "wind_h": wind_film(climate),
        "wind_squared": climate["wind_speed_m_s"] ** 2,
        "sky_h": STEFAN_BOLTZMANN * (air_k**2 + sky_k**2) * (air_k + sky_k),
        "sky_c": climate.sky_c,
        "vapour_out": climate.vapour_kg_kg,
        "pressure_pa": climate["pressure_pa"],
        "adaptive_c": adaptive_c(climate),
        "shape": substep_shape(here.latitude_deg, here.longitude_deg, here.time_zone_h, substeps),
    }
    return {name: np.ascontiguousarray(series, dtype=float) for name, series in weather.items()}


def _radiant(specs: list[ElementSpec], standard: bool) -> dict[str, Series]:
    """Conductances to the radiant nodes, W/m2K; with standard films the plain ones that these films hold."""
    zones = np.array([s.zone_in for s in specs] + [s.zone_out for s in specs])
    emissivity = np.array([s.emissivity for s in specs] * 2)
    between = np.array([s.kind == ZONE for s in specs])
    if standard:
        plain = emissivity[: len(specs)] * RADIANT_H
        return {"radiant_in": plain, "radiant_out": np.where(between, plain, 0.0)}
    seen = np.concatenate([np.ones(len(specs), dtype=bool), between])
    # walls within a zone look both ways: two planes of half the area, which see each other
    planes = [plane for s in specs for plane in [s.plane or ("within", s.zone_in)]] + [tuple(-v for v in s.plane) for s in specs]
    areas = np.array([s.area for s in specs] * 2)
    parted = np.array([not s.plane for s in specs] + [False] * len(specs))
    chosen = np.concatenate([np.flatnonzero(seen), np.flatnonzero(seen & parted)])
    names = [planes[i] for i in np.flatnonzero(seen)] + [("within too", zones[i]) for i in np.flatnonzero(seen & parted)]
    halves = np.where(parted, 0.5, 1.0) * areas
    found = np.zeros(2 * len(specs))
    found[chosen] = star_conductances(zones[chosen], names, halves[chosen], emissivity[chosen])
    return {"radiant_in": found[: len(specs)], "radiant_out": found[len(specs) :]}


def _sun_rows(specs: list[ElementSpec]) -> tuple[tuple[Series, ...], Ints]:
    """Absorbed sun as rows, the first for those without any; returns rows, (8760,) each, and each element's row."""
    rows = [DARK]
    which = []
    for s in specs:
        if s.sun is None:
            which.append(0)
        else:
            rows.append(s.sun)
            which.append(len(rows) - 1)
    return tuple(rows), np.array(which, dtype=np.uint64)


def _inside_by_month(
    specs: list[ElementSpec], zone: dict[str, Series], solar: Series, asked: Demands, heat_per_m3: float, climate: ClimateYear
) -> Series:
    """A first guess of each zone's mean temperature by month, °C, (Z, 12): what gains and losses make of it, between the setpoints.

    Our own assumptions; it only sets what the ground holds at the start (`Outcome.drift` tells how well).
    """
    outdoor = np.array(climate.monthly_air_c)
    loss = zone["bridge"].copy()
    for s in specs:
        if s.kind == OUTDOORS:
            loss[s.zone_in] += s.area / (sum(r for r, _ in s.layers) + 0.17)
    monthly, (warmest, coolest) = asked.monthly, asked.extremes
    air = monthly["leak"] + monthly["fresh"] * (1 - zone["recovery"][:, None])
    gains = by_month(solar) + monthly["gains"]
    flow = loss[:, None] + air * heat_per_m3 + 1e-6
    # zones share their heat: half by themselves, half as the whole building
    free = outdoor + 0.5 * gains / flow + 0.5 * gains.sum(axis=0) / flow.sum(axis=0)
    low = 0.5 * (monthly["heat"] + np.maximum(warmest, -50.0))  # rooms do not cool down all the way at night
    high = np.maximum(np.minimum(coolest, 60.0), low + 0.1)
    # gains of a month do not all keep: some come in hours that are warm enough
    held = np.clip(low + 0.5 * (free - low), low, high)
    inside: Series = np.where(warmest > -40.0, held, np.minimum(free, 60.0))
    return inside


def _start(brief: Brief, specs: list[ElementSpec], chains: Sequence[tuple[Series, ...]], inside: Series, refine: int) -> tuple[Series, ...]:
    """Node temperatures to begin the run-in with: on the ground the yearly periodic state, else a straight line from outside to inside."""
    climate = brief.climate
    first = (HOURS - 24 * brief.scheme.method.run_in_days) % HOURS
    december = round(climate.december_c, 6)
    outer = {OUTDOORS: (december, 0.04), ADIABATIC: (20.0, 0.13), ZONE: (20.0, 0.13)}
    found = {
        i: _line(chain[3].tobytes(), *outer.get(s.kind, (s.fixed_c, 0.13)))
        for i, (s, chain) in enumerate(zip(specs, chains, strict=True))
        if s.kind != GROUND
    }
    alike: dict[Any, list[int]] = {}
    for i, s in enumerate(specs):
        if s.kind == GROUND:
            alike.setdefault(s.layers, []).append(i)
    for layers, which in alike.items():
        own = [specs[i] for i in which]
        beyond, ratio = np.array([s.ground_h for s in own]), np.array([s.ground_ratio for s in own])
        starts = periodic_starts(layers, beyond, ratio, climate, inside[[s.zone_in for s in own]], first, refine)
        found |= dict(zip(which, starts, strict=True))
    return tuple(found[i] for i in range(len(specs)))


@lru_cache(maxsize=512)
def _line(upper: bytes, beyond_c: float, film: float) -> Series:
    """A straight line of temperature over a chain's resistance, from what is beyond it to 20 °C inside."""
    along = np.concatenate([[0.0], np.cumsum(-1 / np.frombuffer(upper)[:-1])])
    line: Series = beyond_c + (20.0 - beyond_c) * (film + along) / (film + along[-1] + 0.13)
    return line
