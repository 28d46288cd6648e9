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

import numpy as np

from eurythm.thermal import elements as formulas
from eurythm.thermal import kernel as layout
from eurythm.thermal import lanes as vectors
from eurythm.thermal import tables
from eurythm.thermal.compiling import compiled
from eurythm.thermal.elements import FILM_REF, SIGMA, two_port
from eurythm.thermal.kernel import MODES, SHARED, S, advance
from eurythm.thermal.lanes import most_of, rows

SIDES, COMMON, FAMILY, LANES = 5, 8, 12, 32
PEOPLE, LIGHTING, EQUIPMENT, SUN = 0, 1, 2, 3
WALLS, ROOFS, FLOORS, WINDOWS, GROUND, BRIDGES, INFILTRATION, VENTILATION, AIRING, SETPOINTS, NEIGHBOURS, START = range(12)
"""Sources of a family; its lanes begin at COMMON for heating and at COMMON + FAMILY for cooling."""
PARTS = COMMON + FAMILY
TOLERANCE_K = 1e-9
MOST_SWEEPS = 2000
U = np.uint64

F1, F2, F3, I1, B1, R3 = "float64[::1]", "float64[:,::1]", "float64[:,:,::1]", "uint64[::1]", "boolean[::1]", "float32[:,:,::1]"
SIGNATURE = (
    f"Tuple(({F3},{F2},{F3}))("
    f"{F1},{F1},{F1},{F1},{F2},"  # coefficients, start, modes of 1 K, shared, elements
    f"{I1},{I1},{I1},{I1},{I1},{I1},{I1},{B1},{I1},"  # chain_at, fours, offset, zone_in, zone_out, sun_row, source, flip, lane
    f"{F2},{F2},{I1},{I1},"  # zones, refs, path_a, path_b
    f"{F1},{F1},{F1},{F1},{F2},"  # weather, shape
    f"{F2},{F1},{F3},{F3},{F3},{F3},"  # sun_outside, ground_k, sun by side, convective, radiant, setpoints
    f"{R3},{F3},{F2},{I1},"  # films, record, joints, hours
    f"{F1},{F2},{F2},"  # room to work in: modes, elements, zones
    "boolean,int64,int64)"
)
AREA, VIEW, GROUND_H, GROUND_SWING, FIXED_H, FIXED_E, SHARE_OWN, SHARE_FAR, HR_OWN, HR_FAR, G11, G12, G21, G22 = range(14)
CAPACITY, BRIDGE, BY_AIR, HEAT_MOST, COOL_MOST, SHORT = range(6)


def _run_parts(
    coefficients_, start, per_kelvin, shared, given, chain_at, fours, offset, zone_in, zone_out, sun_row, source, flip, lane,
    zone_given, refs, path_a, path_b, outdoor_c, wind_h, sky_h, sky_c, shape, sun_outside, ground_k, sun_by_side, convective, radiant,
    setpoints, films, record, joints, hours_at, x_, of_elements, of_zones, together, substeps, run_in_h,
):  # fmt: skip
    """Run every source through the year.

    A name that ends with an underline is a flat array; the same name without it gives its rows, all sources at once. All that
    has rows is the caller's, who holds it meanwhile: the modes `x_`, (6, E) of elements and (7, Z) of zones, zero to begin with.

    Returns
    -------
    by_hour : (2, PARTS, 8760) parts of heating and cooling of all zones together, W
    at : (Z * len(hours_at) / Z, PARTS) parts of each zone's heating and cooling at its own hours, W: hours_at holds
        four hours a zone, heating, cooling, heating, cooling
    by_month : (Z, 2 * PARTS, 12) parts of each zone's heating and cooling, Wh
    """
    L = U(LANES)
    elements, zones, joined = U(len(fours)), U(len(zone_given)), U(len(path_a))
    hours = 8760
    dt = 3600.0 / substeps
    share = 1.0 / substeps
    common, family = U(COMMON), U(FAMILY)
    by_hour = np.zeros((2, PARTS, hours))
    at_hours = np.zeros((len(hours_at), PARTS))
    by_month = np.zeros((len(zone_given), 2 * PARTS, 12))
    month_end = np.cumsum(np.array([31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31])) * 24

    air_, star_, load_, lit_, r_0_, a_0_, row_ = (
        of_zones[0], of_zones[1], of_zones[2], of_zones[3], of_zones[4], of_zones[5], of_zones[6],
    )  # fmt: skip
    for f in range(2):  # what an outer element holds at the start of the run-in is its own; the rest is a source by itself
        k = U(COMMON + f * FAMILY + START)
        for e in range(elements):
            mine = U(COMMON + f * FAMILY) + lane[e]
            for i in range(offset[e], offset[e] + fours[e] * MODES):
                x_[i * L + mine] = start[i] - per_kelvin[i] * refs[f, zone_in[e]]
        for z in range(zones):
            air_[z * L + k] = star_[z * L + k] = 20.0 - refs[f, z]
    surf_b_in, surf_c_in = np.empty(len(fours)), np.empty(len(fours))
    surf_b_out, surf_c_out = np.empty(len(fours)), np.empty(len(fours))
    hc_own, hc_far, film_out = np.empty(len(fours)), np.empty(len(fours)), np.empty(len(fours))
    x, air, star, load, row = rows(x_, LANES), rows(air_, LANES), rows(star_, LANES), rows(load_, LANES), rows(row_, LANES)
    lit, r_0, a_0 = rows(lit_, LANES), rows(r_0_, LANES), rows(a_0_, LANES)
    e_out_ = of_elements[5]
    known_in, known_out, flux_in = rows(of_elements[0], LANES), rows(of_elements[1], LANES), rows(of_elements[2], LANES)
    flux_out, s_in, e_out = rows(of_elements[3], LANES), rows(of_elements[4], LANES), rows(e_out_, LANES)
    coefficients = rows(coefficients_, 1)
    m_rr, m_ra, m_aa = np.empty(len(zone_given)), np.empty(len(zone_given)), np.empty(len(zone_given))
    through_glass = np.empty(len(zone_given))
    # where the sweeps find what couples a zone to others
    sides_of = np.zeros(len(zone_given) + 1, np.uint64)
    for e in range(elements):
        if together and shared[source[e] * SHARED + S.between] > 0.0:
            sides_of[zone_in[e] + U(1)] += U(1)
            sides_of[zone_out[e] + U(1)] += U(1)
    for z in range(zones):
        sides_of[z + U(1)] += sides_of[z]
    fill = sides_of.copy()
    side_element, side_within = np.empty(int(sides_of[zones]), np.uint64), np.empty(int(sides_of[zones]), np.bool_)
    for e in range(elements):
        if together and shared[source[e] * SHARED + S.between] > 0.0:
            for within in (True, False):
                mine = zone_in[e] if within else zone_out[e]
                side_element[fill[mine]], side_within[fill[mine]] = e, within
                fill[mine] += U(1)

    for step in range(-run_in_h * substeps, hours * substeps):
        count = step // substeps
        hour = U(count if count >= 0 else count + hours)
        before = U((count + hours - 1) % hours)
        part = (step % substeps + 1.0) / substeps
        now = U(step + run_in_h * substeps)
        t_out = outdoor_c[before] + (outdoor_c[hour] - outdoor_c[before]) * part
        t_sky = sky_c[before] + (sky_c[hour] - sky_c[before]) * part
        air_h = 4.0 * SIGMA * (t_out + 273.15) ** 3
        bright = shape[hour, step % substeps]

        for z in range(zones):
            leaked, supplied, opened = record[0, z, now], record[1, z, now], record[2, z, now]
            bridge, inertia, short = zone_given[z, BRIDGE], zone_given[z, CAPACITY] / dt, zone_given[z, SHORT]
            m_rr[z] = m_ra[z] = through_glass[z] = 0.0
            m_aa[z] = inertia + leaked + supplied + opened + bridge
            lit[z], r_0[z], a_0[z] = 0.0, 0.0, inertia * air[z]
            for j in range(SIDES):
                through = sun_by_side[j, z, hour] * bright
                through_glass[z] += short * through
                k = z * L + U(SUN + j)
                lit_[k] = short * through
                r_0_[k] += 0.5 * (1.0 - short) * through
                a_0_[k] += 0.5 * (1.0 - short) * through
            for j in range(3):
                r_0_[z * L + U(j)] += radiant[j, z, hour]
                a_0_[z * L + U(j)] += convective[j, z, hour]
            for f in range(2):
                first = z * L + common + U(f) * family
                over = t_out - refs[f, z]
                a_0_[first + U(INFILTRATION)] += leaked * over
                a_0_[first + U(VENTILATION)] += supplied * over + record[6, z, now]
                a_0_[first + U(AIRING)] += opened * over
                a_0_[first + U(BRIDGES)] += bridge * over
        for j in range(joined):
            through = joints[j, now]
            for mine, other in ((path_a[j], path_b[j]), (path_b[j], path_a[j])):
                m_aa[mine] += through
                for f in range(2):
                    apart = (refs[f, other] if together else record[4, other, now]) - refs[f, mine]
                    a_0_[mine * L + common + U(f) * family + U(NEIGHBOURS)] += through * apart

        for e in range(elements):
            row_out, row_in = advance(coefficients, chain_at[e], fours[e], x, offset[e], flux_out[e], flux_in[e])
            whole, z, zo = source[e], zone_in[e], zone_out[e]
            c = whole * SHARED
            hr, hr_out = given[e, HR_OWN], given[e, HR_FAR]
            own, far = (1, 0) if flip[e] else (0, 1)
            hc_own[e], hc_far[e] = films[own, whole, now], films[far, whole, now]
            wind = shared[c + S.wind] * wind_h[hour] + shared[c + S.still]
            view = given[e, VIEW]
            to_air = wind + (shared[c + S.emissivity] - view) * air_h
            h1 = to_air + view * sky_h[hour] + given[e, GROUND_H] + given[e, FIXED_H] + hc_far[e] + hr_out
            around = (
                to_air * t_out + view * sky_h[hour] * t_sky + given[e, GROUND_SWING] * ground_k[hour] + given[e, FIXED_E]
                + bright * sun_outside[sun_row[e], hour]
            )  # fmt: skip
            film_out[e] = h1
            g11, g12, g21, g22 = given[e, G11], given[e, G12], given[e, G21], given[e, G22]
            x1, x2 = h1 - FILM_REF, hc_own[e] + hr - FILM_REF
            in_by_out, b_in, c_in, out_by_out, b_out, c_out = two_port(g11, g12, g21, g22, x1, x2, 1.0, 0.0)
            in_by_in, _, _, out_by_in, _, _ = two_port(g11, g12, g21, g22, x1, x2, 0.0, 1.0)
            surf_b_in[e], surf_c_in[e], surf_b_out[e], surf_c_out[e] = b_in, c_in, b_out, c_out
            first = e * L
            between = shared[c + S.between] > 0.0
            share_own, share_far = given[e, SHARE_OWN], given[e, SHARE_FAR] if between and together else 0.0
            s_in[e], e_out[e] = share_own * lit[z], share_far * lit[zo]
            for f in range(2):
                at = first + common + U(f) * family
                if between and together:
                    e_out_[at + U(NEIGHBOURS)] += h1 * (refs[f, zo] - refs[f, z])
                elif between:
                    beyond = hc_far[e] * record[4, zo, now] + hr_out * record[5, zo, now] + given[e, SHARE_FAR] * through_glass[zo]
                    e_out_[at + U(NEIGHBOURS)] += beyond - h1 * refs[f, z]
                else:
                    e_out_[at + lane[e]] += around - h1 * refs[f, z]
            known_in[e] = in_by_out * row_out + in_by_in * row_in + b_in * s_in[e] + c_in * e_out[e]
            known_out[e] = out_by_out * row_out + out_by_in * row_in + b_out * e_out[e] + c_out * s_in[e]
            by_air, by_star = given[e, AREA] * hc_own[e], given[e, AREA] * hr
            m_rr[z] += by_star * (1.0 - b_in * hr)
            m_ra[z] += by_star * b_in * hc_own[e]
            m_aa[z] += by_air * (1.0 - b_in * hc_own[e])
            r_0[z] += by_star * known_in[e]
            a_0[z] += by_air * known_in[e]
            if between and together:
                by_air, by_star = given[e, AREA] * hc_far[e], given[e, AREA] * hr_out
                m_rr[zo] += by_star * (1.0 - b_out * hr_out)
                m_ra[zo] += by_star * b_out * hc_far[e]
                m_aa[zo] += by_air * (1.0 - b_out * hc_far[e])
                r_0[zo] += by_star * known_out[e]
                a_0[zo] += by_air * known_out[e]
                for f in range(2):
                    at = zo * L + common + U(f) * family + U(NEIGHBOURS)
                    apart = refs[f, z] - refs[f, zo]
                    r_0_[at] += by_star * apart
                    a_0_[at] += by_air * apart

        moved, sweep = 1.0, 0
        while moved > TOLERANCE_K and sweep < MOST_SWEEPS:
            sweep += 1
            moves = 0.0
            for z in range(zones):
                by_star, by_inside = r_0[z], a_0[z]
                for j in range(sides_of[z], sides_of[z + U(1)]):
                    e = side_element[j]
                    if side_within[j]:
                        other, near, beyond, cross_by = zone_out[e], hc_own[e], hc_far[e], surf_c_in[e]
                        hr, hr_beyond = given[e, HR_OWN], given[e, HR_FAR]
                    else:
                        other, near, beyond, cross_by = zone_in[e], hc_far[e], hc_own[e], surf_c_out[e]
                        hr, hr_beyond = given[e, HR_FAR], given[e, HR_OWN]
                    add = given[e, AREA] * cross_by * (beyond * air[other] + hr_beyond * star[other])
                    by_star = by_star + hr * add
                    by_inside = by_inside + near * add
                if together:
                    for j in range(joined):
                        if path_a[j] == z or path_b[j] == z:
                            by_inside = by_inside + joints[j, now] * air[path_b[j] if path_a[j] == z else path_a[j]]
                per_rr = 1.0 / m_rr[z]
                slope = m_ra[z] * per_rr
                stiff = m_aa[z] - m_ra[z] * slope
                total = record[3, z, now]
                limited = total >= zone_given[z, HEAT_MOST] if total > 0.0 else -total >= zone_given[z, COOL_MOST]
                held = total != 0.0 and not limited
                by_air = zone_given[z, BY_AIR]
                per_control = 1.0 / (by_air + (1.0 - by_air) * slope)
                felt = setpoints[0, z, hour] if total > 0.0 else setpoints[1, z, hour]
                base = by_star * per_rr
                push = by_inside + m_ra[z] * base
                if held:
                    new = -(1.0 - by_air) * per_control * base
                    load[z] = stiff * new - push
                else:
                    new = push / stiff
                    load[z] = 0.0
                row[U(0)] = new
                for f in range(2):  # what plants do is the setpoints' or, at their limit, their own
                    k = common + U(f) * family + U(SETPOINTS)
                    if held:
                        more = (felt - refs[f, z]) * per_control
                        row_[k] += more
                        load_[z * L + k] += stiff * more
                    elif total != 0.0:
                        row_[k] += total / stiff
                        load_[z * L + k] = total
                new = row[U(0)]
                new_star = base + slope * new
                moves = max(moves, max(abs(new - air[z]), abs(new_star - star[z])))
                air[z], star[z] = new, new_star
            moved = most_of(moves)
            if sides_of[zones] == U(0) and not (together and joined > U(0)):
                moved = 0.0  # nothing hangs on anything else

        for e in range(elements):
            z, zo = zone_in[e], zone_out[e]
            hr, hr_out = given[e, HR_OWN], given[e, HR_FAR]
            v_in = hc_own[e] * air[z] + hr * star[z]
            t_in, t_outer, passing = known_in[e] + surf_b_in[e] * v_in, known_out[e] + surf_c_out[e] * v_in, e_out[e]
            if together and shared[source[e] * SHARED + S.between] > 0.0:
                v_out = hc_far[e] * air[zo] + hr_out * star[zo]
                t_in = t_in + surf_c_in[e] * v_out
                t_outer = t_outer + surf_b_out[e] * v_out
                passing = passing + v_out
            flux_out[e] = passing - (film_out[e] - FILM_REF) * t_outer
            flux_in[e] = s_in[e] + v_in - (hc_own[e] + hr - FILM_REF) * t_in

        if step >= 0:
            month = 0
            while hour >= U(month_end[month]):
                month += 1
            for z in range(zones):
                total = record[3, z, now]
                if total == 0.0:
                    continue
                side = 0 if total > 0.0 else 1
                sign = share if total > 0.0 else -share
                for j in range(PARTS):
                    k = z * L + U(j if j < COMMON else j + side * FAMILY)
                    by_hour[side, j, hour] += sign * load_[k]
                    by_month[z, side * PARTS + j, month] += sign * load_[k]
                for j in range(4):
                    if j % 2 == side and hours_at[z * U(4) + U(j)] == hour:
                        for m in range(PARTS):
                            k = z * L + U(m if m < COMMON else m + side * FAMILY)
                            at_hours[z * U(4) + U(j), m] += sign * load_[k]
    return by_hour, at_hours, by_month


run_parts = compiled(_run_parts, SIGNATURE, "run_parts", formulas, layout, vectors, tables)
"""The compiled kernel of parts."""
