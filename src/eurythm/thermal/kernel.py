"""The compiled heat balance: all zones of a case, a year, step by step, for one case or for many side by side.

One source, compiled for several numbers of *lanes*: one lane is a case alone, which keeps what happened by the hour; with
more lanes the cases stand side by side as innermost axis (`thermal.lanes`), and nothing is kept but what a table of cases needs.
All cases of a batch have the same elements and zones and differ in areas, views, layers, radiation, gains and
setpoints; elements whose layers are alike in all of them read one set of coefficients.

Each element is a chain of nodes from its outer to its inner surface, implicit in time, with a constant reference film at
both ends; it is carried by its modes (`chains.modes_of`), two at a time. A step of it gives its surfaces' own temperatures r,
after which the two surface temperatures follow from the real films of the step in closed form (`elements.two_port`):

    T1 = r1 + G11 q1 + G12 q2,   T2 = r2 + G12 q1 + G22 q2,   q = E - (h - h_ref) T

with E the film-weighted surroundings plus absorbed radiation. Zones are a star: one air and one radiant node.

Inside films follow the direction of the heat flow: a step is solved with those of the last step, and again where its own temperatures ask
for other ones (`elements.corrected`).

Each element is met once a step: its last step is finished with the zones as they are now, and the next one begun. So balances are
booked one step late, and a pass at the end closes them.

Every array is flat: field ``f`` of thing ``i`` in lane ``k`` stands at ``(i * FIELDS + f) * L + k``, which is lane ``k`` of row
``i * FIELDS + f``. `thermal.layout` makes the arrays, also those for work in between. The method stands in docs/method.md.
"""

from __future__ import annotations

import numpy as np
from numba import njit

from eurythm.thermal import elements as formulas
from eurythm.thermal import lanes as vectors
from eurythm.thermal.compiling import compiled
from eurythm.thermal.elements import (
    AIR_HEAT,
    BAND_K,
    EVAPORATION,
    FILM_REF,
    SIGMA,
    coil_flow,
    corrected,
    cracks,
    enlarged,
    exchanged,
    film,
    let_in,
    load_of,
    recovered,
    saturated,
    shut_by,
    surely_free,
    windows,
)  # fmt: skip
from eurythm.thermal.lanes import above, most_of, rows

LANES = (1, 8, 16)
PER_BAND = 1.0 / BAND_K
TOLERANCE_K = 1e-5
MOST_SWEEPS = 400
FEW_SWEEPS, MANY_ZONES, SOON = 50, 100, 5
"""After so many sweeps the zones that still move are solved together, since some hang on each other more than on outside; up to so
many zones as soon as that, since then it costs little."""
MOST_FILMS = 3
"""How often a step is solved at most with films of its own temperatures."""
U = np.uint64

MODES = U(4)
"""Modes come in fours; what is missing to a whole four is nothing."""
MODE = U(3)
"""Of each mode: decay, by the outer and by the inner flux."""
BLOCK = U(24)
"""Hours of radiation that are brought in at once: whole lines of memory of each lane and row."""
# what an element has in all lanes alike
BETWEEN, LOW, SPAN, SIGN, LOW_OUT, SPAN_OUT, SIGN_OUT, WIND, STILL, EMISSIVITY = (U(i) for i in range(10))
SHARED = U(10)
# what it has in each lane: given, then state
(
    AREA, VIEW, GROUND_H, GROUND_SWING, FIXED_H, FIXED_E, SHARE_IN, SHARE_OUT, HR_IN, HR_OUT, G11, G12, G22, SURF_IN, SURF_OUT,
    HC_IN, HC_OUT, H1, E_OUT, S_IN, OWN_IN, OWN_OUT, B_IN, B_OUT, CROSS, KNOWN_IN, KNOWN_OUT, FLUX_IN, FLUX_OUT,
) = (U(i) for i in range(29))  # fmt: skip
FIELDS = U(29)
# zones in each lane: given, then this hour's, then state and sums
(
    CAPACITY, BRIDGE, RECOVERY, ECONOMY, FAN_K, LEAK_WIND, LEAK_STACK, OPEN_WIND, OPEN_STACK, MIXED, HEAT_MOST, COOL_MOST, BY_AIR, SHORT,
    VAPOUR_MASS, DRIEST, WETTEST, COIL_C, COIL_VAPOUR, WARM_C, WARM_ADAPTS, COLD_C,
    CONVECTIVE, RADIANT, FRESH, HEAT, COOL, BYPASS, OCCUPIED, LEAK, OPEN_C, MOISTURE,
    SUN, WARMED, SHONE, FLOW, LEAKED, SUPPLY, SUPPLIED_WK, POTENTIAL, MOST_OPEN, OPENED, KNOWN_RR, KNOWN_RA, KNOWN_AA, KNOWN_R, KNOWN_A, M_RR, M_RA, M_AA, R_0, A_0,
    PER_RR, SLOPE, STIFF, PER_STIFF, PER_CONTROL, CLOSED_C, HIGH_C,
    AIR, STAR, SHUT, VAPOUR, LOAD, OPERATIVE, WARM_H, COLD_H, BALANCE, THROUGHPUT, STORED,
) = (U(i) for i in range(70))  # fmt: skip
ZONE_FIELDS = U(70)
ASKED = U(10)
"""Hourly series of use by zone, from `CONVECTIVE` on."""
# what the building does by the hour, W, and W/K for the supply of outdoor air
HEATING, COOLING, SUPPLIED, COILED, DRIED, WETTED = (U(i) for i in range(6))
BUILDING = U(6)
KEPT = ("air_c", "operative_c", "heating_w", "cooling_w", "leak_wk", "supply_wk", "open_wk", "vapour_kg_kg")
"""What one lane alone keeps of each zone by the hour."""

RECORDED = ("leaked_wk", "supplied_wk", "opened_wk", "load_w", "air_c", "star_c", "fan_w")
"""What one lane alone can record of each zone and step, so that `thermal.parts` can take the result apart."""

F1, F2, F3, I1, B1, R3 = "float64[::1]", "float64[:,::1]", "float64[:,:,::1]", "uint64[::1]", "boolean[::1]", "float32[:,:,::1]"
SIGNATURE = (
    f"int64("
    f"{F1},{F1},{F1},{F1},{F1},{F1},{F1},"  # coefficients alike and apart, modes, shared, elements, zones, what modes hold
    f"{B1},{I1},{I1},{I1},{I1},{I1},{I1},{I1},"  # own, chain_at, fours, offset, zone_in, zone_out, zonal, sun_row
    f"{I1},{I1},{F1},"  # air paths
    f"{F1},{F1},{F1},{F1},{F1},{F1},{F1},{F1},{F2},"  # weather, shape
    f"{F3},{F3},{I1},{F1},{F3},{R3},{F3},{F2},"  # lit, asked, which, scales, kept, record
    f"{F1},{F1},"  # the building by the hour, room to work in
    "boolean,boolean,int64,int64)"
)


def room_for(lit_rows: int, sides: int, paths: int, lanes: int) -> int:
    """Return how many doubles the kernel needs to work in."""
    return lanes * (int(BLOCK) * lit_rows + 4 * sides + paths + 1)


@njit(error_model="numpy", nogil=True)
def advance(c, n, fours, x, i, by_out, by_in):  # type: ignore[no-untyped-def]
    """Carry the modes of an element on by a step; returns its surfaces' own temperatures, outer and inner."""
    r_out, r_in, also_out, also_in = 0.0, 0.0, 0.0, 0.0
    one, two = U(1), U(2)
    for _ in range(fours * two):
        d0, o0, i0 = c[n], c[n + one], c[n + two]
        d1, o1, i1 = c[n + U(3)], c[n + U(4)], c[n + U(5)]
        y0 = d0 * x[i] + o0 * by_out + i0 * by_in
        y1 = d1 * x[i + one] + o1 * by_out + i1 * by_in
        r_out, r_in, also_out, also_in = r_out + o0 * y0, r_in + i0 * y0, also_out + o1 * y1, also_in + i1 * y1
        x[i], x[i + one] = y0, y1
        n += U(6)
        i += two
    return r_out + also_out, r_in + also_in


@njit(error_model="numpy", nogil=True)
def holding(c, n, fours, x, i, holds, by_out, by_in):  # type: ignore[no-untyped-def]
    """What the modes of an element hold after a step that is not carried out yet, J/m²."""
    total = 0.0
    for _ in range(fours * MODES):
        total = total + holds[i] * (c[n] * x[i] + c[n + U(1)] * by_out + c[n + U(2)] * by_in)
        n += MODE
        i += U(1)
    return total


@njit(error_model="numpy", nogil=True)
def finish(b, mine, other, between, weight, p, q):  # type: ignore[no-untyped-def]
    """Book what passed through an element with the zones as they are; returns its surfaces' temperatures and fluxes, inner first."""
    area, hc_in, hr_in, s_in, e_out, h1 = p[b + AREA], p[b + HC_IN], p[b + HR_IN], p[b + S_IN], p[b + E_OUT], p[b + H1]
    cross, passing = p[b + CROSS], e_out
    v_in = hc_in * q[mine + AIR] + hr_in * q[mine + STAR]
    t_in = p[b + KNOWN_IN] + p[b + B_IN] * v_in
    t_out = p[b + KNOWN_OUT] + cross * v_in
    if between:
        v_out = p[b + HC_OUT] * q[other + AIR] + p[b + HR_OUT] * q[other + STAR]
        t_in = t_in + cross * v_out
        t_out = t_out + p[b + B_OUT] * v_out
        passing = e_out + v_out
    enters, by = passing - h1 * t_out, area * weight
    q[mine + BALANCE] += by * (enters + s_in)
    q[mine + THROUGHPUT] += by * (abs(enters) + s_in)
    if between:
        q[other + BALANCE] -= by * (enters - e_out)
        q[other + THROUGHPUT] += by * abs(enters)
    return t_in, t_out, s_in + v_in - (hc_in + hr_in - FILM_REF) * t_in, enters + FILM_REF * t_out


@njit(error_model="numpy", nogil=True)
def finish_all(weight, shared, zone_in, zone_out, p, q):  # type: ignore[no-untyped-def]
    """Finish the last step of all elements."""
    for e in range(U(len(zone_in))):
        b, mine, other = e * FIELDS, zone_in[e] * ZONE_FIELDS, zone_out[e] * ZONE_FIELDS
        t_in, t_out, by_in, by_out = finish(b, mine, other, shared[e * SHARED + BETWEEN] > 0.0, weight, p, q)
        p[b + SURF_IN], p[b + SURF_OUT], p[b + FLUX_IN], p[b + FLUX_OUT] = t_in, t_out, by_in, by_out


@njit(error_model="numpy", nogil=True)
def answer(b, c, mine, other, between, r_in, r_out, around, lit, swing, shared, p, q):  # type: ignore[no-untyped-def]
    """How an element answers to its zones in this step (`elements.two_port`), kept and added to their sums.

    `r_in` and `r_out` are its surfaces' own temperatures; `around` the air's and the sky's temperature and films, `lit` the sun it
    absorbs outside, W/m², and `swing` the ground's.
    """
    area, hc_in, hr_in, hc_out, s_in = p[b + AREA], p[b + HC_IN], p[b + HR_IN], p[b + HC_OUT], p[b + SHARE_IN] * q[mine + SUN]
    if between:
        h1, e_out = hc_out + p[b + HR_OUT], p[b + SHARE_OUT] * q[other + SUN]
    else:  # films outside together, W/m²K, and the surroundings weighted by them with what is absorbed, W/m²
        t_out, t_sky, wind_h, air_h, sky_h = around
        view = p[b + VIEW]
        to_air, to_sky = shared[c + WIND] * wind_h + shared[c + STILL] + (shared[c + EMISSIVITY] - view) * air_h, view * sky_h
        h1 = to_air + to_sky + p[b + GROUND_H] + p[b + FIXED_H]
        e_out = to_air * t_out + to_sky * t_sky + p[b + GROUND_SWING] * swing + p[b + FIXED_E] + lit
    g11, g12, g22 = p[b + G11], p[b + G12], p[b + G22]
    x1, x2, cross_g = h1 - FILM_REF, hc_in + (hr_in - FILM_REF), g12 * g12
    d11, d22 = 1.0 + g11 * x1, 1.0 + g22 * x2
    det = 1.0 / (d11 * d22 - cross_g * x1 * x2)
    b_in, b_out, cross = (d11 * g22 - cross_g * x1) * det, (d22 * g11 - cross_g * x2) * det, g12 * det
    known_in = (d11 * r_in - g12 * x1 * r_out) * det + b_in * s_in + cross * e_out
    known_out = (d22 * r_out - g12 * x2 * r_in) * det + b_out * e_out + cross * s_in
    p[b + H1], p[b + E_OUT], p[b + S_IN] = h1, e_out, s_in
    p[b + B_IN], p[b + B_OUT], p[b + CROSS], p[b + KNOWN_IN], p[b + KNOWN_OUT] = b_in, b_out, cross, known_in, known_out
    by_air, by_star = area * hc_in, area * hr_in
    q[mine + M_RR] += by_star * (1.0 - b_in * hr_in)
    q[mine + M_RA] += by_star * b_in * hc_in
    q[mine + M_AA] += by_air * (1.0 - b_in * hc_in)
    q[mine + R_0] += by_star * known_in
    q[mine + A_0] += by_air * known_in
    if between:  # only elements between zones have a radiant film outside
        hr_out = p[b + HR_OUT]
        by_air, by_star = area * hc_out, area * hr_out
        q[other + M_RR] += by_star * (1.0 - b_out * hr_out)
        q[other + M_RA] += by_star * b_out * hc_out
        q[other + M_AA] += by_air * (1.0 - b_out * hc_out)
        q[other + R_0] += by_star * known_out
        q[other + A_0] += by_air * known_out


@njit(error_model="numpy", nogil=True)
def solve_together(k, L, q, at, side_other, coupling, path_at, end_path, end_other, through_path, t_out):  # type: ignore[no-untyped-def]
    """Solve air and star of all zones of one lane in one dense system, every plant and window doing what it does now.

    Zones that are held, or whose windows stand ajar, are prescribed; the sweeps that follow find whether that still holds.
    """
    zones = U(len(at) - 1)
    matrix, right = np.zeros((2 * int(zones), 2 * int(zones))), np.zeros(2 * int(zones))
    for z in range(zones):
        a, star = z * ZONE_FIELDS * L + k, zones + z
        load, opened, by_air = q[a + LOAD * L], q[a + OPENED * L], q[a + BY_AIR * L]
        matrix[star, star], matrix[star, z], right[star] = q[a + M_RR * L], -q[a + M_RA * L], q[a + R_0 * L]
        ajar = load == 0.0 and opened > 0.0 and opened < q[a + MOST_OPEN * L]
        held = ajar or (load > 0.0 and load < q[a + HEAT_MOST * L]) or (load < 0.0 and -load < q[a + COOL_MOST * L])
        if held:
            matrix[z, z], matrix[z, star] = by_air, 1.0 - by_air
            right[z] = q[a + OPEN_C * L] if ajar else q[a + HEAT * L] if load > 0.0 else q[a + COOL * L]
        else:
            matrix[z, z], matrix[z, star] = q[a + M_AA * L] + opened, -q[a + M_RA * L]
            right[z] = q[a + A_0 * L] + opened * t_out + load
        for j in range(at[z], at[z + U(1)]):
            other, s = side_other[j], j * U(4) * L + k
            for row, by in ((star, coupling[s + U(2) * L]), (z, 0.0 if held else coupling[s + U(3) * L])):
                matrix[row, other] -= by * coupling[s]
                matrix[row, zones + other] -= by * coupling[s + L]
        if not held:
            for j in range(path_at[z], path_at[z + U(1)]):
                matrix[z, end_other[j]] -= through_path[end_path[j] * L + k]
    found = np.linalg.solve(matrix, right)
    for z in range(zones):
        a = z * ZONE_FIELDS * L + k
        q[a + AIR * L], q[a + STAR * L] = found[z], found[zones + z]


@njit(error_model="numpy", nogil=True)
def store(sign, alike, apart, x, p, q, holds, own, chain_at, fours, offset, zone_in):  # type: ignore[no-untyped-def]
    """Add what all elements and the air of all zones hold to their zones' stores; modes stand one step back, their last fluxes beside them."""
    for e in range(U(len(fours))):
        b = e * FIELDS
        if own[e]:
            held = holding(apart, chain_at[e], fours[e], x, offset[e], holds, p[b + FLUX_OUT], p[b + FLUX_IN])
        else:
            held = holding(alike, chain_at[e], fours[e], x, offset[e], holds, p[b + FLUX_OUT], p[b + FLUX_IN])
        q[zone_in[e] * ZONE_FIELDS + STORED] += sign * p[b + AREA] * held


def make(lanes: int):  # type: ignore[no-untyped-def]
    """Compile the kernel for a number of lanes, which the compiler then knows; under a name of its own, which its cache goes by."""
    L = U(lanes)

    def run(
        alike_, apart_, x_, shared_, p_, q_, holds_, own, chain_at, fours, offset, zone_in, zone_out, zonal, sun_row,
        path_a, path_b, paths_, outdoor_c, wind_h, wind_squared, sky_h, sky_c, vapour_out, pressure_pa, adaptive_c, shape,
        lit, asked, which, scales_, kept, films, record, joints, building_, room, opens, moist, substeps, run_in_h,
    ):  # fmt: skip
        """Run the year after a run-in over its last hours; states and sums are left in `p_` and `q_`, the building in `building_`.

        A name that ends with an underline is a flat array; the same name without it gives its rows.

        Returns
        -------
        most : most sweeps over the zones that any step needed
        """
        one, two, three, four = U(1), U(2), U(3), U(4)
        elements, zones, joined = U(len(fours)), U(len(q_)) // (ZONE_FIELDS * L), U(len(path_a))
        hours = 8760
        dt = 3600.0 / substeps
        share, per_dt = 1.0 / substeps, 1.0 / dt
        keeps, records = kept.shape[1] > 0, record.shape[1] > 0
        lit_rows = U(lit.shape[1])
        sun_rows = lit_rows - zones - one
        # element sides that couple a zone to another: number at[z] to at[z + 1] - 1; ends of air paths likewise
        at = np.zeros(int(zones) + 1, np.uint64)
        path_at = np.zeros(len(at), np.uint64)
        for j in range(len(zonal)):
            at[zone_in[zonal[j]] + one] += one
            at[zone_out[zonal[j]] + one] += one
        for j in range(joined):
            path_at[path_a[j] + one] += one
            path_at[path_b[j] + one] += one
        for z in range(zones):
            at[z + one] += at[z]
            path_at[z + one] += path_at[z]
        fill, path_fill = at.copy(), path_at.copy()
        sides = U(2 * len(zonal))
        side_element, side_other = np.empty(2 * len(zonal), np.uint64), np.empty(2 * len(zonal), np.uint64)
        side_within = np.empty(2 * len(zonal), np.bool_)
        for j in range(len(zonal)):
            e = zonal[j]
            for within in (True, False):
                mine, other = (zone_in[e], zone_out[e]) if within else (zone_out[e], zone_in[e])
                side_element[fill[mine]] = e
                side_other[fill[mine]] = other
                side_within[fill[mine]] = within
                fill[mine] += one
        end_path, end_other = np.empty(2 * len(path_a), np.uint64), np.empty(2 * len(path_a), np.uint64)
        for j in range(joined):
            for mine, other in ((path_a[j], path_b[j]), (path_b[j], path_a[j])):
                end_path[path_fill[mine]] = j
                end_other[path_fill[mine]] = other
                path_fill[mine] += one
        # room to work in: radiation of a day; of each side by other's air, by other's star, own hr, own hc; air paths; moves
        first, second, third = int(BLOCK * lit_rows * L), int(four * sides * L), int(joined * L)
        block_, coupling_ = room[:first], room[first : first + second]
        through_, moved_ = room[first + second : first + second + third], room[first + second + third :]
        x, p, q, holds, apart = rows(x_, lanes), rows(p_, lanes), rows(q_, lanes), rows(holds_, lanes), rows(apart_, lanes)
        alike, shared = rows(alike_, 1), rows(shared_, 1)
        paths, scales, building, block = rows(paths_, lanes), rows(scales_, lanes), rows(building_, lanes), rows(block_, lanes)
        coupling, through_path, moved_by = rows(coupling_, lanes), rows(through_, lanes), rows(moved_, lanes)
        one_set = True
        for k in range(L):
            one_set &= which[k] == which[0]
        most, sweep = 0, 0
        few = SOON if zones <= U(MANY_ZONES) else FEW_SWEEPS
        field = U(hours)
        first_step = -run_in_h * substeps

        for step in range(first_step, hours * substeps):
            count = step // substeps
            hour = U(count if count >= 0 else count + hours)
            before = U((count + hours - 1) % hours)
            part = (step % substeps + 1.0) / substeps
            t_out = outdoor_c[before] + (outdoor_c[hour] - outdoor_c[before]) * part
            t_sky = sky_c[before] + (sky_c[hour] - sky_c[before]) * part
            around = (t_out, t_sky, wind_h[hour], 4.0 * SIGMA * (t_out + 273.15) ** 3, sky_h[hour])
            gusts, damp, pressure = wind_squared[hour], vapour_out[hour], pressure_pa[hour]
            counted = step >= 0
            under_way = step > first_step and step != 0
            weight = dt if step > 0 else 0.0
            if step == 0:
                if run_in_h > 0:
                    finish_all(0.0, shared, zone_in, zone_out, p, q)
                store(-1.0, alike, apart, x, p, q, holds, own, chain_at, fours, offset, zone_in)
                for z in range(zones):
                    a = z * ZONE_FIELDS
                    q[a + STORED] -= q[a + CAPACITY] * q[a + AIR]
            if step % substeps == 0:
                if hour % BLOCK == 0:
                    for k in range(L):
                        for r in range(lit_rows):
                            for h in range(BLOCK):
                                block_[(h * lit_rows + r) * L + k] = lit[k, r, hour + h]
                for z in range(zones):
                    for f in range(ASKED):
                        if one_set:
                            q[z * ZONE_FIELDS + CONVECTIVE + f] = scales[z * ASKED + f] * asked[which[0], hour, f * zones + z]
                        else:
                            for k in range(L):
                                by = scales_[(z * ASKED + f) * L + k]
                                q_[(z * ZONE_FIELDS + CONVECTIVE + f) * L + k] = asked[which[k], hour, f * zones + z] * by
            sun = (hour % BLOCK) * lit_rows
            swing = sun + lit_rows - one
            bright = shape[hour, step % substeps]
            for z in range(zones):
                a = z * ZONE_FIELDS
                through = block[sun + sun_rows + z] * bright
                inward = 0.5 * (1.0 - q[a + SHORT]) * through
                air = q[a + AIR]
                leaked = q[a + LEAK] + cracks(q[a + LEAK_WIND], q[a + LEAK_STACK], gusts, abs(air - t_out))
                supply = q[a + FRESH] * enlarged(q[a + ECONOMY], q[a + COOL], air, t_out)
                supplied = supply * (1.0 - q[a + RECOVERY] * recovered(q[a + BYPASS], air, t_out))
                flow = leaked + supplied + q[a + BRIDGE]
                inertia = q[a + CAPACITY] * per_dt
                warmed, shone = q[a + CONVECTIVE] + inward + supply * q[a + FAN_K], q[a + RADIANT] + inward
                q[a + SUN], q[a + WARMED], q[a + SHONE] = through * q[a + SHORT], warmed, shone
                q[a + LEAKED], q[a + SUPPLY], q[a + SUPPLIED_WK], q[a + FLOW] = leaked, supply, supplied, flow
                q[a + M_RR], q[a + M_RA], q[a + M_AA] = 0.0, 0.0, inertia + flow
                q[a + R_0], q[a + A_0] = shone, inertia * air + flow * t_out + warmed
                if opens:
                    apart_k = air - t_out
                    widest = windows(q[a + OPEN_WIND], q[a + OPEN_STACK], gusts, abs(apart_k)) * min(max(apart_k, 0.0), 1.0)
                    q[a + POTENTIAL] = widest
                    q[a + MOST_OPEN] = widest * (1.0 - q[a + SHUT] * (1.0 - q[a + MIXED]))
            for j in range(joined):
                mine, other = path_a[j] * ZONE_FIELDS, path_b[j] * ZONE_FIELDS
                through = exchanged(paths[j * two], paths[j * two + one], abs(q[mine + AIR] - q[other + AIR]))
                through_path[j] = through
                q[mine + M_AA] += through
                q[other + M_AA] += through

            # each element: its last step is finished, its next begun; what films decide on waits for them
            for e in range(elements):
                c, b, mine, other = e * SHARED, e * FIELDS, zone_in[e] * ZONE_FIELDS, zone_out[e] * ZONE_FIELDS
                between = shared[c + BETWEEN] > 0.0
                if under_way:
                    t_in, t_outer, by_in, by_out = finish(b, mine, other, between, weight, p, q)
                else:
                    t_in, t_outer, by_in, by_out = p[b + SURF_IN], p[b + SURF_OUT], p[b + FLUX_IN], p[b + FLUX_OUT]
                if own[e]:
                    r_out, r_in = advance(apart, chain_at[e], fours[e], x, offset[e], by_out, by_in)
                else:
                    r_out, r_in = advance(alike, chain_at[e], fours[e], x, offset[e], by_out, by_in)
                if shared[c + SPAN] + shared[c + SPAN_OUT] > 0.0:
                    p[b + OWN_OUT], p[b + OWN_IN], p[b + SURF_IN], p[b + SURF_OUT] = r_out, r_in, t_in, t_outer
                    continue
                answer(b, c, mine, other, between, r_in, r_out, around, bright * block[sun + sun_row[e]], block[swing], shared, p, q)
            for z in range(zones):
                a = z * ZONE_FIELDS
                q[a + KNOWN_RR], q[a + KNOWN_RA], q[a + KNOWN_AA] = q[a + M_RR], q[a + M_RA], q[a + M_AA]
                q[a + KNOWN_R], q[a + KNOWN_A] = q[a + R_0], q[a + A_0]

            sweep = 0
            for solved in range(MOST_FILMS):
                if solved > 0:
                    for z in range(zones):
                        a = z * ZONE_FIELDS
                        q[a + M_RR], q[a + M_RA], q[a + M_AA] = q[a + KNOWN_RR], q[a + KNOWN_RA], q[a + KNOWN_AA]
                        q[a + R_0], q[a + A_0] = q[a + KNOWN_R], q[a + KNOWN_A]
                for e in range(elements):
                    c, b = e * SHARED, e * FIELDS
                    if shared[c + SPAN] + shared[c + SPAN_OUT] == 0.0:
                        continue
                    mine, other, between = zone_in[e] * ZONE_FIELDS, zone_out[e] * ZONE_FIELDS, shared[c + BETWEEN] > 0.0
                    if solved == 0:  # others stay as they were given
                        p[b + HC_IN] = film(shared[c + LOW], shared[c + SPAN], shared[c + SIGN], p[b + SURF_IN], q[mine + AIR])
                        p[b + HC_OUT] = film(
                            shared[c + LOW_OUT], shared[c + SPAN_OUT], shared[c + SIGN_OUT], p[b + SURF_OUT], q[other + AIR]
                        )
                    own_in, own_out = p[b + OWN_IN], p[b + OWN_OUT]
                    answer(
                        b, c, mine, other, between, own_in, own_out, around, bright * block[sun + sun_row[e]], block[swing], shared, p, q
                    )
                for j in range(sides):
                    b, s = side_element[j] * FIELDS, j * four
                    far, near = (HC_OUT, HC_IN) if side_within[j] else (HC_IN, HC_OUT)
                    far_r, near_r = (HR_OUT, HR_IN) if side_within[j] else (HR_IN, HR_OUT)
                    through = p[b + AREA] * p[b + CROSS]
                    coupling[s], coupling[s + one] = through * p[b + far], through * p[b + far_r]
                    coupling[s + two], coupling[s + three] = p[b + near_r], p[b + near]
                for z in range(zones):
                    a = z * ZONE_FIELDS
                    per = 1.0 / q[a + M_RR]
                    slope = q[a + M_RA] * per
                    stiff = q[a + M_AA] - q[a + M_RA] * slope
                    q[a + PER_RR], q[a + SLOPE], q[a + STIFF], q[a + PER_STIFF] = per, slope, stiff, 1.0 / stiff
                    q[a + PER_CONTROL] = 1.0 / (q[a + BY_AIR] + (1.0 - q[a + BY_AIR]) * slope)

                # sweeps over the zones, each kept between its setpoints, until nothing moves
                # what hung together with the films of the pass before does so still: a small move says nothing then
                if solved > 0 and sweep >= few:
                    for k in range(L):
                        solve_together(k, L, q_, at, side_other, coupling_, path_at, end_path, end_other, through_, t_out)
                sweep = 0
                moved = 1.0
                while moved > TOLERANCE_K and sweep < MOST_SWEEPS:
                    sweep += 1
                    moves = 0.0
                    for z in range(zones):
                        a = z * ZONE_FIELDS
                        by_star, by_air = q[a + R_0], q[a + A_0]
                        for j in range(at[z], at[z + one]):
                            o, s = side_other[j] * ZONE_FIELDS, j * four
                            add = coupling[s] * q[o + AIR] + coupling[s + one] * q[o + STAR]
                            by_star = by_star + coupling[s + two] * add
                            by_air = by_air + coupling[s + three] * add
                        for j in range(path_at[z], path_at[z + one]):
                            by_air = by_air + through_path[end_path[j]] * q[end_other[j] * ZONE_FIELDS + AIR]
                        base, outside = by_star * q[a + PER_RR], 1.0 - q[a + BY_AIR]
                        stiff, per = q[a + STIFF], q[a + PER_STIFF]
                        push = by_air + q[a + M_RA] * base
                        free = push * per
                        if opens:
                            open_at = (q[a + OPEN_C] - outside * base) * q[a + PER_CONTROL]
                            opened = let_in(free, stiff, open_at, t_out, q[a + MOST_OPEN])
                            q[a + OPENED], q[a + CLOSED_C] = opened, free
                            stiff = stiff + opened
                            per = 1.0 / stiff
                            free = (push + opened * t_out) * per
                        low = (q[a + HEAT] - outside * base) * q[a + PER_CONTROL]
                        high = (q[a + COOL] - outside * base) * q[a + PER_CONTROL]
                        load = load_of(free, stiff, low, high, q[a + HEAT_MOST], q[a + COOL_MOST])
                        new = free + load * per
                        star = base + q[a + SLOPE] * new
                        moves = max(moves, max(abs(new - q[a + AIR]), abs(star - q[a + STAR])))
                        q[a + LOAD], q[a + HIGH_C], q[a + AIR], q[a + STAR] = load, high, new, star
                    moved = most_of(moves)
                    if sweep % few == 0 and moved > TOLERANCE_K:
                        moved_by[U(0)] = moves
                        for k in range(L):
                            if moved_[k] > TOLERANCE_K:
                                solve_together(k, L, q_, at, side_other, coupling_, path_at, end_path, end_other, through_, t_out)
                most = max(most, sweep)

                # where the new temperatures turn a flow of heat, its film is another: once more with that
                turns = 0.0
                if solved + 1 < MOST_FILMS:
                    changes = 0.0
                    for e in range(elements):
                        c, b = e * SHARED, e * FIELDS
                        if shared[c + SPAN] + shared[c + SPAN_OUT] == 0.0:
                            continue
                        mine, other = zone_in[e] * ZONE_FIELDS, zone_out[e] * ZONE_FIELDS
                        hc_in, hc_out, cross = p[b + HC_IN], p[b + HC_OUT], p[b + CROSS]
                        v_in = hc_in * q[mine + AIR] + p[b + HR_IN] * q[mine + STAR]
                        v_out = hc_out * q[other + AIR] + p[b + HR_OUT] * q[other + STAR]
                        t_in = p[b + KNOWN_IN] + p[b + B_IN] * v_in + cross * v_out
                        t_outer = p[b + KNOWN_OUT] + p[b + B_OUT] * v_out + cross * v_in
                        new_in = corrected(hc_in, film(shared[c + LOW], shared[c + SPAN], shared[c + SIGN], t_in, q[mine + AIR]))
                        new_out = corrected(
                            hc_out, film(shared[c + LOW_OUT], shared[c + SPAN_OUT], shared[c + SIGN_OUT], t_outer, q[other + AIR])
                        )
                        p[b + HC_IN], p[b + HC_OUT] = new_in, new_out
                        changes = max(changes, abs(new_in - hc_in) + abs(new_out - hc_out))
                    turns = most_of(changes)
                if turns == 0.0:
                    break

            if records:  # one lane alone
                now = U(step - first_step)
                for e in range(elements):
                    films[0, e, now], films[1, e, now] = p_[(e * FIELDS + HC_IN) * L], p_[(e * FIELDS + HC_OUT) * L]
                for z in range(zones):
                    a = z * ZONE_FIELDS
                    record[0, z, now], record[1, z, now] = q_[(a + LEAKED) * L], q_[(a + SUPPLIED_WK) * L]
                    record[2, z, now], record[3, z, now] = q_[(a + OPENED) * L], q_[(a + LOAD) * L]
                    record[4, z, now], record[5, z, now] = q_[(a + AIR) * L], q_[(a + STAR) * L]
                    record[6, z, now] = q_[(a + SUPPLY) * L] * q_[(a + FAN_K) * L]
                for j in range(joined):
                    joints[j, now] = through_[j * L]

            if opens:
                for z in range(zones):
                    a = z * ZONE_FIELDS
                    stiff, widest = q[a + STIFF], q[a + POTENTIAL]
                    q[a + SHUT] = shut_by((stiff * q[a + CLOSED_C] + widest * t_out) / (stiff + widest), q[a + HIGH_C])
            if moist:
                for z in range(zones):
                    a = z * ZONE_FIELDS
                    fresh = (q[a + LEAKED] + q[a + SUPPLY] + q[a + OPENED]) / AIR_HEAT
                    held = q[a + VAPOUR_MASS] * per_dt
                    stays, comes = held + fresh, held * q[a + VAPOUR] + fresh * damp + q[a + MOISTURE]
                    coil, dry = coil_flow(q[a + LOAD], q[a + AIR], q[a + COIL_C]), q[a + COIL_VAPOUR]
                    free = comes / stays
                    free = above(free, dry, (comes + coil * dry) / (stays + coil), free)  # what is wetter than the coil condenses on it
                    wettest = above(q[a + OCCUPIED], 0.0, q[a + WETTEST], 1.0)
                    driest = above(q[a + OCCUPIED], 0.0, q[a + DRIEST], 0.0)
                    new, by_plant, condensed = free, 0.0 * free, coil * max(free - dry, 0.0)
                    if most_of(max(max(driest, 1.0 - wettest), free - surely_free(q[a + AIR], pressure))) > 0.0:
                        full = saturated(q[a + AIR], pressure)
                        new = min(max(free, driest * full), wettest * full)
                        condensed = coil * max(new - dry, 0.0)
                        by_plant = above(abs(new - free), 0.0, comes - stays * new - condensed, 0.0)
                    q[a + VAPOUR] = new
                    if counted:
                        dried = above(1.0, wettest, max(by_plant, 0.0), 0.0)  # at saturation it falls out unasked
                        building[COILED * field + hour] += condensed * (EVAPORATION * share)
                        building[DRIED * field + hour] += dried * (EVAPORATION * share)
                        building[WETTED * field + hour] += max(-by_plant, 0.0) * (EVAPORATION * share)

            if counted:
                for j in range(joined):
                    mine, other = path_a[j] * ZONE_FIELDS, path_b[j] * ZONE_FIELDS
                    through = through_path[j] * (q[other + AIR] - q[mine + AIR]) * dt
                    q[mine + BALANCE] += through
                    q[other + BALANCE] -= through
                    q[mine + THROUGHPUT] += abs(through)
                    q[other + THROUGHPUT] += abs(through)
                heating, cooling, supplied = 0.0, 0.0, 0.0
                for z in range(zones):
                    a = z * ZONE_FIELDS
                    gain, load, air = q[a + WARMED] + q[a + SHONE], q[a + LOAD], q[a + AIR]
                    through = (q[a + FLOW] + q[a + OPENED]) * (t_out - air)
                    q[a + BALANCE] += (gain + through + load) * dt
                    q[a + THROUGHPUT] += (abs(gain) + abs(through) + abs(load)) * dt
                    operative = q[a + OPERATIVE] + 0.5 * (air + q[a + STAR]) * share
                    heating, cooling, supplied = heating + max(load, 0.0), cooling + max(-load, 0.0), supplied + q[a + SUPPLY]
                    if step % substeps == substeps - 1:
                        warm_c = q[a + WARM_C] + q[a + WARM_ADAPTS] * adaptive_c[hour]
                        q[a + WARM_H] += above(operative, warm_c, q[a + OCCUPIED], 0.0)
                        q[a + COLD_H] += above(q[a + COLD_C], operative, q[a + OCCUPIED], 0.0)
                        operative = operative * 0.0
                    q[a + OPERATIVE] = operative
                building[HEATING * field + hour] += heating * share
                building[COOLING * field + hour] += cooling * share
                building[SUPPLIED * field + hour] += supplied * share
                if keeps:  # one lane alone
                    for z in range(zones):
                        a = z * ZONE_FIELDS
                        air, star, load = q_[(a + AIR) * L], q_[(a + STAR) * L], q_[(a + LOAD) * L]
                        kept[0, z, hour] += air * share
                        kept[1, z, hour] += 0.5 * (air + star) * share
                        kept[2, z, hour] += max(load, 0.0) * share
                        kept[3, z, hour] += max(-load, 0.0) * share
                        kept[4, z, hour] += q_[(a + LEAKED) * L] * share
                        kept[5, z, hour] += q_[(a + SUPPLY) * L] * share
                        kept[6, z, hour] += q_[(a + OPENED) * L] * share
                        kept[7, z, hour] += q_[(a + VAPOUR) * L] * share

        finish_all(dt, shared, zone_in, zone_out, p, q)
        store(1.0, alike, apart, x, p, q, holds, own, chain_at, fours, offset, zone_in)
        for z in range(zones):
            a = z * ZONE_FIELDS
            q[a + STORED] += q[a + CAPACITY] * q[a + AIR]
        return most

    return compiled(run, SIGNATURE, f"run_{lanes}", formulas, vectors)


RUN = {lanes: make(lanes) for lanes in LANES}
"""The compiled kernel for each number of lanes."""
