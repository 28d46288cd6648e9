"""The compiled heat balance: all zones of a case, a year, step by step, for one case or for many side by side.

One source, compiled for several numbers of *lanes*: one lane is a case alone, which keeps what happened by the hour; with
more lanes the cases stand side by side as innermost axis, so that the compiler makes vector code, and nothing is kept but
what a table of cases needs. All cases of a batch have the same elements and zones and differ in areas, views, layers, radiation, gains and
setpoints; elements whose layers are alike in all of them read one set of coefficients.

Each element is a chain of nodes from its outer to its inner surface, implicit in time, with a constant reference film at
both ends; it is carried by its modes (`chains.modes_of`), four at a time. A step of it gives its surfaces' own temperatures r,
after which the two surface temperatures follow from the real films of the step in closed form (`elements.two_port`):

    T1 = r1 + G11 q1 + G12 q2,   T2 = r2 + G21 q1 + G22 q2,   q = E - (h - h_ref) T

with E the film-weighted surroundings plus absorbed radiation. Zones are a star: one air and one radiant node.

Inside films follow the direction of the heat flow: a step is solved with those of the last step, and again where its own temperatures ask
for other ones (`elements.corrected`).

Every array is flat: field ``f`` of thing ``i`` in lane ``k`` stands at ``(i * FIELDS + f) * L + k``. Inner loops run over
the lanes, read few arrays and carry what a recurrence needs in a row of its own, since the compiler makes vector
code of nothing else. `thermal.layout` makes the arrays. The method stands in docs/method.md.
"""

from __future__ import annotations

import numpy as np
from numba import njit

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
    two_port,
    windows,
)  # fmt: skip

LANES = (1, 16)
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
"""Modes that are carried at once; what is missing to a whole four is nothing."""
MODE = U(3)
"""Of each mode: decay, by the outer and by the inner flux."""
BLOCK = U(8)
"""Hours of radiation that are brought in at once: one line of memory of each lane and row."""
# what an element has in all lanes alike
BETWEEN, LOW, SPAN, SIGN, LOW_OUT, SPAN_OUT, SIGN_OUT, WIND, STILL, EMISSIVITY = (U(i) for i in range(10))
SHARED = U(10)
# what it has in each lane: given, then state
(
    AREA, VIEW, GROUND_H, GROUND_SWING, FIXED_H, FIXED_E, SHARE_IN, SHARE_OUT, HR_IN, HR_OUT, G11, G12, G21, G22, SURF_IN, SURF_OUT,
    HC_IN, HC_OUT, H1, E_OUT, S_IN, OWN_IN, OWN_OUT, B_IN, C_IN, B_OUT, C_OUT, KNOWN_IN, KNOWN_OUT, FLUX_IN, FLUX_OUT,
) = (U(i) for i in range(31))  # fmt: skip
FIELDS = U(31)
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
    f"Tuple(({F1},int64))("
    f"{F1},{F1},{F1},{F1},{F1},{F1},"  # coefficients, modes, shared, elements, zones, what modes hold
    f"{B1},{I1},{I1},{I1},{I1},{I1},{I1},{I1},"  # own, chain_at, fours, offset, zone_in, zone_out, zonal, sun_row
    f"{I1},{I1},{F1},"  # air paths
    f"{F1},{F1},{F1},{F1},{F1},{F1},{F1},{F1},{F2},"  # weather, shape
    f"{F3},{F3},{I1},{F1},{F3},{R3},{F3},{F2},"  # lit, asked, which, scales, kept, record
    "boolean,boolean,int64,int64)"
)


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
def store(sign, L, coefficients, x, p, q, holds, own, chain_at, fours, offset, zone_in):  # type: ignore[no-untyped-def]
    """Add what all elements hold to their zones' stores; modes stand one step back, their last fluxes beside them."""
    for e in range(U(len(fours))):
        wide = L if own[e] else U(1)
        for m in range(fours[e] * MODES):
            for k in range(L):
                n = chain_at[e] + m * MODE * wide + (k if own[e] else U(0))
                i = (offset[e] + m) * L + k
                first = e * FIELDS * L + k
                now = coefficients[n] * x[i] + coefficients[n + wide] * p[first + FLUX_OUT * L]
                now += coefficients[n + U(2) * wide] * p[first + FLUX_IN * L]
                q[(zone_in[e] * ZONE_FIELDS + STORED) * L + k] += sign * p[first + AREA * L] * holds[i] * now


def make(lanes: int):  # type: ignore[no-untyped-def]
    """Compile the kernel for a number of lanes, which the compiler then knows; under a name of its own, which its cache goes by."""
    L = U(lanes)

    def run(
        coefficients, x, shared, p, q, holds, own, chain_at, fours, offset, zone_in, zone_out, zonal, sun_row,
        path_a, path_b, paths, outdoor_c, wind_h, wind_squared, sky_h, sky_c, vapour_out, pressure_pa, adaptive_c, shape, lit, asked, which, scales, kept, films, record, joints,
        opens, moist, substeps, run_in_h,
    ):  # fmt: skip
        """Run the year after a run-in over its last hours; states and sums are left in `p` and `q`.

        Returns
        -------
        building : (BUILDING * 8760 * L) what the building does by the hour
        most : most sweeps over the zones that any step needed
        """
        one = U(1)
        elements, zones, joined = U(len(fours)), U(len(q)) // (ZONE_FIELDS * L), U(len(path_a))
        hours = 8760
        dt = 3600.0 / substeps
        share = 1.0 / substeps
        building = np.zeros(int(BUILDING) * hours * lanes)
        field = U(hours) * L
        keeps = kept.shape[1] > 0
        records = record.shape[1] > 0
        lit_rows = U(lit.shape[1])
        sun_rows = lit_rows - zones - one
        sun = np.empty(lit.shape[1] * lanes)
        block = np.empty(int(BLOCK) * lit.shape[1] * lanes)
        row_in, row_out, enters, moved_by = np.empty(lanes), np.empty(lanes), np.empty(lanes), np.empty(lanes)
        # element sides that couple a zone to another: number at[z] to at[z + 1] - 1; ends of air paths likewise
        at = np.zeros(len(q) // (int(ZONE_FIELDS) * lanes) + 1, np.uint64)
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
        side_element = np.empty(2 * len(zonal), np.uint64)
        side_other = np.empty(2 * len(zonal), np.uint64)
        side_within = np.empty(2 * len(zonal), np.bool_)
        for j in range(len(zonal)):
            e = zonal[j]
            for within in (True, False):
                mine, other = (zone_in[e], zone_out[e]) if within else (zone_out[e], zone_in[e])
                side_element[fill[mine]] = e
                side_other[fill[mine]] = other
                side_within[fill[mine]] = within
                fill[mine] += one
        sides = U(len(side_element))
        end_path, end_other = np.empty(2 * len(path_a), np.uint64), np.empty(2 * len(path_a), np.uint64)
        for j in range(joined):
            for mine, other in ((path_a[j], path_b[j]), (path_b[j], path_a[j])):
                end_path[path_fill[mine]] = j
                end_other[path_fill[mine]] = other
                path_fill[mine] += one
        coupling = np.empty(2 * len(zonal) * 4 * lanes)  # of each side: by other's air, by other's star, own hr, own hc
        through_path = np.empty(len(path_a) * lanes)
        most = 0
        few = SOON if zones <= U(MANY_ZONES) else FEW_SWEEPS

        for step in range(-run_in_h * substeps, hours * substeps):
            count = step // substeps
            hour = U(count if count >= 0 else count + hours)
            before = U((count + hours - 1) % hours)
            part = (step % substeps + 1.0) / substeps
            t_out = outdoor_c[before] + (outdoor_c[hour] - outdoor_c[before]) * part
            t_sky = sky_c[before] + (sky_c[hour] - sky_c[before]) * part
            air_h = 4.0 * SIGMA * (t_out + 273.15) ** 3
            wind_now, sky_now, gusts, damp, pressure = wind_h[hour], sky_h[hour], wind_squared[hour], vapour_out[hour], pressure_pa[hour]
            counted = step >= 0
            if step == 0:
                store(-1.0, L, coefficients, x, p, q, holds, own, chain_at, fours, offset, zone_in)
                for z in range(zones):
                    for k in range(L):
                        a = z * ZONE_FIELDS * L + k
                        q[a + STORED * L] -= q[a + CAPACITY * L] * q[a + AIR * L]
            if step % substeps == 0:
                if hour % BLOCK == 0:
                    for k in range(L):
                        for r in range(lit_rows):
                            for h in range(BLOCK):
                                block[(h * lit_rows + r) * L + k] = lit[k, r, hour + h]
                start = (hour % BLOCK) * lit_rows * L
                for i in range(lit_rows * L):
                    sun[i] = block[start + i]
                for z in range(zones):
                    first = z * ZONE_FIELDS * L
                    for f in range(ASKED):
                        for k in range(L):
                            q[first + (CONVECTIVE + f) * L + k] = asked[which[k], hour, f * zones + z] * scales[(z * ASKED + f) * L + k]
            bright = shape[hour, step % substeps]
            for z in range(zones):
                first, beam = z * ZONE_FIELDS * L, (sun_rows + z) * L
                for k in range(L):
                    a = first + k
                    through = sun[beam + k] * bright
                    inward = 0.5 * (1.0 - q[a + SHORT * L]) * through
                    q[a + SUN * L] = through * q[a + SHORT * L]
                    q[a + WARMED * L] = q[a + CONVECTIVE * L] + inward
                    q[a + SHONE * L] = q[a + RADIANT * L] + inward

            for z in range(zones):
                for k in range(L):
                    a = z * ZONE_FIELDS * L + k
                    air = q[a + AIR * L]
                    leaked = q[a + LEAK * L] + cracks(q[a + LEAK_WIND * L], q[a + LEAK_STACK * L], gusts, abs(air - t_out))
                    supply = q[a + FRESH * L] * enlarged(q[a + ECONOMY * L], q[a + COOL * L], air, t_out)
                    supplied = supply * (1.0 - q[a + RECOVERY * L] * recovered(q[a + BYPASS * L], air, t_out))
                    flow = leaked + supplied + q[a + BRIDGE * L]
                    inertia = q[a + CAPACITY * L] / dt
                    q[a + LEAKED * L] = leaked
                    q[a + SUPPLY * L] = supply
                    q[a + SUPPLIED_WK * L] = supplied
                    q[a + FLOW * L] = flow
                    q[a + WARMED * L] += supply * q[a + FAN_K * L]
                    q[a + M_RR * L] = 0.0
                    q[a + M_RA * L] = 0.0
                    q[a + M_AA * L] = inertia + flow
                    q[a + R_0 * L] = q[a + SHONE * L]
                    q[a + A_0 * L] = inertia * air + flow * t_out + q[a + WARMED * L]
            if opens:
                for z in range(zones):
                    for k in range(L):
                        a = z * ZONE_FIELDS * L + k
                        apart = q[a + AIR * L] - t_out
                        widest = windows(q[a + OPEN_WIND * L], q[a + OPEN_STACK * L], gusts, abs(apart))
                        widest *= min(max(apart, 0.0), 1.0)
                        q[a + POTENTIAL * L] = widest
                        q[a + MOST_OPEN * L] = widest * (1.0 - q[a + SHUT * L] * (1.0 - q[a + MIXED * L]))
            for j in range(joined):
                mine, other, s = path_a[j] * ZONE_FIELDS * L, path_b[j] * ZONE_FIELDS * L, j * U(2) * L
                for k in range(L):
                    through = exchanged(paths[s + k], paths[s + L + k], abs(q[mine + AIR * L + k] - q[other + AIR * L + k]))
                    through_path[j * L + k] = through
                    q[mine + M_AA * L + k] += through
                    q[other + M_AA * L + k] += through

            for e in range(elements):
                c, first = e * SHARED, e * FIELDS * L
                n, i, out, into = chain_at[e], offset[e] * L, first + FLUX_OUT * L, first + FLUX_IN * L
                for k in range(L):
                    row_out[k] = 0.0
                    row_in[k] = 0.0
                if own[e]:
                    for _ in range(fours[e]):
                        for k in range(L):
                            c0, c1, c2, c3 = n + k, n + U(3) * L + k, n + U(6) * L + k, n + U(9) * L + k
                            x0, x1, x2, x3 = i + k, i + L + k, i + U(2) * L + k, i + U(3) * L + k
                            by_out, by_in = p[out + k], p[into + k]
                            y0 = coefficients[c0] * x[x0] + coefficients[c0 + L] * by_out + coefficients[c0 + U(2) * L] * by_in
                            y1 = coefficients[c1] * x[x1] + coefficients[c1 + L] * by_out + coefficients[c1 + U(2) * L] * by_in
                            y2 = coefficients[c2] * x[x2] + coefficients[c2 + L] * by_out + coefficients[c2 + U(2) * L] * by_in
                            y3 = coefficients[c3] * x[x3] + coefficients[c3 + L] * by_out + coefficients[c3 + U(2) * L] * by_in
                            row_out[k] += (coefficients[c0 + L] * y0 + coefficients[c1 + L] * y1) + (
                                coefficients[c2 + L] * y2 + coefficients[c3 + L] * y3
                            )
                            row_in[k] += (coefficients[c0 + U(2) * L] * y0 + coefficients[c1 + U(2) * L] * y1) + (
                                coefficients[c2 + U(2) * L] * y2 + coefficients[c3 + U(2) * L] * y3
                            )
                            x[x0], x[x1], x[x2], x[x3] = y0, y1, y2, y3
                        n += MODES * MODE * L
                        i += MODES * L
                else:
                    for _ in range(fours[e]):
                        d0, o0, i0 = coefficients[n], coefficients[n + U(1)], coefficients[n + U(2)]
                        d1, o1, i1 = coefficients[n + U(3)], coefficients[n + U(4)], coefficients[n + U(5)]
                        d2, o2, i2 = coefficients[n + U(6)], coefficients[n + U(7)], coefficients[n + U(8)]
                        d3, o3, i3 = coefficients[n + U(9)], coefficients[n + U(10)], coefficients[n + U(11)]
                        for k in range(L):
                            x0, x1, x2, x3 = i + k, i + L + k, i + U(2) * L + k, i + U(3) * L + k
                            by_out, by_in = p[out + k], p[into + k]
                            y0 = d0 * x[x0] + o0 * by_out + i0 * by_in
                            y1 = d1 * x[x1] + o1 * by_out + i1 * by_in
                            y2 = d2 * x[x2] + o2 * by_out + i2 * by_in
                            y3 = d3 * x[x3] + o3 * by_out + i3 * by_in
                            row_out[k] += (o0 * y0 + o1 * y1) + (o2 * y2 + o3 * y3)
                            row_in[k] += (i0 * y0 + i1 * y1) + (i2 * y2 + i3 * y3)
                            x[x0], x[x1], x[x2], x[x3] = y0, y1, y2, y3
                        n += MODES * MODE
                        i += MODES * L
                for k in range(L):
                    p[first + OWN_OUT * L + k] = row_out[k]
                    p[first + OWN_IN * L + k] = row_in[k]

            sweep = 0
            for solved in range(MOST_FILMS):
                for stage in range(2):  # elements whose films never change, once; then the others
                    if stage == 0 and solved > 0:
                        continue
                    if stage == 1:
                        for z in range(zones):
                            for k in range(L):
                                a = z * ZONE_FIELDS * L + k
                                if solved == 0:
                                    q[a + KNOWN_RR * L], q[a + KNOWN_RA * L], q[a + KNOWN_AA * L] = (
                                        q[a + M_RR * L],
                                        q[a + M_RA * L],
                                        q[a + M_AA * L],
                                    )
                                    q[a + KNOWN_R * L], q[a + KNOWN_A * L] = q[a + R_0 * L], q[a + A_0 * L]
                                else:
                                    q[a + M_RR * L], q[a + M_RA * L], q[a + M_AA * L] = (
                                        q[a + KNOWN_RR * L],
                                        q[a + KNOWN_RA * L],
                                        q[a + KNOWN_AA * L],
                                    )
                                    q[a + R_0 * L], q[a + A_0 * L] = q[a + KNOWN_R * L], q[a + KNOWN_A * L]
                    for e in range(elements):
                        c, first = e * SHARED, e * FIELDS * L
                        if (shared[c + SPAN] + shared[c + SPAN_OUT] > 0.0) != (stage == 1):
                            continue
                        mine, other = zone_in[e] * ZONE_FIELDS * L, zone_out[e] * ZONE_FIELDS * L
                        lit_at, ground_at = sun_row[e] * L, (lit_rows - one) * L
                        between, emissivity = shared[c + BETWEEN] > 0.0, shared[c + EMISSIVITY]
                        wind = shared[c + WIND] * wind_now + shared[c + STILL]
                        low_in, span_in, sign_in = shared[c + LOW], shared[c + SPAN], shared[c + SIGN]
                        low_out, span_out, sign_out = shared[c + LOW_OUT], shared[c + SPAN_OUT], shared[c + SIGN_OUT]
                        if solved == 0 and stage == 1:  # others stay as they were given
                            for k in range(L):
                                b = first + k
                                p[b + HC_IN * L] = film(low_in, span_in, sign_in, p[b + SURF_IN * L], q[mine + AIR * L + k])
                                p[b + HC_OUT * L] = film(low_out, span_out, sign_out, p[b + SURF_OUT * L], q[other + AIR * L + k])
                        for k in range(L):
                            b, a, o = first + k, mine + k, other + k
                            hc_in, hc_out = p[b + HC_IN * L], p[b + HC_OUT * L]
                            view = p[b + VIEW * L]
                            to_air = wind + (emissivity - view) * air_h
                            to_sky = view * sky_now
                            to_ground = p[b + GROUND_H * L]
                            h1 = to_air + to_sky + to_ground + p[b + FIXED_H * L] + hc_out + p[b + HR_OUT * L]
                            e_out = (
                                to_air * t_out
                                + to_sky * t_sky
                                + p[b + GROUND_SWING * L] * sun[ground_at + k]
                                + p[b + FIXED_E * L]
                                + bright * sun[lit_at + k]
                                + p[b + SHARE_OUT * L] * q[o + SUN * L]
                            )
                            s_in = p[b + SHARE_IN * L] * q[a + SUN * L]
                            p[b + H1 * L] = h1
                            p[b + E_OUT * L] = e_out
                            p[b + S_IN * L] = s_in
                            a_in, b_in, c_in, a_out, b_out, c_out = two_port(
                                p[b + G11 * L],
                                p[b + G12 * L],
                                p[b + G21 * L],
                                p[b + G22 * L],
                                h1 - FILM_REF,
                                hc_in + p[b + HR_IN * L] - FILM_REF,
                                p[b + OWN_OUT * L],
                                p[b + OWN_IN * L],
                            )
                            p[b + B_IN * L] = b_in
                            p[b + C_IN * L] = c_in
                            p[b + B_OUT * L] = b_out
                            p[b + C_OUT * L] = c_out
                            p[b + KNOWN_IN * L] = a_in + b_in * s_in + c_in * e_out
                            p[b + KNOWN_OUT * L] = a_out + b_out * e_out + c_out * s_in
                        for k in range(L):
                            b, a = first + k, mine + k
                            hc, hr, slope, known = p[b + HC_IN * L], p[b + HR_IN * L], p[b + B_IN * L], p[b + KNOWN_IN * L]
                            by_air, by_star = p[b] * hc, p[b] * hr
                            q[a + M_RR * L] += by_star * (1.0 - slope * hr)
                            q[a + M_RA * L] += by_star * slope * hc
                            q[a + M_AA * L] += by_air * (1.0 - slope * hc)
                            q[a + R_0 * L] += by_star * known
                            q[a + A_0 * L] += by_air * known
                        if between:  # only elements between zones have a radiant film outside
                            for k in range(L):
                                b, a = first + k, other + k
                                hc, hr, slope, known = p[b + HC_OUT * L], p[b + HR_OUT * L], p[b + B_OUT * L], p[b + KNOWN_OUT * L]
                                by_air, by_star = p[b] * hc, p[b] * hr
                                q[a + M_RR * L] += by_star * (1.0 - slope * hr)
                                q[a + M_RA * L] += by_star * slope * hc
                                q[a + M_AA * L] += by_air * (1.0 - slope * hc)
                                q[a + R_0 * L] += by_star * known
                                q[a + A_0 * L] += by_air * known
                for j in range(sides):
                    e = side_element[j]
                    first, s = e * FIELDS * L, j * U(4) * L
                    far, near, cross_by = (HC_OUT, HC_IN, C_IN) if side_within[j] else (HC_IN, HC_OUT, C_OUT)
                    far_r, near_r = (HR_OUT, HR_IN) if side_within[j] else (HR_IN, HR_OUT)
                    for k in range(L):
                        b = first + k
                        through = p[b] * p[b + cross_by * L]
                        coupling[s + k] = through * p[b + far * L]
                        coupling[s + L + k] = through * p[b + far_r * L]
                        coupling[s + U(2) * L + k] = p[b + near_r * L]
                        coupling[s + U(3) * L + k] = p[b + near * L]
                for z in range(zones):
                    for k in range(L):
                        a = z * ZONE_FIELDS * L + k
                        per = 1.0 / q[a + M_RR * L]
                        slope = q[a + M_RA * L] * per
                        stiff = q[a + M_AA * L] - q[a + M_RA * L] * slope
                        q[a + PER_RR * L] = per
                        q[a + SLOPE * L] = slope
                        q[a + STIFF * L] = stiff
                        q[a + PER_STIFF * L] = 1.0 / stiff
                        q[a + PER_CONTROL * L] = 1.0 / (q[a + BY_AIR * L] + (1.0 - q[a + BY_AIR * L]) * slope)

                # sweeps over the zones, each kept between its setpoints, until nothing moves
                # what hung together with the films of the pass before does so still: a small move says nothing then
                if solved > 0 and sweep >= few:
                    for k in range(L):
                        solve_together(k, L, q, at, side_other, coupling, path_at, end_path, end_other, through_path, t_out)
                sweep = 0
                moved = 1.0
                while moved > TOLERANCE_K and sweep < MOST_SWEEPS:
                    sweep += 1
                    for k in range(L):
                        moved_by[k] = 0.0
                    for z in range(zones):
                        first = z * ZONE_FIELDS * L
                        for k in range(L):
                            row_in[k] = q[first + R_0 * L + k]
                            row_out[k] = q[first + A_0 * L + k]
                        for j in range(at[z], at[z + one]):
                            other, s = side_other[j] * ZONE_FIELDS * L, j * U(4) * L
                            for k in range(L):
                                add = coupling[s + k] * q[other + AIR * L + k] + coupling[s + L + k] * q[other + STAR * L + k]
                                row_in[k] += coupling[s + U(2) * L + k] * add
                                row_out[k] += coupling[s + U(3) * L + k] * add
                        for j in range(path_at[z], path_at[z + one]):
                            other, s = end_other[j] * ZONE_FIELDS * L, end_path[j] * L
                            for k in range(L):
                                row_out[k] += through_path[s + k] * q[other + AIR * L + k]
                        if opens:
                            for k in range(L):
                                a = first + k
                                base, stiff, outside = row_in[k] * q[a + PER_RR * L], q[a + STIFF * L], 1.0 - q[a + BY_AIR * L]
                                free = (row_out[k] + q[a + M_RA * L] * base) * q[a + PER_STIFF * L]
                                open_at = (q[a + OPEN_C * L] - outside * base) * q[a + PER_CONTROL * L]
                                opened = let_in(free, stiff, open_at, t_out, q[a + MOST_OPEN * L])
                                q[a + OPENED * L] = opened
                                q[a + CLOSED_C * L] = free
                                enters[k] = opened
                        else:
                            for k in range(L):
                                enters[k] = 0.0
                        for k in range(L):
                            a = first + k
                            base, outside = row_in[k] * q[a + PER_RR * L], 1.0 - q[a + BY_AIR * L]
                            stiff, per = q[a + STIFF * L], q[a + PER_STIFF * L]
                            push = row_out[k] + q[a + M_RA * L] * base
                            if opens:
                                stiff += enters[k]
                                per = 1.0 / stiff
                                push += enters[k] * t_out
                            free = push * per
                            low = (q[a + HEAT * L] - outside * base) * q[a + PER_CONTROL * L]
                            high = (q[a + COOL * L] - outside * base) * q[a + PER_CONTROL * L]
                            load = load_of(free, stiff, low, high, q[a + HEAT_MOST * L], q[a + COOL_MOST * L])
                            new = free + load * per
                            star = base + q[a + SLOPE * L] * new
                            q[a + LOAD * L] = load
                            q[a + HIGH_C * L] = high
                            moved_by[k] = max(moved_by[k], max(abs(new - q[a + AIR * L]), abs(star - q[a + STAR * L])))
                            q[a + AIR * L] = new
                            q[a + STAR * L] = star
                    moved = 0.0
                    for k in range(L):
                        moved = max(moved, moved_by[k])
                        if sweep % few == 0 and moved_by[k] > TOLERANCE_K:
                            solve_together(k, L, q, at, side_other, coupling, path_at, end_path, end_other, through_path, t_out)
                most = max(most, sweep)

                # where the new temperatures turn a flow of heat, its film is another: once more with that
                turns = False
                if solved + 1 < MOST_FILMS:
                    for e in range(elements):
                        c, first = e * SHARED, e * FIELDS * L
                        span_in, span_out = shared[c + SPAN], shared[c + SPAN_OUT]
                        if span_in == 0.0 and span_out == 0.0:
                            continue
                        mine, other = zone_in[e] * ZONE_FIELDS * L, zone_out[e] * ZONE_FIELDS * L
                        low_in, sign_in, low_out, sign_out = shared[c + LOW], shared[c + SIGN], shared[c + LOW_OUT], shared[c + SIGN_OUT]
                        for k in range(L):
                            b, a, o = first + k, mine + k, other + k
                            hc_in, hc_out = p[b + HC_IN * L], p[b + HC_OUT * L]
                            v_in = hc_in * q[a + AIR * L] + p[b + HR_IN * L] * q[a + STAR * L]
                            v_out = hc_out * q[o + AIR * L] + p[b + HR_OUT * L] * q[o + STAR * L]
                            t_in = p[b + KNOWN_IN * L] + p[b + B_IN * L] * v_in + p[b + C_IN * L] * v_out
                            t_outer = p[b + KNOWN_OUT * L] + p[b + B_OUT * L] * v_out + p[b + C_OUT * L] * v_in
                            new_in = corrected(hc_in, film(low_in, span_in, sign_in, t_in, q[a + AIR * L]))
                            new_out = corrected(hc_out, film(low_out, span_out, sign_out, t_outer, q[o + AIR * L]))
                            p[b + HC_IN * L] = new_in
                            p[b + HC_OUT * L] = new_out
                            row_in[k] = abs(new_in - hc_in) + abs(new_out - hc_out)
                        for k in range(L):
                            if row_in[k] > 0.0:
                                turns = True
                if not turns:
                    break

            for e in range(elements):
                first, mine, other = e * FIELDS * L, zone_in[e] * ZONE_FIELDS * L, zone_out[e] * ZONE_FIELDS * L
                between = shared[e * SHARED + BETWEEN] > 0.0
                for k in range(L):
                    b, a, o = first + k, mine + k, other + k
                    hr = p[b + HR_IN * L]
                    v_in = p[b + HC_IN * L] * q[a + AIR * L] + hr * q[a + STAR * L]
                    v_out = p[b + HC_OUT * L] * q[o + AIR * L] + p[b + HR_OUT * L] * q[o + STAR * L]
                    t_in = p[b + KNOWN_IN * L] + p[b + B_IN * L] * v_in + p[b + C_IN * L] * v_out
                    t_outer = p[b + KNOWN_OUT * L] + p[b + B_OUT * L] * v_out + p[b + C_OUT * L] * v_in
                    around = p[b + E_OUT * L] + v_out
                    p[b + SURF_IN * L] = t_in
                    p[b + SURF_OUT * L] = t_outer
                    p[b + FLUX_OUT * L] = around - (p[b + H1 * L] - FILM_REF) * t_outer
                    p[b + FLUX_IN * L] = p[b + S_IN * L] + v_in - (p[b + HC_IN * L] + hr - FILM_REF) * t_in
                    enters[k] = around - p[b + H1 * L] * t_outer
                if counted:
                    for k in range(L):
                        b, a = first + k, mine + k
                        q[a + BALANCE * L] += p[b] * dt * (enters[k] + p[b + S_IN * L])
                        q[a + THROUGHPUT * L] += p[b] * dt * (abs(enters[k]) + p[b + S_IN * L])
                    if between:
                        for k in range(L):
                            b, a = first + k, other + k
                            q[a + BALANCE * L] -= p[b] * dt * (enters[k] - p[b + E_OUT * L])
                            q[a + THROUGHPUT * L] += p[b] * dt * abs(enters[k])

            if records:  # one lane alone
                now = U(step + run_in_h * substeps)
                for e in range(elements):
                    films[0, e, now] = p[e * FIELDS + HC_IN]
                    films[1, e, now] = p[e * FIELDS + HC_OUT]
                for z in range(zones):
                    a = z * ZONE_FIELDS
                    record[0, z, now], record[1, z, now], record[2, z, now] = q[a + LEAKED], q[a + SUPPLIED_WK], q[a + OPENED]
                    record[3, z, now], record[4, z, now], record[5, z, now] = q[a + LOAD], q[a + AIR], q[a + STAR]
                    record[6, z, now] = q[a + SUPPLY] * q[a + FAN_K]
                for j in range(joined):
                    joints[j, now] = through_path[j]

            if opens:
                for z in range(zones):
                    for k in range(L):
                        a = z * ZONE_FIELDS * L + k
                        stiff, widest = q[a + STIFF * L], q[a + POTENTIAL * L]
                        open_air = (stiff * q[a + CLOSED_C * L] + widest * t_out) / (stiff + widest)
                        q[a + SHUT * L] = shut_by(open_air, q[a + HIGH_C * L])
            if moist:
                for z in range(zones):
                    for k in range(L):
                        a = z * ZONE_FIELDS * L + k
                        fresh = (q[a + LEAKED * L] + q[a + SUPPLY * L] + q[a + OPENED * L]) / AIR_HEAT
                        stays = q[a + VAPOUR_MASS * L] / dt + fresh
                        comes = q[a + VAPOUR_MASS * L] / dt * q[a + VAPOUR * L] + fresh * damp + q[a + MOISTURE * L]
                        coil = coil_flow(q[a + LOAD * L], q[a + AIR * L], q[a + COIL_C * L])
                        dry = q[a + COIL_VAPOUR * L]
                        free = comes / stays
                        if free > dry:  # what is wetter than the coil condenses on it
                            free = (comes + coil * dry) / (stays + coil)
                        present = q[a + OCCUPIED * L] > 0.0
                        wettest = q[a + WETTEST * L] if present else 1.0
                        driest = q[a + DRIEST * L] if present else 0.0
                        new = free
                        condensed, by_plant = coil * max(free - dry, 0.0), 0.0
                        if driest > 0.0 or wettest < 1.0 or free > surely_free(q[a + AIR * L], pressure):
                            full = saturated(q[a + AIR * L], pressure)
                            new = min(max(free, driest * full), wettest * full)
                            condensed = coil * max(new - dry, 0.0)
                            by_plant = comes - stays * new - condensed if new != free else 0.0
                        q[a + VAPOUR * L] = new
                        if counted:
                            dried = max(by_plant, 0.0) if wettest < 1.0 else 0.0  # at saturation it falls out unasked
                            building[COILED * field + hour * L + k] += condensed * EVAPORATION * share
                            building[DRIED * field + hour * L + k] += dried * EVAPORATION * share
                            building[WETTED * field + hour * L + k] += max(-by_plant, 0.0) * EVAPORATION * share

            if counted:
                for j in range(joined):
                    mine, other = path_a[j] * ZONE_FIELDS * L, path_b[j] * ZONE_FIELDS * L
                    for k in range(L):
                        through = through_path[j * L + k] * (q[other + AIR * L + k] - q[mine + AIR * L + k]) * dt
                        q[mine + BALANCE * L + k] += through
                        q[other + BALANCE * L + k] -= through
                        q[mine + THROUGHPUT * L + k] += abs(through)
                        q[other + THROUGHPUT * L + k] += abs(through)
                for z in range(zones):
                    first = z * ZONE_FIELDS * L
                    for k in range(L):
                        a = first + k
                        gain, load, air = q[a + WARMED * L] + q[a + SHONE * L], q[a + LOAD * L], q[a + AIR * L]
                        through = (q[a + FLOW * L] + q[a + OPENED * L]) * (t_out - air)
                        q[a + BALANCE * L] += (gain + through + load) * dt
                        q[a + THROUGHPUT * L] += (abs(gain) + abs(through) + abs(load)) * dt
                        q[a + OPERATIVE * L] += 0.5 * (air + q[a + STAR * L]) * share
                    for k in range(L):
                        load = q[first + LOAD * L + k]
                        building[HEATING * field + hour * L + k] += max(load, 0.0) * share
                        building[COOLING * field + hour * L + k] += max(-load, 0.0) * share
                        building[SUPPLIED * field + hour * L + k] += q[first + SUPPLY * L + k] * share
                    if keeps:
                        load = q[first + LOAD * L]
                        kept[0, z, hour] += q[first + AIR * L] * share
                        kept[1, z, hour] += 0.5 * (q[first + AIR * L] + q[first + STAR * L]) * share
                        kept[2, z, hour] += max(load, 0.0) * share
                        kept[3, z, hour] += max(-load, 0.0) * share
                        kept[4, z, hour] += q[first + LEAKED * L] * share
                        kept[5, z, hour] += q[first + SUPPLY * L] * share
                        kept[6, z, hour] += q[first + OPENED * L] * share
                        kept[7, z, hour] += q[first + VAPOUR * L] * share
                    if step % substeps == substeps - 1:
                        for k in range(L):
                            a = first + k
                            operative, present = q[a + OPERATIVE * L], q[a + OCCUPIED * L]
                            warm_c = q[a + WARM_C * L] + q[a + WARM_ADAPTS * L] * adaptive_c[hour]
                            q[a + WARM_H * L] += present if operative > warm_c else 0.0
                            q[a + COLD_H * L] += present if operative < q[a + COLD_C * L] else 0.0
                            q[a + OPERATIVE * L] = 0.0

        store(1.0, L, coefficients, x, p, q, holds, own, chain_at, fours, offset, zone_in)
        for z in range(zones):
            for k in range(L):
                a = z * ZONE_FIELDS * L + k
                q[a + STORED * L] += q[a + CAPACITY * L] * q[a + AIR * L]
        return building, most

    return compiled(run, SIGNATURE, f"run_{lanes}")


RUN = {lanes: make(lanes) for lanes in LANES}
"""The compiled kernel for each number of lanes."""
