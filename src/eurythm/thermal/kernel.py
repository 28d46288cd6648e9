"""The compiled heat balance of one case: all zones, a year, hour by hour.

Plain functions on flat arrays; one signature, compiled and cached at set-up. `thermal.prepare` makes the arrays and says
what each holds. The method stands in docs/method.md.

Each element is a chain of nodes from its outer to its inner surface, implicit in time; chains stand side by side in
arrays of shape (nodes, elements), longest first, so that they are swept together. Its matrix holds a constant
reference film at both ends and is factored once; a step is one sweep, after which the two surface temperatures follow from
the real films of the hour in closed form:

    T1 = r1 + G11 q1 + G12 q2,   T2 = r2 + G21 q1 + G22 q2,   q = E - (h - h_ref) T

with E the film-weighted surroundings plus absorbed radiation. Zones are a star: one air and one radiant node.
"""

from __future__ import annotations

import numpy as np
from numba import njit

OUTDOORS, GROUND, ZONE, ADIABATIC = 0, 1, 2, 3
UPRIGHT, LOOKS_UP, LOOKS_DOWN = 0, 1, 2
BAND_K = 0.5
TOLERANCE_K = 1e-5
MOST_SWEEPS = 400
RADIANT_H = 4.0 * 5.670374e-8 * 293.15**3

F1, F2, I1 = "float64[::1]", "float64[:,::1]", "uint64[::1]"
SIGNATURE = (
    f"Tuple(({F2},{F2},{F2},{F2},{F1},int64))("
    f"{I1},{I1},{I1},{I1},{I1},{I1},{I1},{F1},{F1},{F1},{F1},"  # element shape
    f"{F2},{F2},{F2},{F2},{F2},{F2},"  # factored chains, node by element
    f"{F1},{F1},{F1},{F1},{F1},{I1},"  # element surfaces
    f"{F1},{F1},{F1},{F1},{F2},{F2},{F1},"  # weather
    f"{F1},{F2},{F2},{F1},{F2},float64,{F2},{F2},{F2},{F2},{F2},{F2},"  # zones
    "boolean,int64,int64)"
)


@njit(inline="always")
def convection(side, surface_c, air_c):
    """Inside convective coefficient, W/m2K: 5.0 for heat rising, 2.5 level, 0.7 for heat sinking (ISO 13789, annex C).

    The direction comes from the last step, through a ramp half a kelvin wide.
    """
    if side == UPRIGHT:
        return 2.5
    warm = (surface_c - air_c) / BAND_K + 0.5
    warm = min(max(warm, 0.0), 1.0)
    if side == LOOKS_DOWN:
        warm = 1.0 - warm
    return 0.7 + 4.3 * warm


@njit(SIGNATURE, cache=True, nogil=True, error_model="numpy", boundscheck=False)
def run_year(
    last,
    active,
    kind,
    zone_in,
    zone_out,
    side_in,
    side_out,
    area,
    film_ref,
    emissivity,
    sky_view,
    capacity,
    lower,
    pivot,
    upper,
    to_outer,
    to_inner,
    ground_h,
    share_in,
    share_out,
    standard_in,
    standard_out,
    sun_row,
    outdoor_c,
    wind_h,
    sky_h,
    sky_c,
    shape,
    sun_outside,
    ground_c,
    air_capacity,
    leak,
    fresh,
    recovery,
    solar,
    short,
    convective,
    radiant,
    heat_c,
    cool_c,
    bypass_c,
    start_c,
    standard,
    substeps,
    run_in_h,
):
    """Run the year after a run-in over its last hours; see `thermal.prepare.Arrays` for what each argument is.

    Returns
    -------
    air, operative : (Z, 8760) °C, means of the hour
    heating, cooling : (Z, 8760) W, means of the hour, both positive
    residual : (Z,) relative energy-balance error of each zone with its elements over the year
    sweeps : most sweeps that any step needed
    """
    # unsigned counters: the compiler then neither checks for negative indices nor gives up on vector code
    elements, zones, rows, one = np.uint64(len(last)), np.uint64(len(air_capacity)), np.uint64(len(capacity)), np.uint64(1)
    wide = elements
    hours = 8760
    dt = 3600.0 / substeps
    air_out = np.zeros((len(air_capacity), hours))
    operative_out = np.zeros((len(air_capacity), hours))
    heating_out = np.zeros((len(air_capacity), hours))
    cooling_out = np.zeros((len(air_capacity), hours))

    temp = start_c.copy()
    base = np.zeros((len(capacity) + 1, len(last)))
    inertia = capacity / dt
    # the same arrays flat
    base_f, temp_f, inertia_f = base.ravel(), temp.ravel(), inertia.ravel()
    lower_f, upper_f, pivot_f = lower.ravel(), upper.ravel(), pivot.ravel()
    to_outer_f, to_inner_f = to_outer.ravel(), to_inner.ravel()
    surface_in = np.empty(len(last))
    surface_out = np.empty(len(last))
    g11, g12, g21, g22 = np.empty(len(last)), np.empty(len(last)), np.empty(len(last)), np.empty(len(last))
    for e in range(elements):
        surface_out[e] = temp[0, e]
        surface_in[e] = temp[last[e], e]
        g11[e] = to_outer[0, e]
        g21[e] = to_outer[last[e], e]
        g12[e] = to_inner[0, e]
        g22[e] = to_inner[last[e], e]
    air = np.full(len(air_capacity), 20.0)
    star = np.full(len(air_capacity), 20.0)

    # per element and step: T_in = a_in + b_in E_in + c_in E_out and T_out = a_out + b_out E_out + c_out E_in
    a_in, b_in, c_in = np.empty(len(last)), np.empty(len(last)), np.empty(len(last))
    a_out, b_out, c_out = np.empty(len(last)), np.empty(len(last)), np.empty(len(last))
    hc_in, hc_out = np.empty(len(last)), np.zeros(len(last))
    hr = np.empty(len(last))
    s_in, e_out, h1, h2 = np.empty(len(last)), np.empty(len(last)), np.empty(len(last)), np.empty(len(last))
    r_in, known_in, known_out = np.empty(len(last)), np.empty(len(last)), np.empty(len(last))
    env_in, env_out = np.empty(len(last)), np.empty(len(last))
    flux_out, flux_in = np.empty(len(last)), np.empty(len(last))
    entered, passed, lit_in, lit_out = np.zeros(len(last)), np.zeros(len(last)), np.zeros(len(last)), np.zeros(len(last))
    m_rr, m_ra, m_aa, r_0, a_0 = (
        np.empty(len(air_capacity)),
        np.empty(len(air_capacity)),
        np.empty(len(air_capacity)),
        np.empty(len(air_capacity)),
        np.empty(len(air_capacity)),
    )
    per_rr, slope, stiff, per_stiff = (
        np.empty(len(air_capacity)),
        np.empty(len(air_capacity)),
        np.empty(len(air_capacity)),
        np.empty(len(air_capacity)),
    )
    load = np.zeros(len(air_capacity))
    flow_h, lit, warmed, shone = (
        np.empty(len(air_capacity)),
        np.empty(len(air_capacity)),
        np.empty(len(air_capacity)),
        np.empty(len(air_capacity)),
    )
    balance, throughput, stored = np.zeros(len(air_capacity)), np.zeros(len(air_capacity)), np.zeros(len(air_capacity))
    most = 0
    for e in range(elements):
        hr[e] = emissivity[e] * RADIANT_H
    # which element sides couple a zone to another: number at[z] to at[z + 1] - 1; `within` for an inner side
    at = np.zeros(len(air_capacity) + 1, np.uint64)
    for e in range(elements):
        if kind[e] == ZONE:
            at[zone_in[e] + one] += one
            at[zone_out[e] + one] += one
    for z in range(zones):
        at[z + one] += at[z]
    fill = at.copy()
    sides = np.empty(at[zones], np.uint64)
    within = np.empty(at[zones], np.bool_)
    for e in range(elements):
        if kind[e] == ZONE:
            sides[fill[zone_in[e]]] = e
            within[fill[zone_in[e]]] = True
            fill[zone_in[e]] += one
            sides[fill[zone_out[e]]] = e
            within[fill[zone_out[e]]] = False
            fill[zone_out[e]] += one

    for step in range(-run_in_h * substeps, hours * substeps):
        count = step // substeps
        hour = np.uint64(count if count >= 0 else count + hours)
        before = np.uint64((count + hours - 1) % hours)
        part = (step % substeps + 1.0) / substeps
        t_out = outdoor_c[before] + (outdoor_c[hour] - outdoor_c[before]) * part
        t_sky = sky_c[before] + (sky_c[hour] - sky_c[before]) * part
        air_h = 4.0 * 5.670374e-8 * (t_out + 273.15) ** 3
        bright = shape[hour, step % substeps]
        counted = step >= 0
        if step == 0:
            for e in range(elements):
                for i in range(last[e] + one):
                    stored[zone_in[e]] -= area[e] * capacity[i, e] * temp[i, e]
            for z in range(zones):
                stored[z] -= air_capacity[z] * air[z]

        for z in range(zones):
            # heat recovery helps while the room is below the middle of its setpoints, cools back while it is hotter out
            need = min(max(bypass_c[z, hour] + 0.5 - air[z], 0.0), 1.0)
            if t_out > air[z]:
                need = 1.0 - need
            flow_h[z] = leak[z, hour] + fresh[z, hour] * (1.0 - recovery[z] * need)
            m_rr[z] = 0.0
            m_ra[z] = 0.0
            m_aa[z] = air_capacity[z] / dt + flow_h[z]
            # sun through glass: most of it as light, the rest as heat of the inner pane, half to the air
            through = solar[z, hour] * bright
            lit[z] = short * through
            warmed[z] = convective[z, hour] + 0.5 * (1.0 - short) * through
            shone[z] = radiant[z, hour] + 0.5 * (1.0 - short) * through
            r_0[z] = shone[z]
            a_0[z] = air_capacity[z] / dt * air[z] + flow_h[z] * t_out + warmed[z]

        # forward and back substitution of all chains side by side, the reference films in the matrix
        for k in range(wide):
            base_f[k] = inertia_f[k] * temp_f[k]
        for i in range(one, rows):
            k = i * wide
            for e in range(active[i]):
                base_f[k + e] = inertia_f[k + e] * temp_f[k + e] - lower_f[k + e] * base_f[k + e - wide]
        for j in range(rows):
            i = rows - one - j
            k = i * wide
            for e in range(active[i]):
                base_f[k + e] = (base_f[k + e] - upper_f[k + e] * base_f[k + e + wide]) * pivot_f[k + e]

        # films and surroundings of each side
        for e in range(elements):
            z = zone_in[e]
            r_in[e] = base[last[e], e]
            s_in[e] = share_in[e] * lit[z]
            if standard:
                hc_in[e] = standard_in[e]
            else:
                hc_in[e] = convection(side_in[e], surface_in[e], air[z])
            if kind[e] == OUTDOORS:
                if standard:
                    h1[e] = 25.0
                    e_out[e] = 25.0 * t_out + bright * sun_outside[sun_row[e], hour]
                else:
                    to_sky = emissivity[e] * sky_view[e] * sky_h[hour]
                    to_air = emissivity[e] * (1.0 - sky_view[e]) * air_h
                    h1[e] = wind_h[hour] + to_sky + to_air
                    e_out[e] = (wind_h[hour] + to_air) * t_out + to_sky * t_sky + bright * sun_outside[sun_row[e], hour]
            elif kind[e] == ZONE:
                zo = zone_out[e]
                if standard:
                    hc_out[e] = standard_out[e]
                else:
                    hc_out[e] = convection(side_out[e], surface_out[e], air[zo])
                h1[e] = hc_out[e] + hr[e]
                e_out[e] = share_out[e] * lit[zo]
            elif kind[e] == GROUND:
                h1[e] = ground_h[e]
                e_out[e] = ground_h[e] * ground_c[hour]
            else:
                h1[e] = 0.0
                e_out[e] = 0.0

        for e in range(elements):
            r_out = base_f[e]
            h2[e] = hc_in[e] + hr[e]
            x1, x2 = h1[e] - film_ref[e], h2[e] - film_ref[e]
            d11, d22 = 1.0 + g11[e] * x1, 1.0 + g22[e] * x2
            det = 1.0 / (d11 * d22 - g12[e] * g21[e] * x1 * x2)
            a_in[e] = (d11 * r_in[e] - g21[e] * x1 * r_out) * det
            b_in[e] = (d11 * g22[e] - g21[e] * x1 * g12[e]) * det
            c_in[e] = (d11 * g21[e] - g21[e] * x1 * g11[e]) * det
            a_out[e] = (d22 * r_out - g12[e] * x2 * r_in[e]) * det
            b_out[e] = (d22 * g11[e] - g12[e] * x2 * g21[e]) * det
            c_out[e] = (d22 * g12[e] - g12[e] * x2 * g22[e]) * det
            known_in[e] = a_in[e] + b_in[e] * s_in[e] + c_in[e] * e_out[e]
            known_out[e] = a_out[e] + b_out[e] * e_out[e] + c_out[e] * s_in[e]

        for e in range(elements):
            z = zone_in[e]
            ah, ar = area[e] * hc_in[e], area[e] * hr[e]
            m_rr[z] += ar * (1.0 - b_in[e] * hr[e])
            m_ra[z] += ar * b_in[e] * hc_in[e]
            m_aa[z] += ah * (1.0 - b_in[e] * hc_in[e])
            r_0[z] += ar * known_in[e]
            a_0[z] += ah * known_in[e]
            if kind[e] == ZONE:
                zo = zone_out[e]
                bh = area[e] * hc_out[e]
                m_rr[zo] += ar * (1.0 - b_out[e] * hr[e])
                m_ra[zo] += ar * b_out[e] * hc_out[e]
                m_aa[zo] += bh * (1.0 - b_out[e] * hc_out[e])
                r_0[zo] += ar * known_out[e]
                a_0[zo] += bh * known_out[e]

        for z in range(zones):
            per_rr[z] = 1.0 / m_rr[z]
            slope[z] = m_ra[z] * per_rr[z]
            stiff[z] = m_aa[z] - m_ra[z] * slope[z]
            per_stiff[z] = 1.0 / stiff[z]

        # sweeps over the zones, each clamped to its setpoints, until nothing moves
        sweep = 0
        moved = 1.0
        while moved > TOLERANCE_K and sweep < MOST_SWEEPS:
            sweep += 1
            moved = 0.0
            for z in range(zones):
                more_r, more_a = 0.0, 0.0
                for k in range(at[z], at[z + one]):
                    e = sides[k]
                    if within[k]:
                        zo = zone_out[e]
                        add = area[e] * c_in[e] * (hc_out[e] * air[zo] + hr[e] * star[zo])
                        more_r += hr[e] * add
                        more_a += hc_in[e] * add
                    else:
                        zi = zone_in[e]
                        add = area[e] * c_out[e] * (hc_in[e] * air[zi] + hr[e] * star[zi])
                        more_r += hr[e] * add
                        more_a += hc_out[e] * add
                # radiant node: m_rr star = r + m_ra air;  air node: m_aa air = a + m_ra star + load
                offset = (r_0[z] + more_r) * per_rr[z]
                push = a_0[z] + more_a + m_ra[z] * offset
                new = push * per_stiff[z]
                load[z] = 0.0
                if new < heat_c[z, hour]:
                    new = heat_c[z, hour]
                    load[z] = stiff[z] * new - push
                elif new > cool_c[z, hour]:
                    new = cool_c[z, hour]
                    load[z] = stiff[z] * new - push
                new_star = offset + slope[z] * new
                moved = max(moved, abs(new - air[z]), abs(new_star - star[z]))
                air[z] = new
                star[z] = new_star
        most = max(most, sweep)

        for e in range(elements):
            z = zone_in[e]
            env_in[e] = hc_in[e] * air[z] + hr[e] * star[z] + s_in[e]
            env_out[e] = e_out[e]
            if kind[e] == ZONE:
                zo = zone_out[e]
                env_out[e] += hc_out[e] * air[zo] + hr[e] * star[zo]
        for e in range(elements):
            t2 = a_in[e] + b_in[e] * env_in[e] + c_in[e] * env_out[e]
            t1 = a_out[e] + b_out[e] * env_out[e] + c_out[e] * env_in[e]
            surface_in[e], surface_out[e] = t2, t1
            flux_out[e] = env_out[e] - (h1[e] - film_ref[e]) * t1
            flux_in[e] = env_in[e] - (h2[e] - film_ref[e]) * t2
        for i in range(rows):
            k = i * wide
            for e in range(active[i]):
                temp_f[k + e] = base_f[k + e] + to_outer_f[k + e] * flux_out[e] + to_inner_f[k + e] * flux_in[e]

        if counted:
            for e in range(elements):
                enters = env_out[e] - h1[e] * surface_out[e]
                entered[e] += enters
                passed[e] += abs(enters)
                lit_in[e] += s_in[e]
                lit_out[e] += e_out[e]
            for z in range(zones):
                gain = warmed[z] + shone[z]
                exchanged = flow_h[z] * (t_out - air[z])
                balance[z] += (gain + exchanged + load[z]) * dt
                throughput[z] += (abs(gain) + abs(exchanged) + abs(load[z])) * dt
                share = 1.0 / substeps
                air_out[z, hour] += air[z] * share
                operative_out[z, hour] += 0.5 * (air[z] + star[z]) * share
                if load[z] > 0:
                    heating_out[z, hour] += load[z] * share
                else:
                    cooling_out[z, hour] -= load[z] * share

    # a zone's balance takes in its air and the elements whose inside it is
    for e in range(elements):
        z = zone_in[e]
        for i in range(last[e] + one):
            stored[z] += area[e] * capacity[i, e] * temp[i, e]
        balance[z] += area[e] * dt * (entered[e] + lit_in[e])
        throughput[z] += area[e] * dt * (passed[e] + lit_in[e])
        if kind[e] == ZONE:
            # what enters the far side leaves that zone's air and star, but for the sun that fell on it
            zo = zone_out[e]
            balance[zo] -= area[e] * dt * (entered[e] - lit_out[e])
            throughput[zo] += area[e] * dt * passed[e]
    residual = np.zeros(len(air_capacity))
    for z in range(zones):
        stored[z] += air_capacity[z] * air[z]
        residual[z] = abs(balance[z] - stored[z]) / max(throughput[z], 1.0)
    return air_out, operative_out, heating_out, cooling_out, residual, most
