"""The compiled heat balance of many cases side by side: the balance of `thermal.kernel` with lanes of cases as innermost axis.

All cases of a batch have the same elements and zones and differ in areas, views, layers, radiation, gains and setpoints;
elements whose layers are alike in all of them read one set of coefficients. Nothing is kept by the hour but the building's loads; comfort and closure are summed inside, so that thousands
of cases need no hourly arrays. `thermal.batch` makes the arrays.

Every array is flat: field ``f`` of thing ``i`` in lane ``k`` stands at ``(i * FIELDS + f) * L + k``. Inner loops run over
the lanes, read few arrays and carry what a recurrence needs in a row of its own, since the compiler makes vector
code of nothing else. The method, and the meaning of every term, is that of `thermal.kernel.run_year`.
"""

from __future__ import annotations

import numpy as np
from numba import njit

from eurythm.thermal.kernel import BAND_K, MOST_SWEEPS, TOLERANCE_K

LANES = (8, 32)
FILM_REF = 5.0
PER_BAND = 1.0 / BAND_K
U = np.uint64

# chain coefficients of a node: x = f T - low x_before; x -= up x_after; T = x + out q_out + in q_in
NODE = U(5)
BLOCK = U(8)
"""Hours of radiation that are brought in at once: one line of memory of each lane and row."""
# what an element has in all lanes alike
HR, HR_OUT, LOW, SPAN, SIGN, LOW_OUT, SPAN_OUT, SIGN_OUT, WIND, FIXED, EMISSIVITY = (U(i) for i in range(11))
SHARED = U(11)
# what it has in each lane: given, then state
(
    AREA, VIEW, GROUND_H, SHARE_IN, SHARE_OUT, G11, G12, G21, G22, SURF_IN, SURF_OUT, HC_IN, HC_OUT, H1, E_OUT, S_IN,
    B_IN, C_IN, B_OUT, C_OUT, KNOWN_IN, KNOWN_OUT,
) = (U(i) for i in range(22))  # fmt: skip
FIELDS = U(22)
# zones in each lane: given, then this hour's, then state and sums
(
    CAPACITY, RECOVERY, CONVECTIVE, RADIANT, FRESH, HEAT, COOL, BYPASS, OCCUPIED, LEAK, SUN, WARMED, SHONE, FLOW, AIR, STAR, M_RR, M_RA, M_AA,
    R_0, A_0, PER_RR, SLOPE, STIFF, PER_STIFF, LOAD, OPERATIVE, WARM_H, COLD_H, BALANCE, THROUGHPUT, STORED, WARM_C, COLD_C,
) = (U(i) for i in range(34))  # fmt: skip
ZONE_FIELDS = U(34)
ASKED = U(8)
"""Hourly series of use by zone: convective, radiant, fresh, heat, cool, bypass, occupied, leak."""

F1, F2, F3, I1, B1 = "float64[::1]", "float64[:,::1]", "float64[:,:,::1]", "uint64[::1]", "boolean[::1]"
SIGNATURE = (
    f"Tuple(({F1},{F1},int64))("
    f"{F1},{F1},{F1},{F1},{F1},{F1},"  # coefficients, temperatures, shared, elements, zones, capacity
    f"{B1},{I1},{I1},{I1},{I1},{I1},{I1},{I1},"  # own, chain_at, rows, offset, zone_in, zone_out, zonal, sun_row
    f"{F1},{F1},{F1},{F1},{F2},{F3},{F3},{I1},"  # weather, shape, lit, asked, which
    "float64,int64,int64)"
)


def make(lanes: int):  # type: ignore[no-untyped-def]
    """Compile the kernel for a number of lanes, which the compiler then knows."""
    L = U(lanes)

    @njit(SIGNATURE, nogil=True, error_model="numpy", boundscheck=False, cache=True)
    def run(
        coefficients, x, shared, p, q, capacity, own, chain_at, rows_of, offset, zone_in, zone_out, zonal, sun_row,
        outdoor_c, wind_h, sky_h, sky_c, shape, lit, asked, which, short, substeps, run_in_h,
    ):  # fmt: skip
        """Run the year after a run-in; returns the building's heating and cooling, W, (8760 * L), and the most sweeps."""
        one = U(1)
        elements, zones = U(len(rows_of)), U(len(q)) // (ZONE_FIELDS * L)
        hours = 8760
        dt = 3600.0 / substeps
        share = 1.0 / substeps
        heating, cooling = np.zeros(hours * lanes), np.zeros(hours * lanes)
        lit_rows = U(lit.shape[1])
        sun_rows = lit_rows - zones - one
        sun = np.empty(lit.shape[1] * lanes)
        block = np.empty(int(BLOCK) * lit.shape[1] * lanes)
        row_in, row_out, enters, moved_by = np.empty(lanes), np.empty(lanes), np.empty(lanes), np.empty(lanes)
        # element sides that couple a zone to another: number at[z] to at[z + 1] - 1
        at = np.zeros(len(q) // (int(ZONE_FIELDS) * lanes) + 1, np.uint64)
        for j in range(len(zonal)):
            at[zone_in[zonal[j]] + one] += one
            at[zone_out[zonal[j]] + one] += one
        for z in range(zones):
            at[z + one] += at[z]
        fill = at.copy()
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
        coupling = np.empty(2 * len(zonal) * 4 * lanes)  # of each side: by other's air, by other's star, own hr, own hc
        most = 0

        for step in range(-run_in_h * substeps, hours * substeps):
            count = step // substeps
            hour = U(count if count >= 0 else count + hours)
            before = U((count + hours - 1) % hours)
            part = (step % substeps + 1.0) / substeps
            t_out = outdoor_c[before] + (outdoor_c[hour] - outdoor_c[before]) * part
            t_sky = sky_c[before] + (sky_c[hour] - sky_c[before]) * part
            air_h = 4.0 * 5.670374e-8 * (t_out + 273.15) ** 3
            wind_now, sky_now = wind_h[hour], sky_h[hour]
            counted = step >= 0
            if step == 0:
                for e in range(elements):
                    for i in range(rows_of[e]):
                        for k in range(L):
                            held = p[(e * FIELDS + AREA) * L + k] * capacity[(offset[e] + i) * L + k] * x[(offset[e] + i) * L + k]
                            q[(zone_in[e] * ZONE_FIELDS + STORED) * L + k] -= held
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
                            q[first + (CONVECTIVE + f) * L + k] = asked[which[k], hour, f * zones + z]
            bright = shape[hour, step % substeps]
            for z in range(zones):
                first, beam = z * ZONE_FIELDS * L, (sun_rows + z) * L
                for k in range(L):
                    a = first + k
                    through = sun[beam + k] * bright
                    q[a + SUN * L] = through * short
                    q[a + WARMED * L] = q[a + CONVECTIVE * L] + 0.5 * (1.0 - short) * through
                    q[a + SHONE * L] = q[a + RADIANT * L] + 0.5 * (1.0 - short) * through

            for z in range(zones):
                for k in range(L):
                    a = z * ZONE_FIELDS * L + k
                    air = q[a + AIR * L]
                    need = min(max(q[a + BYPASS * L] + 0.5 - air, 0.0), 1.0)
                    need = 1.0 - need if t_out > air else need
                    flow = q[a + LEAK * L] + q[a + FRESH * L] * (1.0 - q[a + RECOVERY * L] * need)
                    inertia = q[a + CAPACITY * L] / dt
                    q[a + FLOW * L] = flow
                    q[a + M_RR * L] = 0.0
                    q[a + M_RA * L] = 0.0
                    q[a + M_AA * L] = inertia + flow
                    q[a + R_0 * L] = q[a + SHONE * L]
                    q[a + A_0 * L] = inertia * air + flow * t_out + q[a + WARMED * L]

            for e in range(elements):
                n, i = chain_at[e], offset[e] * L
                if own[e]:
                    for k in range(L):
                        new = coefficients[n + k] * x[i + k]
                        x[i + k] = new
                        row_in[k] = new
                    for _ in range(one, rows_of[e]):
                        n += NODE * L
                        i += L
                        for k in range(L):
                            new = coefficients[n + k] * x[i + k] - coefficients[n + L + k] * row_in[k]
                            x[i + k] = new
                            row_in[k] = new
                    inner = i
                    for _ in range(one, rows_of[e]):
                        n -= NODE * L
                        i -= L
                        for k in range(L):
                            new = x[i + k] - coefficients[n + U(2) * L + k] * row_in[k]
                            x[i + k] = new
                            row_in[k] = new
                else:
                    factor = coefficients[n]
                    for k in range(L):
                        new = factor * x[i + k]
                        x[i + k] = new
                        row_in[k] = new
                    for _ in range(one, rows_of[e]):
                        n += NODE
                        i += L
                        factor, low = coefficients[n], coefficients[n + one]
                        for k in range(L):
                            new = factor * x[i + k] - low * row_in[k]
                            x[i + k] = new
                            row_in[k] = new
                    inner = i
                    for _ in range(one, rows_of[e]):
                        n -= NODE
                        i -= L
                        up = coefficients[n + U(2)]
                        for k in range(L):
                            new = x[i + k] - up * row_in[k]
                            x[i + k] = new
                            row_in[k] = new
                c, first = e * SHARED, e * FIELDS * L
                mine, other, lit_at, ground_at = (
                    zone_in[e] * ZONE_FIELDS * L,
                    zone_out[e] * ZONE_FIELDS * L,
                    sun_row[e] * L,
                    (lit_rows - one) * L,
                )
                hr, hr_out, emissivity = shared[c + HR], shared[c + HR_OUT], shared[c + EMISSIVITY]
                low_in, span_in, sign_in = shared[c + LOW], shared[c + SPAN], shared[c + SIGN]
                low_out, span_out, sign_out = shared[c + LOW_OUT], shared[c + SPAN_OUT], shared[c + SIGN_OUT]
                wind = shared[c + WIND] * wind_now + shared[c + FIXED]
                for k in range(L):
                    b, a, o = first + k, mine + k, other + k
                    warm = min(max((p[b + SURF_IN * L] - q[a + AIR * L]) * sign_in + 0.5, 0.0), 1.0)
                    hc_in = low_in + span_in * warm
                    warm = min(max((p[b + SURF_OUT * L] - q[o + AIR * L]) * sign_out + 0.5, 0.0), 1.0)
                    hc_out = low_out + span_out * warm
                    p[b + HC_IN * L] = hc_in
                    p[b + HC_OUT * L] = hc_out
                    view = p[b + VIEW * L]
                    to_air = wind + (emissivity - view) * air_h
                    to_sky = view * sky_now
                    to_ground = p[b + GROUND_H * L]
                    h1 = to_air + to_sky + to_ground + hc_out + hr_out
                    e_out = (
                        to_air * t_out
                        + to_sky * t_sky
                        + to_ground * sun[ground_at + k]
                        + bright * sun[lit_at + k]
                        + p[b + SHARE_OUT * L] * q[o + SUN * L]
                    )
                    s_in = p[b + SHARE_IN * L] * q[a + SUN * L]
                    p[b + H1 * L] = h1
                    p[b + E_OUT * L] = e_out
                    p[b + S_IN * L] = s_in
                    g11, g12, g21, g22 = p[b + G11 * L], p[b + G12 * L], p[b + G21 * L], p[b + G22 * L]
                    cross = g12 * g21
                    x1, x2 = h1 - FILM_REF, hc_in + hr - FILM_REF
                    d11, d22 = 1.0 + g11 * x1, 1.0 + g22 * x2
                    det = 1.0 / (d11 * d22 - cross * x1 * x2)
                    r_in, r_out = x[inner + k], x[i + k]
                    b_in, c_in = (d11 * g22 - cross * x1) * det, g21 * det
                    b_out, c_out = (d22 * g11 - cross * x2) * det, g12 * det
                    p[b + B_IN * L] = b_in
                    p[b + C_IN * L] = c_in
                    p[b + B_OUT * L] = b_out
                    p[b + C_OUT * L] = c_out
                    p[b + KNOWN_IN * L] = (d11 * r_in - g21 * x1 * r_out) * det + b_in * s_in + c_in * e_out
                    p[b + KNOWN_OUT * L] = (d22 * r_out - g12 * x2 * r_in) * det + b_out * e_out + c_out * s_in
                for k in range(L):
                    b, a = first + k, mine + k
                    hc, slope, known = p[b + HC_IN * L], p[b + B_IN * L], p[b + KNOWN_IN * L]
                    by_air, by_star = p[b] * hc, p[b] * hr
                    q[a + M_RR * L] += by_star * (1.0 - slope * hr)
                    q[a + M_RA * L] += by_star * slope * hc
                    q[a + M_AA * L] += by_air * (1.0 - slope * hc)
                    q[a + R_0 * L] += by_star * known
                    q[a + A_0 * L] += by_air * known
            for j in range(len(zonal)):
                e = zonal[j]
                first, other, hr = e * FIELDS * L, zone_out[e] * ZONE_FIELDS * L, shared[e * SHARED + HR]
                for k in range(L):
                    b, a = first + k, other + k
                    hc, slope, known = p[b + HC_OUT * L], p[b + B_OUT * L], p[b + KNOWN_OUT * L]
                    by_air, by_star = p[b] * hc, p[b] * hr
                    q[a + M_RR * L] += by_star * (1.0 - slope * hr)
                    q[a + M_RA * L] += by_star * slope * hc
                    q[a + M_AA * L] += by_air * (1.0 - slope * hc)
                    q[a + R_0 * L] += by_star * known
                    q[a + A_0 * L] += by_air * known
            for j in range(sides):
                e = side_element[j]
                first, s, hr = e * FIELDS * L, j * U(4) * L, shared[e * SHARED + HR]
                far, near, cross_by = (HC_OUT, HC_IN, C_IN) if side_within[j] else (HC_IN, HC_OUT, C_OUT)
                for k in range(L):
                    b = first + k
                    through = p[b] * p[b + cross_by * L]
                    coupling[s + k] = through * p[b + far * L]
                    coupling[s + L + k] = through * hr
                    coupling[s + U(2) * L + k] = hr
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
                    for k in range(L):
                        a = first + k
                        base = row_in[k] * q[a + PER_RR * L]
                        free = (row_out[k] + q[a + M_RA * L] * base) * q[a + PER_STIFF * L]
                        new = min(max(free, q[a + HEAT * L]), q[a + COOL * L])
                        star = base + q[a + SLOPE * L] * new
                        q[a + LOAD * L] = q[a + STIFF * L] * (new - free)
                        moved_by[k] = max(moved_by[k], max(abs(new - q[a + AIR * L]), abs(star - q[a + STAR * L])))
                        q[a + AIR * L] = new
                        q[a + STAR * L] = star
                moved = 0.0
                for k in range(L):
                    moved = max(moved, moved_by[k])
            most = max(most, sweep)

            for e in range(elements):
                first, mine, other = e * FIELDS * L, zone_in[e] * ZONE_FIELDS * L, zone_out[e] * ZONE_FIELDS * L
                hr, hr_out = shared[e * SHARED + HR], shared[e * SHARED + HR_OUT]
                for k in range(L):
                    b, a, o = first + k, mine + k, other + k
                    v_in = p[b + HC_IN * L] * q[a + AIR * L] + hr * q[a + STAR * L]
                    v_out = p[b + HC_OUT * L] * q[o + AIR * L] + hr_out * q[o + STAR * L]
                    t_in = p[b + KNOWN_IN * L] + p[b + B_IN * L] * v_in + p[b + C_IN * L] * v_out
                    t_outer = p[b + KNOWN_OUT * L] + p[b + B_OUT * L] * v_out + p[b + C_OUT * L] * v_in
                    around = p[b + E_OUT * L] + v_out
                    p[b + SURF_IN * L] = t_in
                    p[b + SURF_OUT * L] = t_outer
                    row_out[k] = around - (p[b + H1 * L] - FILM_REF) * t_outer
                    row_in[k] = p[b + S_IN * L] + v_in - (p[b + HC_IN * L] + hr - FILM_REF) * t_in
                    enters[k] = around - p[b + H1 * L] * t_outer
                if counted:
                    for k in range(L):
                        b, a = first + k, mine + k
                        q[a + BALANCE * L] += p[b] * dt * (enters[k] + p[b + S_IN * L])
                        q[a + THROUGHPUT * L] += p[b] * dt * (abs(enters[k]) + p[b + S_IN * L])
                    if hr_out > 0.0:  # only elements between zones have a radiant film outside
                        for k in range(L):
                            b, a = first + k, other + k
                            q[a + BALANCE * L] -= p[b] * dt * (enters[k] - p[b + E_OUT * L])
                            q[a + THROUGHPUT * L] += p[b] * dt * abs(enters[k])
                n, i = chain_at[e], offset[e] * L
                if own[e]:
                    for _ in range(rows_of[e]):
                        for k in range(L):
                            x[i + k] += coefficients[n + U(3) * L + k] * row_out[k] + coefficients[n + U(4) * L + k] * row_in[k]
                        n += NODE * L
                        i += L
                else:
                    for _ in range(rows_of[e]):
                        by_out, by_in = coefficients[n + U(3)], coefficients[n + U(4)]
                        for k in range(L):
                            x[i + k] += by_out * row_out[k] + by_in * row_in[k]
                        n += NODE
                        i += L

            if counted:
                for z in range(zones):
                    first = z * ZONE_FIELDS * L
                    for k in range(L):
                        a = first + k
                        gain, load, air = q[a + WARMED * L] + q[a + SHONE * L], q[a + LOAD * L], q[a + AIR * L]
                        through = q[a + FLOW * L] * (t_out - air)
                        q[a + BALANCE * L] += (gain + through + load) * dt
                        q[a + THROUGHPUT * L] += (abs(gain) + abs(through) + abs(load)) * dt
                        q[a + OPERATIVE * L] += 0.5 * (air + q[a + STAR * L]) * share
                    for k in range(L):
                        load = q[first + LOAD * L + k]
                        heating[hour * L + k] += max(load, 0.0) * share
                        cooling[hour * L + k] += max(-load, 0.0) * share
                    if step % substeps == substeps - 1:
                        for k in range(L):
                            a = first + k
                            operative, present = q[a + OPERATIVE * L], q[a + OCCUPIED * L]
                            q[a + WARM_H * L] += present if operative > q[a + WARM_C * L] else 0.0
                            q[a + COLD_H * L] += present if operative < q[a + COLD_C * L] else 0.0
                            q[a + OPERATIVE * L] = 0.0

        for e in range(elements):
            for i in range(rows_of[e]):
                for k in range(L):
                    held = p[(e * FIELDS + AREA) * L + k] * capacity[(offset[e] + i) * L + k] * x[(offset[e] + i) * L + k]
                    q[(zone_in[e] * ZONE_FIELDS + STORED) * L + k] += held
        for z in range(zones):
            for k in range(L):
                a = z * ZONE_FIELDS * L + k
                q[a + STORED * L] += q[a + CAPACITY * L] * q[a + AIR * L]
        return heating, cooling, most

    return run


RUN = {lanes: make(lanes) for lanes in LANES}
"""The compiled kernel for each number of lanes."""
