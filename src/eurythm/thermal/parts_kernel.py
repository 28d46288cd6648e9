"""The compiled linear balance under a record: every source of heat run alone, all of them side by side.

In the record of a run (`layout.Record`) stand the films, flows and loads of every step. Under it the balance is linear: the
same matrices, with the right-hand sides taken apart by source. Lanes are sources; coefficients are alike in all of them.
Temperatures count from constants of each zone: lanes of `COMMON` sources hold for both, and each family of the others
for its own constant (the heating and the cooling setpoint).

Either all zones are solved together (the building's parts), or each alone with its neighbours as recorded (a zone's own
parts): then an element between two zones stands in the list twice, once from each side. The method is that of
docs/method.md, "Why"; `thermal.parts` makes the arrays and names the lanes.
"""

from __future__ import annotations

from collections import namedtuple

import numpy as np
from numba import njit, types

from eurythm.thermal import elements as formulas
from eurythm.thermal import kernel as layout
from eurythm.thermal import lanes as vectors
from eurythm.thermal import tables
from eurythm.thermal.compiling import compiled
from eurythm.thermal.elements import SIGMA, answers, beyond, fluxes, onto, outdoors
from eurythm.thermal.kernel import MODES, SHARED, S, advance, couples
from eurythm.thermal.lanes import most_of, rows

SIDES, COMMON, FAMILY, LANES = 5, 8, 12, 32
PEOPLE, LIGHTING, EQUIPMENT, SUN = 0, 1, 2, 3
WALLS, ROOFS, FLOORS, WINDOWS, GROUND, BRIDGES, INFILTRATION, VENTILATION, AIRING, SETPOINTS, NEIGHBOURS, START = range(12)
"""Sources of a family; its lanes begin at COMMON for heating and at COMMON + FAMILY for cooling."""
PARTS = COMMON + FAMILY
TOLERANCE_K = 1e-9
MOST_SWEEPS = 2000
U = np.uint64
L = U(LANES)
G = tables.table("PartElement", tables.PART_ELEMENT_COLUMNS)
R = tables.table("PartZone", tables.PART_ZONE_COLUMNS)
FIELDS = U(len(G))
RECORDS = (
    tables.PartChains, tables.PartElements, tables.PartZones, tables.Joints, tables.Weather, tables.Lit, tables.Recorded, tables.PartSteps,
)  # fmt: skip
SIGNATURE = types.Tuple((types.float64[:, :, ::1], types.float64[:, ::1], types.float64[:, :, ::1]))(
    *(tables.record_type(kind) for kind in RECORDS)
)
inner = njit(error_model="numpy", nogil=True, fastmath={"contract"})

Step = namedtuple("Step", "now hour around bright")
"""A step: its number in the record, its hour, air and sky (as `elements.outside` takes them), and how the hour's sun falls on it."""
Surfaces = namedtuple("Surfaces", "hc_own hc_far h_out b_in b_out cross")
"""Of each element, alike for all sources: films of the step, and how its surfaces answer."""
Fluxes = namedtuple("Fluxes", "known_in known_out flux_in flux_out s_in e_out")
"""Of each element, by source: as the fields of these names in `tables.ELEMENT_COLUMNS`."""
Nodes = namedtuple("Nodes", "air star load lit r_0 a_0 row")
"""Of each zone, by source: temperatures, load, sun, and what is known into its nodes; and one row to work in."""
Sums = namedtuple("Sums", "rr ra aa glass")
"""Of each zone, alike for all sources: what its nodes have by themselves, W/K, and its light through glass, W."""


@inner
def lane_of(f, source):  # type: ignore[no-untyped-def]
    """The lane of a source of the heating (0) or the cooling family (1)."""
    return U(COMMON + f * FAMILY) + U(source)


@inner
def start_of(chains, parts, rooms):  # type: ignore[no-untyped-def]
    """Put what outer elements hold at the start of the run-in into their own sources, and the rooms' heat into one by itself."""
    for f in range(2):
        for e in range(U(len(chains.fours))):
            mine = lane_of(f, parts.lane[e])
            for i in range(chains.offset[e], chains.offset[e] + chains.fours[e] * MODES):
                chains.x[i * L + mine] = chains.start[i] - chains.per_kelvin[i] * rooms.refs[f, parts.zone_in[e]]
        for z in range(U(len(rooms.given))):
            k = z * L + lane_of(f, START)
            rooms.room[0, k] = rooms.room[1, k] = 20.0 - rooms.refs[f, z]


@inner
def begin_zones(rooms, joints, recorded, step, together, dt, nodes, sums):  # type: ignore[no-untyped-def]
    """What each zone's air and radiant node have by themselves in this step, source by source."""
    now, hour, t_out, bright = step.now, step.hour, step.around[0], step.bright
    record, given, refs, sun, radiant, convective = recorded.zones, rooms.given, rooms.refs, rooms.sun, rooms.radiant, rooms.convective
    path_a, path_b, joint = joints.a, joints.b, joints.through
    lit_, r_0_, a_0_ = rooms.room[3], rooms.room[4], rooms.room[5]
    for z in range(U(len(given))):
        leaked, supplied, opened = record[0, z, now], record[1, z, now], record[2, z, now]
        bridge, inertia, short = given[z, R.bridge], given[z, R.capacity] / dt, given[z, R.short]
        glass, first = 0.0, z * L
        nodes.lit[z], nodes.r_0[z], nodes.a_0[z] = 0.0, 0.0, inertia * nodes.air[z]
        for j in range(SIDES):
            through = sun[j, z, hour] * bright
            glass += short * through
            k = first + U(SUN + j)
            lit_[k] = short * through
            r_0_[k] += 0.5 * (1.0 - short) * through
            a_0_[k] += 0.5 * (1.0 - short) * through
        for j in range(3):
            r_0_[first + U(j)] += radiant[j, z, hour]
            a_0_[first + U(j)] += convective[j, z, hour]
        for f in range(2):
            over = t_out - refs[f, z]
            a_0_[first + lane_of(f, INFILTRATION)] += leaked * over
            a_0_[first + lane_of(f, VENTILATION)] += supplied * over + record[6, z, now]
            a_0_[first + lane_of(f, AIRING)] += opened * over
            a_0_[first + lane_of(f, BRIDGES)] += bridge * over
        sums.rr[z], sums.ra[z], sums.aa[z], sums.glass[z] = 0.0, 0.0, inertia + leaked + supplied + opened + bridge, glass
    for j in range(U(len(path_a))):
        through = joint[j, now]
        for mine, other in ((path_a[j], path_b[j]), (path_b[j], path_a[j])):
            sums.aa[mine] += through
            for f in range(2):
                apart = (refs[f, other] if together else record[4, other, now]) - refs[f, mine]
                a_0_[mine * L + lane_of(f, NEIGHBOURS)] += through * apart


@inner
def answer_all(chains, parts, rooms, lit, recorded, step, together, x, coefficients, given, surfaces, flows, nodes, sums):  # type: ignore[no-untyped-def]
    """Carry each element on by a step; how it answers to its zones, source by source, is kept and added to their sums."""
    at, fours, offset, shared, zone_in, zone_out = chains.at, chains.fours, chains.offset, parts.shared, parts.zone_in, parts.zone_out
    source, flip, lane, sun_row, refs, films, record = (
        parts.source, parts.flip, parts.lane, parts.sun_row, rooms.refs, recorded.films, recorded.zones,
    )  # fmt: skip
    shines, ground_k, now, hour, around, bright = lit.outside, lit.ground_k, step.now, step.hour, step.around, step.bright
    e_out_, r_0_, a_0_ = parts.room[5], rooms.room[4], rooms.room[5]
    for e in range(U(len(fours))):
        r_out, r_in = advance(coefficients, at[e], fours[e], x, offset[e], flows.flux_out[e], flows.flux_in[e])
        whole, z, zo, g = source[e], zone_in[e], zone_out[e], e * FIELDS
        c, own, far = whole * SHARED, (1 if flip[e] else 0), (0 if flip[e] else 1)
        area, hr, hr_far, hc, hc_far = (
            given[g + G.area],
            given[g + G.radiant_own],
            given[g + G.radiant_far],
            films[own, whole, now],
            films[far, whole, now],
        )
        between = shared[c + S.between] > 0.0
        shone = bright * shines[sun_row[e], hour]
        if shared[c + S.open] > 0.0:
            h_out, surrounds = outdoors(
                given[g + G.sees_sky], shared[c + S.wind], shared[c + S.still], shared[c + S.emissivity], around, shone
            )
        else:
            h_out, surrounds = beyond(
                given[g + G.ground_h], given[g + G.fixed_h], given[g + G.ground_swing], given[g + G.fixed_e], ground_k[hour], shone
            )
        h_out += hc_far + hr_far
        surfaces.hc_own[e], surfaces.hc_far[e], surfaces.h_out[e] = hc, hc_far, h_out
        share_far = given[g + G.share_far] if between and together else 0.0
        flows.s_in[e], flows.e_out[e] = given[g + G.share_own] * nodes.lit[z], share_far * nodes.lit[zo]
        for f in range(2):
            k = e * L + lane_of(f, NEIGHBOURS)
            if between and together:
                e_out_[k] += h_out * (refs[f, zo] - refs[f, z])
            elif between:
                around_it = hc_far * record[4, zo, now] + hr_far * record[5, zo, now] + given[g + G.share_far] * sums.glass[zo]
                e_out_[k] += around_it - h_out * refs[f, z]
            else:
                e_out_[e * L + lane_of(f, lane[e])] += surrounds - h_out * refs[f, z]
        b_in, b_out, cross, known_in, known_out = answers(
            given[g + G.g11], given[g + G.g12], given[g + G.g22], h_out, hc + hr, r_in, r_out, flows.s_in[e], flows.e_out[e]
        )
        surfaces.b_in[e], surfaces.b_out[e], surfaces.cross[e] = b_in, b_out, cross
        flows.known_in[e], flows.known_out[e] = known_in, known_out
        add(z, onto(area, hc, hr, b_in, known_in), nodes, sums)
        if between and together:
            add(zo, onto(area, hc_far, hr_far, b_out, known_out), nodes, sums)
            for f in range(2):
                k, apart = zo * L + lane_of(f, NEIGHBOURS), refs[f, z] - refs[f, zo]
                r_0_[k] += area * hr_far * apart
                a_0_[k] += area * hc_far * apart


@inner
def add(z, onto_zone, nodes, sums):  # type: ignore[no-untyped-def]
    """Add what a surface makes of them to its zone's sums."""
    rr, ra, aa, known_r, known_a = onto_zone
    sums.rr[z] += rr
    sums.ra[z] += ra
    sums.aa[z] += aa
    nodes.r_0[z] += known_r
    nodes.a_0[z] += known_a


@inner
def sweep_zones(rooms, joints, recorded, step, joined, sides, given, surfaces, nodes, sums):  # type: ignore[no-untyped-def]
    """Solve each zone once with its neighbours as they are, its plant doing what the record says; returns how far any moved, by source."""
    now, hour = step.now, step.hour
    at, side_element, side_other, side_within = sides
    zone_given, refs, setpoints, record = rooms.given, rooms.refs, rooms.setpoints, recorded.zones
    path_a, path_b, joint = joints.a, joints.b, joints.through
    air, star, load, load_, row_ = nodes.air, nodes.star, nodes.load, rooms.room[2], rooms.room[6]
    moves = 0.0
    for z in range(U(len(zone_given))):
        by_star, by_inside = nodes.r_0[z], nodes.a_0[z]
        for j in range(at[z], at[z + U(1)]):
            e, other = side_element[j], side_other[j]
            near, beyond, hr, hr_beyond = (
                surfaces.hc_own[e], surfaces.hc_far[e], given[e * FIELDS + G.radiant_own], given[e * FIELDS + G.radiant_far],
            )  # fmt: skip
            if not side_within[j]:
                near, beyond, hr, hr_beyond = beyond, near, hr_beyond, hr
            more = given[e * FIELDS + G.area] * surfaces.cross[e] * (beyond * air[other] + hr_beyond * star[other])
            by_star = by_star + hr * more
            by_inside = by_inside + near * more
        for j in range(joined):
            if path_a[j] == z or path_b[j] == z:
                by_inside = by_inside + joint[j, now] * air[path_b[j] if path_a[j] == z else path_a[j]]
        per_rr = 1.0 / sums.rr[z]
        slope = sums.ra[z] * per_rr
        stiff = sums.aa[z] - sums.ra[z] * slope
        total = record[3, z, now]
        limited = total >= zone_given[z, R.heat_most] if total > 0.0 else -total >= zone_given[z, R.cool_most]
        held = total != 0.0 and not limited
        by_air = zone_given[z, R.by_air]
        per_control = 1.0 / (by_air + (1.0 - by_air) * slope)
        felt = setpoints[0, z, hour] if total > 0.0 else setpoints[1, z, hour]
        base = by_star * per_rr
        push = by_inside + sums.ra[z] * base
        if held:
            new = -(1.0 - by_air) * per_control * base
            load[z] = stiff * new - push
        else:
            new = push / stiff
            load[z] = 0.0
        nodes.row[U(0)] = new
        for f in range(2):  # what plants do is the setpoints' or, at their limit, their own
            k = lane_of(f, SETPOINTS)
            if held:
                more_k = (felt - refs[f, z]) * per_control
                row_[k] += more_k
                load_[z * L + k] += stiff * more_k
            elif total != 0.0:
                row_[k] += total / stiff
                load_[z * L + k] = total
        new = nodes.row[U(0)]
        new_star = base + slope * new
        moves = max(moves, max(abs(new - air[z]), abs(new_star - star[z])))
        air[z], star[z] = new, new_star
    return moves


@inner
def finish_all(parts, together, given, surfaces, flows, nodes):  # type: ignore[no-untyped-def]
    """The fluxes into the ends of all elements with the zones as they are."""
    shared, source, zone_in, zone_out = parts.shared, parts.source, parts.zone_in, parts.zone_out
    for e in range(U(len(source))):
        z, zo, hr, hr_far = zone_in[e], zone_out[e], given[e * FIELDS + G.radiant_own], given[e * FIELDS + G.radiant_far]
        v_in = surfaces.hc_own[e] * nodes.air[z] + hr * nodes.star[z]
        t_in, t_out = flows.known_in[e] + surfaces.b_in[e] * v_in, flows.known_out[e] + surfaces.cross[e] * v_in
        passing = flows.e_out[e]
        if together and shared[source[e] * SHARED + S.between] > 0.0:
            v_out = surfaces.hc_far[e] * nodes.air[zo] + hr_far * nodes.star[zo]
            t_in = t_in + surfaces.cross[e] * v_out
            t_out = t_out + surfaces.b_out[e] * v_out
            passing = passing + v_out
        _, by_in, by_out = fluxes(t_in, t_out, v_in, flows.s_in[e], passing, surfaces.h_out[e], surfaces.hc_own[e] + hr)
        flows.flux_in[e], flows.flux_out[e] = by_in, by_out


@inner
def book(rooms, recorded, step, month, share, by_hour, at_hours, by_month):  # type: ignore[no-untyped-def]
    """Add the step to the building's hours, to the zones' months and to the hours of each that are asked about."""
    load_, asked, record, now, hour = rooms.room[2], rooms.hours, recorded.zones, step.now, step.hour
    for z in range(U(record.shape[1])):
        total = record[3, z, now]
        if total == 0.0:
            continue
        side = 0 if total > 0.0 else 1
        sign = share if total > 0.0 else -share
        for j in range(PARTS):
            part = sign * load_[z * L + U(j if j < COMMON else j + side * FAMILY)]
            by_hour[side, j, hour] += part
            by_month[z, side * PARTS + j, month] += part
            for h in (U(side), U(side + 2)):
                if asked[z * U(4) + h] == hour:
                    at_hours[z * U(4) + h, j] += part


def _run_parts(chains, parts, rooms, joints, weather, lit, recorded, steps):  # type: ignore[no-untyped-def]
    """Run every source through the year.

    A name that ends with an underline is a flat array; the same name without it gives its rows, all sources at once. All that
    has rows is the caller's, who holds it meanwhile.

    Returns
    -------
    by_hour : (2, PARTS, 8760) parts of heating and cooling of all zones together, W
    at : (4 Z, PARTS) parts of each zone's heating and cooling at its own four hours, W: heating, cooling, heating, cooling
    by_month : (Z, 2 * PARTS, 12) parts of each zone's heating and cooling, Wh
    """
    hours, substeps, run_in_h, together = 8760, steps.substeps, steps.run_in_h, steps.together
    count = len(rooms.given)
    dt, share = 3600.0 / substeps, 1.0 / substeps
    by_hour, at_hours, by_month = np.zeros((2, PARTS, hours)), np.zeros((4 * count, PARTS)), np.zeros((count, 2 * PARTS, 12))
    month_end = np.cumsum(np.array([31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31])) * 24
    start_of(chains, parts, rooms)
    of_zones, of_elements = rooms.room, parts.room
    nodes = Nodes(
        rows(of_zones[0], LANES), rows(of_zones[1], LANES), rows(of_zones[2], LANES), rows(of_zones[3], LANES), rows(of_zones[4], LANES),
        rows(of_zones[5], LANES), rows(of_zones[6], LANES),
    )  # fmt: skip
    flows = Fluxes(
        rows(of_elements[0], LANES), rows(of_elements[1], LANES), rows(of_elements[2], LANES), rows(of_elements[3], LANES),
        rows(of_elements[4], LANES), rows(of_elements[5], LANES),
    )  # fmt: skip
    x, coefficients = rows(chains.x, LANES), rows(chains.coefficients, 1)
    for_elements, for_zones = parts.alike, rooms.alike
    surfaces = Surfaces(
        rows(for_elements[0], 1), rows(for_elements[1], 1), rows(for_elements[2], 1), rows(for_elements[3], 1), rows(for_elements[4], 1),
        rows(for_elements[5], 1),
    )  # fmt: skip
    sums = Sums(rows(for_zones[0], 1), rows(for_zones[1], 1), rows(for_zones[2], 1), rows(for_zones[3], 1))
    given = rows(parts.given, 1)
    sides = couples(count, parts.zone_in, parts.zone_out, parts.zonal)
    joined = U(len(joints.a)) if together else U(0)
    alone = len(parts.zonal) == 0 and joined == U(0)  # nothing hangs on anything else

    for number in range(-run_in_h * substeps, hours * substeps):
        of_hour = number // substeps
        hour = U(of_hour if of_hour >= 0 else of_hour + hours)
        before = U((of_hour + hours - 1) % hours)
        part = (number % substeps + 1.0) / substeps
        t_out = weather.outdoor_c[before] + (weather.outdoor_c[hour] - weather.outdoor_c[before]) * part
        t_sky = weather.sky_c[before] + (weather.sky_c[hour] - weather.sky_c[before]) * part
        around = (t_out, t_sky, weather.wind_h[hour], 4.0 * SIGMA * (t_out + 273.15) ** 3, weather.sky_h[hour])
        step = Step(U(number + run_in_h * substeps), hour, around, weather.shape[hour, number % substeps])
        begin_zones(rooms, joints, recorded, step, together, dt, nodes, sums)
        answer_all(chains, parts, rooms, lit, recorded, step, together, x, coefficients, given, surfaces, flows, nodes, sums)
        moved, sweeps = 1.0, 0
        while moved > TOLERANCE_K and sweeps < MOST_SWEEPS:
            sweeps += 1
            moved = most_of(sweep_zones(rooms, joints, recorded, step, joined, sides, given, surfaces, nodes, sums))
            if alone:
                moved = 0.0
        finish_all(parts, together, given, surfaces, flows, nodes)
        if number >= 0:
            month = 0
            while hour >= U(month_end[month]):
                month += 1
            book(rooms, recorded, step, month, share, by_hour, at_hours, by_month)
    return by_hour, at_hours, by_month


run_parts = compiled(_run_parts, SIGNATURE, "run_parts", formulas, layout, vectors, tables)
"""The compiled kernel of parts."""
