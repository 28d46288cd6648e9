"""The tables of the compiled heat balance, each said once: the fields of elements, zones and systems, and the records that arguments come in.

A table is flat for the kernel: field ``f`` of thing ``i`` in lane ``k`` stands at ``(i * FIELDS + f) * L + k``. `table` gives the places of
its fields by name, which compiled code takes for constants; what is *given* bears the name that `prepare.Arrays` has for it.
"""

from __future__ import annotations

from collections import namedtuple
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Annotated, Any, NamedTuple, get_type_hints

import numpy as np
from numba import types
from numpy.typing import NDArray

Series = NDArray[np.float64]


@dataclass(frozen=True)
class Column:
    """A field of a table: its name, unit and what it is; `given` by the case, else a state or a sum of the kernel's own."""

    name: str
    unit: str
    what: str
    given: bool = False


def given(name: str, unit: str, what: str) -> Column:
    """A field that the case gives."""
    return Column(name, unit, what, given=True)


def table(name: str, columns: Iterable[Column]) -> Any:
    """Return the place of each column by its name."""
    names = [c.name for c in columns]
    kind: Any = namedtuple(name, names)  # type: ignore[misc]
    return kind(*(np.uint64(i) for i in range(len(names))))


SHARED_COLUMNS = (
    Column("between", "-", "1 where it stands between two zones"),
    Column("open", "-", "1 where its outside is in the open air"),
    Column("low", "W/m²K", "least film inside"),
    Column("span", "W/m²K", "what it grows by as heat rises"),
    Column("sign", "1/K", "how its ramp runs"),
    Column("low_out", "W/m²K", "the same three of its other side"),
    Column("span_out", "W/m²K", ""),
    Column("sign_out", "1/K", ""),
    Column("wind", "-", "1 where wind passes it"),
    Column("still", "W/m²K", "film outside without wind"),
    Column("emissivity", "-", "of its outside"),
)
"""What an element has in all lanes alike."""
ELEMENT_COLUMNS = (
    given("area", "m²", ""),
    Column("sees_sky", "-", "emissivity times the sky that it sees"),
    given("ground_h", "W/m²K", "film of the virtual layer under the ground"),
    given("ground_swing", "W/m²K", "that times its share of the outdoor year's swing"),
    given("fixed_h", "W/m²K", "film towards a stated temperature"),
    given("fixed_e", "W/m²", "that times the temperature, and the ground's by its mean"),
    given("share_in", "1/m²", "of the sun in its zone, absorbed inside"),
    given("share_out", "1/m²", "of the sun in the zone beyond, absorbed there"),
    given("radiant_in", "W/m²K", "conductance to its zone's radiant node"),
    given("radiant_out", "W/m²K", "to that of the zone beyond"),
    Column("g11", "m²K/W", "answers of its chain: outer to outer flux"),
    Column("g12", "m²K/W", "either to the other"),
    Column("g22", "m²K/W", "inner to inner"),
    Column("surf_in", "°C", "inner surface after the last step"),
    Column("surf_out", "°C", "outer surface"),
    Column("hc_in", "W/m²K", "films of the step"),
    Column("hc_out", "W/m²K", ""),
    Column("h1", "W/m²K", "all films outside together"),
    Column("e_out", "W/m²", "surroundings outside, weighted by films, and the sun absorbed"),
    Column("s_in", "W/m²", "sun absorbed inside"),
    Column("own_in", "°C", "surface temperatures without surroundings"),
    Column("own_out", "°C", ""),
    Column("b_in", "m²K/W", "answer of the inner surface to its own side"),
    Column("b_out", "m²K/W", "of the outer one to its"),
    Column("cross", "m²K/W", "of either to the other's"),
    Column("keeps_in", "-", "of the inner surface's own temperature, where films stay"),
    Column("keeps_out", "-", ""),
    Column("known_in", "°C", "inner surface but for what its zones add"),
    Column("known_out", "°C", ""),
    Column("flux_in", "W/m²", "flux into it with the reference film, last step"),
    Column("flux_out", "W/m²", ""),
)
"""What an element has in each lane."""
ASKED_COLUMNS = (
    Column("fresh", "W/K", "mechanical outdoor air"),
    Column("heat", "°C", "setpoints"),
    Column("cool", "°C", ""),
    Column("bypass", "°C", "above which heat recovery is bypassed"),
    Column("occupied", "-", "1 while someone is there"),
    Column("leak", "W/K", "air by stated changes"),
    Column("open_c", "°C", "above which windows open"),
    Column("moisture", "kg/s", "given off by people"),
)
"""What use asks of a zone by the hour, in the order of `demands.UseSeries`."""
GAIN_COLUMNS = (Column("convective", "W", "gains to the air"), Column("radiant", "W", "gains to the radiant node"))
ZONE_COLUMNS = (
    given("capacity", "J/K", "of air and furniture"),
    given("bridge", "W/K", "thermal bridges"),
    given("recovery", "-", "of heat from exhaust air"),
    given("economy", "-", "most of the economiser's factor on outdoor air"),
    given("fan_k", "K", "that the supply fan warms its air by"),
    given("leak_wind", "(W/K)²/(m/s)²", "cracks by wind"),
    given("leak_stack", "(W/K)²/K", "cracks by temperature"),
    given("open_wind", "(W/K)²/(m/s)²", "windows by wind"),
    given("open_stack", "(W/K)²/K", "windows by temperature"),
    given("mixed", "-", "1 where windows may stand open beside cooling"),
    given("heat_most", "W", "limits of the plant"),
    given("cool_most", "W", ""),
    given("by_air", "-", "share of air in the temperature that is controlled"),
    given("short", "-", "share of light in the sun that enters"),
    given("vapour_mass", "kg", "air that holds moisture, and furnishings as such"),
    given("driest", "-", "relative humidity limits"),
    given("wettest", "-", ""),
    given("coil_c", "°C", "of the cooling coil"),
    given("coil_vapour", "kg/kg", "that the coil leaves in the air"),
    Column("warm_c", "°C", "too warm above"),
    Column("warm_adapts", "-", "1 where that follows the outdoor running mean"),
    Column("cold_c", "°C", "too cold below"),
    *GAIN_COLUMNS,
    *ASKED_COLUMNS,
    Column("sun", "W", "light through glass"),
    Column("warmed", "W", "heat to the air"),
    Column("shone", "W", "heat to the radiant node"),
    Column("flow", "W/K", "to outdoors, but open windows"),
    Column("leaked", "W/K", "of it by cracks and stated changes"),
    Column("supply", "W/K", "of it by fans"),
    Column("supplied_wk", "W/K", "that less what heat recovery gives back"),
    Column("potential", "W/K", "windows wide open"),
    Column("most_open", "W/K", "windows as far as they may"),
    Column("opened", "W/K", "windows as they stand"),
    Column("steady_rr", "W/K", "what elements between zones whose films stay make of the three below, all year"),
    Column("steady_ra", "W/K", ""),
    Column("steady_aa", "W/K", ""),
    Column("m_rr", "W/K", "radiant node by itself"),
    Column("m_ra", "W/K", "radiant node by the air"),
    Column("m_aa", "W/K", "air by itself"),
    Column("r_0", "W", "what is known into the radiant node"),
    Column("a_0", "W", "into the air"),
    Column("per_rr", "K/W", "one over m_rr"),
    Column("slope", "-", "radiant node by the air"),
    Column("stiff", "W/K", "air with the radiant node solved for"),
    Column("per_stiff", "K/W", ""),
    Column("per_control", "-", "from the controlled temperature to the air's"),
    Column("closed_c", "°C", "air with windows shut and no plant"),
    Column("high_c", "°C", "air at the cooling setpoint"),
    Column("air", "°C", ""),
    Column("star", "°C", "radiant node"),
    Column("shut", "-", "how far windows stay shut since it would be too warm with them open"),
    Column("vapour", "kg/kg", ""),
    Column("load", "W", "plant, heating positive"),
    Column("operative", "°C", "summed over the hour's steps"),
    Column("warm_h", "h", "occupied hours too warm"),
    Column("cold_h", "h", "too cold"),
    Column("hour_heating", "W", "demand, summed over the hour's steps"),
    Column("hour_cooling", "W", ""),
    Column("heating", "Wh", "demand of all hours"),
    Column("cooling", "Wh", ""),
    Column("most_heating", "W", "demand of the highest hour"),
    Column("most_cooling", "W", ""),
    Column("air_h", "°C h", "temperature summed over all hours"),
    Column("balance", "J", "what went in less what went out"),
    Column("throughput", "J", "what went through"),
    Column("stored", "J", "held more at the end than at the start"),
)
"""What a zone has in each lane: given, this hour's, then state and sums."""
SYSTEM_COLUMNS = (
    Column("heating", "W", "demand of its zones"),
    Column("cooling", "W", ""),
    Column("supplied", "W/K", "outdoor air by fans"),
    Column("vented", "W", "brought in by that air, after heat recovery, with its fan's heat"),
    Column("air", "°C", "summed over its zones: the temperature of one zone alone"),
    Column("coiled", "W", "condensed on coils"),
    Column("dried", "W", "taken out to keep the humidity limit"),
    Column("wetted", "W", "put in to keep it"),
)
"""What zones that share a system ask of it by the hour."""
KEPT = ("air_c", "operative_c", "heating_w", "cooling_w", "leak_wk", "supply_wk", "open_wk", "vapour_kg_kg")
"""What one lane alone keeps of each zone by the hour."""
RECORDED = ("leaked_wk", "supplied_wk", "opened_wk", "load_w", "air_c", "star_c", "fan_w")
"""What one lane alone can record of each zone and step, so that `thermal.parts` can take the result apart."""

# arrays as the compiled kernels take them
F1 = Annotated[Series, types.float64[::1]]
F2 = Annotated[Series, types.float64[:, ::1]]
F3 = Annotated[Series, types.float64[:, :, ::1]]
I1 = Annotated[NDArray[np.uint64], types.uint64[::1]]
B1 = Annotated[NDArray[np.bool_], types.boolean[::1]]
R3 = Annotated[NDArray[np.float32], types.float32[:, :, ::1]]
YES = Annotated[bool, types.boolean]
COUNT = Annotated[int, types.int64]


class Chains(NamedTuple):
    """The modes of all elements (E): coefficients of those alike in all lanes and of the others, states, heat that a mode holds."""

    alike: F1
    apart: F1
    x: F1
    holds: F1
    own: B1
    at: I1
    fours: I1
    offset: I1


class Elements(NamedTuple):
    """Elements (E), their zones, those between two zones, and the row of absorbed sun."""

    shared: F1
    table: F1
    zone_in: I1
    zone_out: I1
    zonal: I1
    sun_row: I1


class Zones(NamedTuple):
    """Zones (Z), and the system that each belongs to."""

    table: F1
    system: I1


class Paths(NamedTuple):
    """Air paths (P): two zones, the squared flow and its part per kelvin, (W/K)²."""

    a: I1
    b: I1
    by: F1


class Weather(NamedTuple):
    """The year, (8760,), and how the sun of an hour falls on its steps, (8760, substeps)."""

    outdoor_c: F1
    wind_h: F1
    wind_squared: F1
    sky_h: F1
    sky_c: F1
    vapour_out: F1
    pressure_pa: F1
    adaptive_c: F1
    shape: F2


class Hours(NamedTuple):
    """What differs by the hour, where each lane's stands in memory (`lanes.address_of`), and scales.

    `lit_at` is (rows * L), of (8760,) each: absorbed sun by row, sun through glass by zone, and the swing of the outdoor year. `asked_at`
    is (L,), of unit series (8760, 8 K) of K kinds of zones, `asked_row` (Z,) the kind of each; `gains_at` the same, of (8760, 2 K).
    """

    lit_at: I1
    asked_at: I1
    asked_row: I1
    asked_scales: F1
    gains_at: I1
    gain_row: I1
    gain_scales: F1


class Left(NamedTuple):
    """What the run leaves beside the tables: demand of each lane by system and hour, (L, 6 S, 8760); with one lane alone also zones by hour, and the record by step."""

    systems: F3
    kept: F3
    films: R3
    record: F3
    joints: F2


class Steps(NamedTuple):
    """Whether windows open, cracks let air in by wind and stack, and moisture counts; steps an hour, hours of the run-in, the first hour after it, and how many are run."""

    opens: YES
    leaks: YES
    moist: YES
    substeps: COUNT
    run_in_h: COUNT
    first_h: COUNT
    hours: COUNT


# the same under a record, every source of heat in a lane of its own (`thermal.parts_kernel`)
PART_ELEMENT_COLUMNS = (
    Column("area", "m²", ""),
    Column("sees_sky", "-", "emissivity times the sky that it sees"),
    Column("ground_h", "W/m²K", "as of `ELEMENT_COLUMNS`"),
    Column("ground_swing", "W/m²K", ""),
    Column("fixed_h", "W/m²K", ""),
    Column("fixed_e", "W/m²", ""),
    Column("share_own", "1/m²", "of the sun in the zone that it is seen from, absorbed there"),
    Column("share_far", "1/m²", "of the sun in the zone beyond"),
    Column("radiant_own", "W/m²K", "conductance to the radiant node of the zone that it is seen from"),
    Column("radiant_far", "W/m²K", "of the zone beyond"),
    Column("g11", "m²K/W", "answers of its chain"),
    Column("g12", "m²K/W", ""),
    Column("g22", "m²K/W", ""),
)
"""What an element has, seen from one of its zones."""
PART_ZONE_COLUMNS = (
    Column("capacity", "J/K", "as of `ZONE_COLUMNS`"),
    Column("bridge", "W/K", ""),
    Column("by_air", "-", ""),
    Column("heat_most", "W", ""),
    Column("cool_most", "W", ""),
    Column("short", "-", ""),
)


class PartChains(NamedTuple):
    """The modes of all elements (E): coefficients, states at the start and those of one kelvin, and the states of every source."""

    coefficients: F1
    start: F1
    per_kelvin: F1
    at: I1
    fours: I1
    offset: I1
    x: F1


class PartElements(NamedTuple):
    """Elements (E) as they are seen: the whole ones' shared fields, own fields, (E fields), room to work in by source, (6, E lanes), and for
    all alike, (6, E); their zones, those that couple two, the row of absorbed sun, the whole element of each, whether it is seen from
    its other side, and the source that its outside is.
    """

    shared: F1
    given: F1
    room: F2
    alike: F2
    zone_in: I1
    zone_out: I1
    zonal: I1
    sun_row: I1
    source: I1
    flip: B1
    lane: I1


class PartZones(NamedTuple):
    """Zones (Z): fields (Z, fields), the constants that temperatures count from, (2, Z), setpoints (2, Z, 8760), gains by kind and sun by
    side, (n, Z, 8760), four hours of each that are asked about, and room to work in by source, (7, Z lanes), and for all alike, (4, Z).
    """

    given: F2
    refs: F2
    setpoints: F3
    convective: F3
    radiant: F3
    sun: F3
    hours: I1
    room: F2
    alike: F2


class Joints(NamedTuple):
    """Air paths (P): their zones, and what goes through each in every step, (P, steps) W/K."""

    a: I1
    b: I1
    through: F2


class Lit(NamedTuple):
    """Absorbed sun by row, (rows, 8760) W/m², and the swing of the outdoor year under the ground, (8760,) K."""

    outside: F2
    ground_k: F1


class Recorded(NamedTuple):
    """What a run decided: films (2, E, steps), and of zones (7, Z, steps) by `RECORDED`."""

    films: R3
    zones: F3


class PartSteps(NamedTuple):
    """Whether all zones are solved together; steps an hour and hours before the year."""

    together: YES
    substeps: COUNT
    run_in_h: COUNT


def record_type(record: type[Any]) -> Any:
    """Return the type that compiled code knows a record by."""
    hints = get_type_hints(record, include_extras=True)
    return types.BaseTuple.from_types([hints[name].__metadata__[0] for name in record._fields], record)
