"""The compiled heat balance: all zones of a case, a year, step by step, for one case or for many side by side.

One source, compiled for several numbers of *lanes*: one lane is a case alone, which keeps what happened by the hour; with
more lanes the cases stand side by side as innermost axis (`thermal.lanes`), and nothing is kept but what a table of cases needs.
All cases of a batch have the same elements and zones and differ in areas, views, layers, radiation, gains and
setpoints; elements whose layers are alike in all of them read one set of coefficients.

Each element is a chain of nodes from its outer to its inner surface, implicit in time, with a constant reference film at
both ends; it is carried by its modes (`chains.modes_of`), two at a time. A step of it gives its surfaces' own temperatures r,
after which the two surface temperatures follow from the real films of the step in closed form (`elements.answers`):

    T1 = r1 + G11 q1 + G12 q2,   T2 = r2 + G12 q1 + G22 q2,   q = E - (h - h_ref) T

with E the film-weighted surroundings plus absorbed radiation. Zones are a star: one air and one radiant node.

Inside films follow the direction of the heat flow: a step is solved with those of the last step, and again where its own temperatures ask
for other ones (`elements.corrected`).

Each element is met once a step: its last step is finished with the zones as they are now, and the next one begun. So balances are
booked one step late, and a pass at the end closes them.

Fields and the records of arguments stand in `thermal.tables`; `thermal.layout` makes the arrays, also those for work in between.
The method stands in docs/method.md.
"""

from __future__ import annotations

import numpy as np
from numba import njit, types

from eurythm.thermal import elements as formulas
from eurythm.thermal import lanes as vectors
from eurythm.thermal import tables
from eurythm.thermal.compiling import compiled
from eurythm.thermal.elements import (
    AIR_HEAT,
    BAND_K,
    EVAPORATION,
    SIGMA,
    answers,
    beyond,
    coil_flow,
    corrected,
    cracks,
    enlarged,
    exchanged,
    film,
    fluxes,
    knowns,
    let_in,
    load_of,
    onto,
    outdoors,
    recovered,
    saturated,
    shut_by,
    surely_free,
    weights,
    windows,
)  # fmt: skip
from eurythm.thermal.lanes import above, most_of, numbers_at, rows

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
"""Hours of radiation that are brought in, and of demand that are handed on, at once: whole lines of memory of each lane and row."""
S, E = tables.table("Shared", tables.SHARED_COLUMNS), tables.table("Element", tables.ELEMENT_COLUMNS)
Z, Y = tables.table("Zone", tables.ZONE_COLUMNS), tables.table("System", tables.SYSTEM_COLUMNS)
SHARED, ELEMENT, ZONE, SYSTEM = U(len(S)), U(len(E)), U(len(Z)), U(len(Y))
ASKED, GAINS = U(len(tables.ASKED_COLUMNS)), U(len(tables.GAIN_COLUMNS))
RECORDS = (tables.Chains, tables.Elements, tables.Zones, tables.Paths, tables.Weather, tables.Hours, tables.Left)
SIGNATURE = types.int64(*(tables.record_type(kind) for kind in RECORDS), types.float64[::1], tables.record_type(tables.Steps))
"""Records, room to work in, steps."""
inner = njit(error_model="numpy", nogil=True, fastmath={"contract"})


def room_for(lit_rows: int, asked_rows: int, sides: int, paths: int, lanes: int) -> int:
    """Return how many doubles the kernel needs to work in."""
    return lanes * (int(BLOCK) * (lit_rows + asked_rows) + 4 * sides + paths + 1)


@inner
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


@inner
def holding(c, n, fours, x, i, holds, by_out, by_in):  # type: ignore[no-untyped-def]
    """What the modes of an element hold after a step that is not carried out yet, J/m²."""
    total = 0.0
    for _ in range(fours * MODES):
        total = total + holds[i] * (c[n] * x[i] + c[n + U(1)] * by_out + c[n + U(2)] * by_in)
        n += MODE
        i += U(1)
    return total


@inner
def finish(b, mine, other, between, weight, p, q):  # type: ignore[no-untyped-def]
    """Book what passed through an element with the zones as they are; returns its surfaces' temperatures and fluxes, inner first."""
    area, hc_in, hr_in, s_in, e_out, h1 = p[b + E.area], p[b + E.hc_in], p[b + E.radiant_in], p[b + E.s_in], p[b + E.e_out], p[b + E.h1]
    cross, passing = p[b + E.cross], e_out
    v_in = hc_in * q[mine + Z.air] + hr_in * q[mine + Z.star]
    t_in = p[b + E.known_in] + p[b + E.b_in] * v_in
    t_out = p[b + E.known_out] + cross * v_in
    if between:
        v_out = p[b + E.hc_out] * q[other + Z.air] + p[b + E.radiant_out] * q[other + Z.star]
        t_in = t_in + cross * v_out
        t_out = t_out + p[b + E.b_out] * v_out
        passing = e_out + v_out
    enters, by_in, by_out = fluxes(t_in, t_out, v_in, s_in, passing, h1, hc_in + hr_in)
    by = area * weight
    q[mine + Z.balance] += by * (enters + s_in)
    q[mine + Z.throughput] += by * (abs(enters) + s_in)
    if between:
        q[other + Z.balance] -= by * (enters - e_out)
        q[other + Z.throughput] += by * abs(enters)
    return t_in, t_out, by_in, by_out


@inner
def finish_all(weight, shared, zone_in, zone_out, p, q):  # type: ignore[no-untyped-def]
    """Finish the last step of all elements."""
    for e in range(U(len(zone_in))):
        b, mine, other = e * ELEMENT, zone_in[e] * ZONE, zone_out[e] * ZONE
        t_in, t_out, by_in, by_out = finish(b, mine, other, shared[e * SHARED + S.between] > 0.0, weight, p, q)
        p[b + E.surf_in], p[b + E.surf_out], p[b + E.flux_in], p[b + E.flux_out] = t_in, t_out, by_in, by_out


@inner
def answer(b, c, mine, other, between, r_in, r_out, around, lit, swing, shared, p, q):  # type: ignore[no-untyped-def]
    """How an element answers to its zones in this step (`elements.answers`), kept and added to their sums.

    `r_in` and `r_out` are its surfaces' own temperatures; `around` the air's and the sky's temperature and films, `lit` the sun it
    absorbs outside, W/m², and `swing` the ground's.
    """
    area, hc_in, hr_in, hc_out = p[b + E.area], p[b + E.hc_in], p[b + E.radiant_in], p[b + E.hc_out]
    s_in = p[b + E.share_in] * q[mine + Z.sun]
    if between:
        h1, e_out = hc_out + p[b + E.radiant_out], p[b + E.share_out] * q[other + Z.sun]
    elif shared[c + S.open] > 0.0:
        h1, e_out = outdoors(p[b + E.sees_sky], shared[c + S.wind], shared[c + S.still], shared[c + S.emissivity], around, lit)
    else:
        h1, e_out = beyond(p[b + E.ground_h], p[b + E.fixed_h], p[b + E.ground_swing], p[b + E.fixed_e], swing, lit)
    b_in, b_out, cross, known_in, known_out = answers(p[b + E.g11], p[b + E.g12], p[b + E.g22], h1, hc_in + hr_in, r_in, r_out, s_in, e_out)
    p[b + E.h1], p[b + E.e_out], p[b + E.s_in] = h1, e_out, s_in
    p[b + E.b_in], p[b + E.cross], p[b + E.known_in], p[b + E.known_out] = b_in, cross, known_in, known_out
    add(1.0, mine, onto(area, hc_in, hr_in, b_in, known_in), q)
    if between:  # only elements between zones have a radiant film outside
        p[b + E.b_out] = b_out
        add(1.0, other, onto(area, hc_out, p[b + E.radiant_out], b_out, known_out), q)


@inner
def settle(steady, zone_in, zone_out, p, q):  # type: ignore[no-untyped-def]
    """What elements between zones whose films stay make of answers and sums, for the whole year."""
    for e in range(U(len(steady))):
        if not steady[e]:
            continue
        b, mine, other = e * ELEMENT, zone_in[e] * ZONE, zone_out[e] * ZONE
        area, hc_in, hr_in, hc_out, hr_out = p[b + E.area], p[b + E.hc_in], p[b + E.radiant_in], p[b + E.hc_out], p[b + E.radiant_out]
        b_in, b_out, cross, keeps_in, keeps_out = weights(p[b + E.g11], p[b + E.g12], p[b + E.g22], hc_out + hr_out, hc_in + hr_in)
        p[b + E.h1], p[b + E.b_in], p[b + E.b_out], p[b + E.cross] = hc_out + hr_out, b_in, b_out, cross
        p[b + E.keeps_in], p[b + E.keeps_out] = keeps_in, keeps_out
        for zone, hc, hr, by in ((mine, hc_in, hr_in, b_in), (other, hc_out, hr_out, b_out)):
            rr, ra, aa, _, _ = onto(area, hc, hr, by, by)
            q[zone + Z.steady_rr] += rr
            q[zone + Z.steady_ra] += ra
            q[zone + Z.steady_aa] += aa


@inner
def recall(b, mine, other, r_in, r_out, p, q):  # type: ignore[no-untyped-def]
    """How an element between zones answers whose films stay: `answer`, where only what is known changes."""
    area, hc_in, hr_in, hc_out, hr_out = p[b + E.area], p[b + E.hc_in], p[b + E.radiant_in], p[b + E.hc_out], p[b + E.radiant_out]
    s_in, e_out = p[b + E.share_in] * q[mine + Z.sun], p[b + E.share_out] * q[other + Z.sun]
    b_in, b_out, cross, h1 = p[b + E.b_in], p[b + E.b_out], p[b + E.cross], p[b + E.h1]
    known_in, known_out = knowns(b_in, b_out, cross, p[b + E.keeps_in], p[b + E.keeps_out], h1, hc_in + hr_in, r_in, r_out, s_in, e_out)
    p[b + E.s_in], p[b + E.e_out], p[b + E.known_in], p[b + E.known_out] = s_in, e_out, known_in, known_out
    q[mine + Z.r_0] += area * hr_in * known_in
    q[mine + Z.a_0] += area * hc_in * known_in
    q[other + Z.r_0] += area * hr_out * known_out
    q[other + Z.a_0] += area * hc_out * known_out


@inner
def add(sign, zone, sums, q):  # type: ignore[no-untyped-def]
    """Add what a surface makes of them to its zone's sums, or take it away."""
    rr, ra, aa, known_r, known_a = sums
    q[zone + Z.m_rr] += sign * rr
    q[zone + Z.m_ra] += sign * ra
    q[zone + Z.m_aa] += sign * aa
    q[zone + Z.r_0] += sign * known_r
    q[zone + Z.a_0] += sign * known_a


@inner
def solve_together(k, L, q, at, side_other, coupling, path_at, end_path, end_other, through_path, t_out):  # type: ignore[no-untyped-def]
    """Solve air and star of all zones of one lane in one dense system, every plant and window doing what it does now.

    Zones that are held, or whose windows stand ajar, are prescribed; the sweeps that follow find whether that still holds.
    """
    zones = U(len(at) - 1)
    matrix, right = np.zeros((2 * int(zones), 2 * int(zones))), np.zeros(2 * int(zones))
    for z in range(zones):
        a, star = z * ZONE * L + k, zones + z
        load, opened, by_air = q[a + Z.load * L], q[a + Z.opened * L], q[a + Z.by_air * L]
        matrix[star, star], matrix[star, z], right[star] = q[a + Z.m_rr * L], -q[a + Z.m_ra * L], q[a + Z.r_0 * L]
        ajar = load == 0.0 and opened > 0.0 and opened < q[a + Z.most_open * L]
        held = ajar or (load > 0.0 and load < q[a + Z.heat_most * L]) or (load < 0.0 and -load < q[a + Z.cool_most * L])
        if held:
            matrix[z, z], matrix[z, star] = by_air, 1.0 - by_air
            right[z] = q[a + Z.open_c * L] if ajar else q[a + Z.heat * L] if load > 0.0 else q[a + Z.cool * L]
        else:
            matrix[z, z], matrix[z, star] = q[a + Z.m_aa * L] + opened, -q[a + Z.m_ra * L]
            right[z] = q[a + Z.a_0 * L] + opened * t_out + load
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
        a = z * ZONE * L + k
        q[a + Z.air * L], q[a + Z.star * L] = found[z], found[zones + z]


@inner
def store(sign, alike, apart, x, p, q, holds, own, chain_at, fours, offset, zone_in):  # type: ignore[no-untyped-def]
    """Add what all elements and the air of all zones hold to their zones' stores; modes stand one step back, their last fluxes beside them."""
    for e in range(U(len(fours))):
        b = e * ELEMENT
        if own[e]:
            held = holding(apart, chain_at[e], fours[e], x, offset[e], holds, p[b + E.flux_out], p[b + E.flux_in])
        else:
            held = holding(alike, chain_at[e], fours[e], x, offset[e], holds, p[b + E.flux_out], p[b + E.flux_in])
        q[zone_in[e] * ZONE + Z.stored] += sign * p[b + E.area] * held


@inner
def couples(count, zone_in, zone_out, joins):  # type: ignore[no-untyped-def]
    """What joins each zone to others: where its list begins, and of each entry what joins, the other zone, and whether this one is its first."""
    one = U(1)
    at = np.zeros(count + 1, np.uint64)
    for j in joins:
        at[zone_in[j] + one] += one
        at[zone_out[j] + one] += one
    for z in range(U(count)):
        at[z + one] += at[z]
    fill = at.copy()
    by, other, first = np.empty(2 * len(joins), np.uint64), np.empty(2 * len(joins), np.uint64), np.empty(2 * len(joins), np.bool_)
    for j in joins:
        for within in (True, False):
            mine, beyond = (zone_in[j], zone_out[j]) if within else (zone_out[j], zone_in[j])
            by[fill[mine]], other[fill[mine]], first[fill[mine]] = j, beyond, within
            fill[mine] += one
    return at, by, other, first


@inner
def alike_in_all(at, first, L):  # type: ignore[no-untyped-def]
    """Whether all lanes read from one place."""
    same = True
    for k in range(L):
        same &= at[first + k] == at[first]
    return same


@inner
def bring_in(r, hour, lit_at, lit_rows, block, block_, L):  # type: ignore[no-untyped-def]
    """Bring in a row of light for the hours of a block: at once where all lanes have the same."""
    if alike_in_all(lit_at, r * L, L):
        row = numbers_at(lit_at[r * L])
        for h in range(BLOCK):
            block[h * lit_rows + r] = row[hour + h]
    else:
        for k in range(L):
            row = numbers_at(lit_at[r * L + k])
            for h in range(BLOCK):
                block_[(h * lit_rows + r) * L + k] = row[hour + h]


@inner
def hand_on(hour, asked_, systems, moist, L):  # type: ignore[no-untyped-def]
    """Hand on what systems were asked in the block of hours that ends with this one, to each lane's own rows; without moisture its rows stay."""
    count, first = U(systems.shape[1]), hour + U(1) - BLOCK
    for r in range(count):
        if r % SYSTEM >= Y.coiled and not moist:
            continue
        for k in range(L):
            for h in range(BLOCK):
                systems[k, r, first + h] = asked_[(h * count + r) * L + k]


@inner
def fill_hour(first, fields, zones, hour, anew, at, one_set, row, kinds, scales, scales_, q, q_, L):  # type: ignore[no-untyped-def]
    """Write this hour of unit series into the zones' fields from `first` on, scaled; lanes with the same set at once, and what goes on as it was not at all.

    Zones of a kind have the same row of them.
    """
    begin = hour * fields * kinds
    if one_set:
        series = numbers_at(at[0])
        goes_on = hour > 0 and not anew
        if goes_on:
            for i in range(begin, begin + fields * kinds):
                goes_on &= series[i] == series[i - fields * kinds]
        if goes_on:
            return
        for z in range(zones):
            for f in range(fields):
                q[z * ZONE + first + f] = scales[z * fields + f] * series[begin + f * kinds + row[z]]
    else:
        for k in range(L):
            series = numbers_at(at[k])
            for z in range(zones):
                for f in range(fields):
                    q_[(z * ZONE + first + f) * L + k] = series[begin + f * kinds + row[z]] * scales_[(z * fields + f) * L + k]


@inner
def begin_zones(zones, block, row, bright, t_out, gusts, per_dt, opens, leaks, q):  # type: ignore[no-untyped-def]
    """What each zone's air and radiant node have by themselves in this step: sun, gains, air, and how far windows may open."""
    for z in range(zones):
        a = z * ZONE
        through = block[row + z] * bright
        inward = 0.5 * (1.0 - q[a + Z.short]) * through
        air = q[a + Z.air]
        leaked = q[a + Z.leak]
        if leaks:
            leaked = leaked + cracks(q[a + Z.leak_wind], q[a + Z.leak_stack], gusts, abs(air - t_out))
        supply = q[a + Z.fresh] * enlarged(q[a + Z.economy], q[a + Z.cool], air, t_out)
        supplied = supply * (1.0 - q[a + Z.recovery] * recovered(q[a + Z.bypass], air, t_out))
        flow = leaked + supplied + q[a + Z.bridge]
        inertia = q[a + Z.capacity] * per_dt
        warmed, shone = q[a + Z.convective] + inward + supply * q[a + Z.fan_k], q[a + Z.radiant] + inward
        q[a + Z.sun], q[a + Z.warmed], q[a + Z.shone] = through * q[a + Z.short], warmed, shone
        q[a + Z.leaked], q[a + Z.supply], q[a + Z.supplied_wk], q[a + Z.flow] = leaked, supply, supplied, flow
        q[a + Z.m_rr], q[a + Z.m_ra], q[a + Z.m_aa] = q[a + Z.steady_rr], q[a + Z.steady_ra], q[a + Z.steady_aa] + inertia + flow
        q[a + Z.r_0], q[a + Z.a_0] = shone, inertia * air + flow * t_out + warmed
        if opens:
            apart_k = air - t_out
            widest = windows(q[a + Z.open_wind], q[a + Z.open_stack], gusts, abs(apart_k)) * min(max(apart_k, 0.0), 1.0)
            q[a + Z.potential] = widest
            q[a + Z.most_open] = widest * (1.0 - q[a + Z.shut] * (1.0 - q[a + Z.mixed]))


@inner
def begin_paths(path_a, path_b, paths, through_path, q):  # type: ignore[no-untyped-def]
    """What each air path carries in this step, W/K."""
    for j in range(U(len(path_a))):
        mine, other = path_a[j] * ZONE, path_b[j] * ZONE
        through = exchanged(paths[j * U(2)], paths[j * U(2) + U(1)], abs(q[mine + Z.air] - q[other + Z.air]))
        through_path[j] = through
        q[mine + Z.m_aa] += through
        q[other + Z.m_aa] += through


@inner
def couple(all_of_them, side_element, side_within, steady, coupling, p):  # type: ignore[no-untyped-def]
    """What each side of an element between zones brings from the other zone: by its air and star; and its own films.

    Only those whose films follow the step change from one to the next.
    """
    for j in range(U(len(side_element))):
        b, s = side_element[j] * ELEMENT, j * U(4)
        if steady[side_element[j]] and not all_of_them:
            continue
        far, near = (E.hc_out, E.hc_in) if side_within[j] else (E.hc_in, E.hc_out)
        far_r, near_r = (E.radiant_out, E.radiant_in) if side_within[j] else (E.radiant_in, E.radiant_out)
        through = p[b + E.area] * p[b + E.cross]
        coupling[s], coupling[s + U(1)] = through * p[b + far], through * p[b + far_r]
        coupling[s + U(2)], coupling[s + U(3)] = p[b + near_r], p[b + near]


@inner
def reduce_zones(zones, q):  # type: ignore[no-untyped-def]
    """Solve the radiant node of each zone for its air."""
    for z in range(zones):
        a = z * ZONE
        rr, ra, by_air = q[a + Z.m_rr], q[a + Z.m_ra], q[a + Z.by_air]
        whole, control = q[a + Z.m_aa] * rr - ra * ra, by_air * rr + (1.0 - by_air) * ra
        per = 1.0 / (rr * whole * control)  # one division for all: they are dear
        per_rr, per_whole = whole * control * per, rr * control * per
        q[a + Z.per_rr], q[a + Z.slope] = per_rr, ra * per_rr
        q[a + Z.stiff], q[a + Z.per_stiff], q[a + Z.per_control] = whole * per_rr, rr * per_whole, rr * (rr * whole * per)


@inner
def sweep_zones(zones, at, side_other, coupling, path_at, end_path, end_other, through_path, t_out, opens, q):  # type: ignore[no-untyped-def]
    """Solve each zone once with the others as they are, kept between its setpoints; returns the largest move, K."""
    moves = 0.0
    for z in range(zones):
        a = z * ZONE
        by_star, by_air = q[a + Z.r_0], q[a + Z.a_0]
        for j in range(at[z], at[z + U(1)]):
            o, s = side_other[j] * ZONE, j * U(4)
            add = coupling[s] * q[o + Z.air] + coupling[s + U(1)] * q[o + Z.star]
            by_star = by_star + coupling[s + U(2)] * add
            by_air = by_air + coupling[s + U(3)] * add
        for j in range(path_at[z], path_at[z + U(1)]):
            by_air = by_air + through_path[end_path[j]] * q[end_other[j] * ZONE + Z.air]
        base, outside = by_star * q[a + Z.per_rr], 1.0 - q[a + Z.by_air]
        stiff, per = q[a + Z.stiff], q[a + Z.per_stiff]
        push = by_air + q[a + Z.m_ra] * base
        free = push * per
        if opens:
            open_at = (q[a + Z.open_c] - outside * base) * q[a + Z.per_control]
            opened = let_in(free, stiff, open_at, t_out, q[a + Z.most_open])
            q[a + Z.opened], q[a + Z.closed_c] = opened, free
            stiff = stiff + opened
            per = 1.0 / stiff
            free = (push + opened * t_out) * per
        low = (q[a + Z.heat] - outside * base) * q[a + Z.per_control]
        high = (q[a + Z.cool] - outside * base) * q[a + Z.per_control]
        load = load_of(free, stiff, low, high, q[a + Z.heat_most], q[a + Z.cool_most])
        new = free + load * per
        star = base + q[a + Z.slope] * new
        moves = max(moves, max(abs(new - q[a + Z.air]), abs(star - q[a + Z.star])))
        q[a + Z.load], q[a + Z.high_c], q[a + Z.air], q[a + Z.star] = load, high, new, star
    return moves


@inner
def turn_films(shared, zone_in, zone_out, due, p, q):  # type: ignore[no-untyped-def]
    """Give elements the films that the step's own temperatures ask for; those whose film changes leave their zones' sums and are due again.

    Returns how many are.
    """
    count = 0
    for e in range(U(len(zone_in))):
        c, b = e * SHARED, e * ELEMENT
        if shared[c + S.span] + shared[c + S.span_out] == 0.0:
            continue
        mine, other, between = zone_in[e] * ZONE, zone_out[e] * ZONE, shared[c + S.between] > 0.0
        hc_in, hc_out, cross = p[b + E.hc_in], p[b + E.hc_out], p[b + E.cross]
        new_in, new_out = hc_in, hc_out
        v_in = hc_in * q[mine + Z.air] + p[b + E.radiant_in] * q[mine + Z.star]
        t_in = p[b + E.known_in] + p[b + E.b_in] * v_in
        if between:
            v_out = hc_out * q[other + Z.air] + p[b + E.radiant_out] * q[other + Z.star]
            t_in = t_in + cross * v_out
            if shared[c + S.span_out] > 0.0:
                t_out = p[b + E.known_out] + p[b + E.b_out] * v_out + cross * v_in
                new_out = corrected(
                    hc_out, film(shared[c + S.low_out], shared[c + S.span_out], shared[c + S.sign_out], t_out, q[other + Z.air])
                )
        if shared[c + S.span] > 0.0:
            new_in = corrected(hc_in, film(shared[c + S.low], shared[c + S.span], shared[c + S.sign], t_in, q[mine + Z.air]))
        if most_of(abs(new_in - hc_in) + abs(new_out - hc_out)) > 0.0:
            area = p[b + E.area]
            add(-1.0, mine, onto(area, hc_in, p[b + E.radiant_in], p[b + E.b_in], p[b + E.known_in]), q)
            if between:
                add(-1.0, other, onto(area, hc_out, p[b + E.radiant_out], p[b + E.b_out], p[b + E.known_out]), q)
            p[b + E.hc_in], p[b + E.hc_out] = new_in, new_out
            due[e] = True
            count += 1
    return count


@inner
def dampen(zones, system, counted, now, share, per_dt, damp, pressure, asked, q):  # type: ignore[no-untyped-def]
    """Moisture of each zone after the step, and what coils and plant take out of it and put in."""
    for z in range(zones):
        a, y = z * ZONE, system[z] * SYSTEM
        fresh = (q[a + Z.leaked] + q[a + Z.supply] + q[a + Z.opened]) / AIR_HEAT
        held = q[a + Z.vapour_mass] * per_dt
        stays, comes = held + fresh, held * q[a + Z.vapour] + fresh * damp + q[a + Z.moisture]
        coil, dry = coil_flow(q[a + Z.load], q[a + Z.air], q[a + Z.coil_c]), q[a + Z.coil_vapour]
        free = comes / stays
        free = above(free, dry, (comes + coil * dry) / (stays + coil), free)  # what is wetter than the coil condenses on it
        wettest = above(q[a + Z.occupied], 0.0, q[a + Z.wettest], 1.0)
        driest = above(q[a + Z.occupied], 0.0, q[a + Z.driest], 0.0)
        new, by_plant, condensed = free, 0.0 * free, coil * max(free - dry, 0.0)
        if most_of(max(max(driest, 1.0 - wettest), free - surely_free(q[a + Z.air], pressure))) > 0.0:
            full = saturated(q[a + Z.air], pressure)
            new = min(max(free, driest * full), wettest * full)
            condensed = coil * max(new - dry, 0.0)
            by_plant = above(abs(new - free), 0.0, comes - stays * new - condensed, 0.0)
        q[a + Z.vapour] = new
        if counted:
            dried = above(1.0, wettest, max(by_plant, 0.0), 0.0)  # at saturation it falls out unasked
            asked[now + y + Y.coiled] += condensed * (EVAPORATION * share)
            asked[now + y + Y.dried] += dried * (EVAPORATION * share)
            asked[now + y + Y.wetted] += max(-by_plant, 0.0) * (EVAPORATION * share)


@inner
def book_paths(path_a, path_b, through_path, dt, q):  # type: ignore[no-untyped-def]
    """Book what air paths carried."""
    for j in range(U(len(path_a))):
        mine, other = path_a[j] * ZONE, path_b[j] * ZONE
        through = through_path[j] * (q[other + Z.air] - q[mine + Z.air]) * dt
        q[mine + Z.balance] += through
        q[other + Z.balance] -= through
        q[mine + Z.throughput] += abs(through)
        q[other + Z.throughput] += abs(through)


@inner
def book_zones(zones, system, ends, now, dt, share, t_out, adaptive, asked, q):  # type: ignore[no-untyped-def]
    """Book the step of each zone: its balance, its system's demand, and at the end of the hour whether it was too warm or too cold."""
    for z in range(zones):
        a, y = z * ZONE, system[z] * SYSTEM
        gain, load, air = q[a + Z.warmed] + q[a + Z.shone], q[a + Z.load], q[a + Z.air]
        through = (q[a + Z.flow] + q[a + Z.opened]) * (t_out - air)
        q[a + Z.balance] += (gain + through + load) * dt
        q[a + Z.throughput] += (abs(gain) + abs(through) + abs(load)) * dt
        asked[now + y + Y.heating] += max(load, 0.0) * share
        asked[now + y + Y.cooling] += max(-load, 0.0) * share
        asked[now + y + Y.supplied] += q[a + Z.supply] * share
        asked[now + y + Y.vented] += (q[a + Z.supplied_wk] * (t_out - air) + q[a + Z.supply] * q[a + Z.fan_k]) * share
        asked[now + y + Y.air] += air * share
        heating, cooling = q[a + Z.hour_heating] + max(load, 0.0) * share, q[a + Z.hour_cooling] + max(-load, 0.0) * share
        operative = q[a + Z.operative] + 0.5 * (air + q[a + Z.star]) * share
        q[a + Z.air_h] += air * share
        if ends:
            q[a + Z.heating] += heating
            q[a + Z.cooling] += cooling
            q[a + Z.most_heating] = max(q[a + Z.most_heating], heating)
            q[a + Z.most_cooling] = max(q[a + Z.most_cooling], cooling)
            heating, cooling = heating * 0.0, cooling * 0.0
            warm_c = q[a + Z.warm_c] + q[a + Z.warm_adapts] * adaptive
            q[a + Z.warm_h] += above(operative, warm_c, q[a + Z.occupied], 0.0)
            q[a + Z.cold_h] += above(q[a + Z.cold_c], operative, q[a + Z.occupied], 0.0)
            operative = operative * 0.0
        q[a + Z.operative], q[a + Z.hour_heating], q[a + Z.hour_cooling] = operative, heating, cooling


@inner
def keep(zones, hour, share, L, q_, kept):  # type: ignore[no-untyped-def]
    """Keep the hour of each zone, by `tables.KEPT`; one lane alone."""
    for z in range(zones):
        a = z * ZONE
        air, star, load = q_[(a + Z.air) * L], q_[(a + Z.star) * L], q_[(a + Z.load) * L]
        kept[0, z, hour] += air * share
        kept[1, z, hour] += 0.5 * (air + star) * share
        kept[2, z, hour] += max(load, 0.0) * share
        kept[3, z, hour] += max(-load, 0.0) * share
        kept[4, z, hour] += q_[(a + Z.leaked) * L] * share
        kept[5, z, hour] += q_[(a + Z.supply) * L] * share
        kept[6, z, hour] += q_[(a + Z.opened) * L] * share
        kept[7, z, hour] += q_[(a + Z.vapour) * L] * share


@inner
def write_down(now, elements, zones, L, p_, q_, through_, films, record, joints):  # type: ignore[no-untyped-def]
    """Record what the step decided, by `tables.RECORDED`; one lane alone."""
    for e in range(elements):
        films[0, e, now], films[1, e, now] = p_[(e * ELEMENT + E.hc_in) * L], p_[(e * ELEMENT + E.hc_out) * L]
    for z in range(zones):
        a = z * ZONE
        record[0, z, now], record[1, z, now] = q_[(a + Z.leaked) * L], q_[(a + Z.supplied_wk) * L]
        record[2, z, now], record[3, z, now] = q_[(a + Z.opened) * L], q_[(a + Z.load) * L]
        record[4, z, now], record[5, z, now] = q_[(a + Z.air) * L], q_[(a + Z.star) * L]
        record[6, z, now] = q_[(a + Z.supply) * L] * q_[(a + Z.fan_k) * L]
    for j in range(U(joints.shape[0])):
        joints[j, now] = through_[j * L]


def make(lanes: int):  # type: ignore[no-untyped-def]
    """Compile the kernel for a number of lanes, which the compiler then knows; under a name of its own, which its cache goes by."""
    L = U(lanes)

    def run(chains, parts, rooms, joins, weather, series, left, room, steps):  # type: ignore[no-untyped-def]
        """Run the year, or some days of it, after a run-in over the hours before; states and sums are left in the tables, demand in `left`.

        A name that ends with an underline is a flat array; the same name without it gives its rows.

        Returns
        -------
        most : most sweeps over the zones that any step needed
        """
        own, chain_at, fours, offset = chains.own, chains.at, chains.fours, chains.offset
        zone_in, zone_out, zonal, sun_row, p_, q_ = parts.zone_in, parts.zone_out, parts.zonal, parts.sun_row, parts.table, rooms.table
        path_a, path_b, outdoor_c, sky_c, system = joins.a, joins.b, weather.outdoor_c, weather.sky_c, rooms.system
        lit_at, asked_at, gains_at, asked_row, gain_row = series.lit_at, series.asked_at, series.gains_at, series.asked_row, series.gain_row
        opens, substeps, run_in_h = steps.opens, steps.substeps, steps.run_in_h
        elements, zones = U(len(fours)), U(len(system))
        hours, dt = 8760, 3600.0 / substeps
        share, per_dt = 1.0 / substeps, 1.0 / dt
        keeps, records = left.kept.shape[1] > 0, left.record.shape[1] > 0
        lit_rows = U(len(lit_at)) // L
        sun_rows = lit_rows - zones - U(1)
        at, side_element, side_other, side_within = couples(len(system), zone_in, zone_out, zonal)
        path_at, end_path, end_other, _ = couples(len(system), path_a, path_b, np.arange(len(path_a)))
        # room to work in: radiation of a day and what systems are asked in it; of each side by other's air, by other's star, own hr, own hc; air paths; moves
        asked_rows = U(left.systems.shape[1])
        to_asked, to_sides = int(BLOCK * lit_rows * L), int(BLOCK * (lit_rows + asked_rows) * L)
        to_paths = to_sides + 4 * len(side_element) * lanes
        to_moves = to_paths + len(path_a) * lanes
        block_, asked_, coupling_ = room[:to_asked], room[to_asked:to_sides], room[to_sides:to_paths]
        through_, moved_ = room[to_paths:to_moves], room[to_moves:]
        x, p, q, holds = rows(chains.x, lanes), rows(p_, lanes), rows(q_, lanes), rows(chains.holds, lanes)
        alike, apart, shared = rows(chains.alike, 1), rows(chains.apart, lanes), rows(parts.shared, 1)
        paths, block, asked = rows(joins.by, lanes), rows(block_, lanes), rows(asked_, lanes)
        asked_scales, gain_scales = rows(series.asked_scales, lanes), rows(series.gain_scales, lanes)
        coupling, through_path, moved_by = rows(coupling_, lanes), rows(through_, lanes), rows(moved_, lanes)
        one_asked, one_gains = alike_in_all(asked_at, U(0), L), alike_in_all(gains_at, U(0), L)
        asked_kinds, gain_kinds = U(asked_row.max()) + U(1), U(gain_row.max()) + U(1)
        most, sweep, due, steady = 0, 0, np.zeros(len(fours), np.bool_), np.zeros(len(fours), np.bool_)
        for e in range(elements):
            c = e * SHARED
            steady[e] = shared[c + S.between] > 0.0 and shared[c + S.span] + shared[c + S.span_out] == 0.0
        settle(steady, zone_in, zone_out, p, q)
        few = SOON if zones <= U(MANY_ZONES) else FEW_SWEEPS
        begin = steps.first_h * substeps
        first_step = begin - run_in_h * substeps

        for step in range(first_step, begin + steps.hours * substeps):
            count = step // substeps
            hour = U(count if count >= 0 else count + hours)
            before = U((count + hours - 1) % hours)
            part = (step % substeps + 1.0) / substeps
            t_out = outdoor_c[before] + (outdoor_c[hour] - outdoor_c[before]) * part
            t_sky = sky_c[before] + (sky_c[hour] - sky_c[before]) * part
            around = (t_out, t_sky, weather.wind_h[hour], 4.0 * SIGMA * (t_out + 273.15) ** 3, weather.sky_h[hour])
            counted = step >= begin
            under_way = step > first_step and step != begin
            weight = dt if step > begin else 0.0
            if step == begin:
                if run_in_h > 0:
                    finish_all(0.0, shared, zone_in, zone_out, p, q)
                store(-1.0, alike, apart, x, p, q, holds, own, chain_at, fours, offset, zone_in)
                for z in range(zones):
                    a = z * ZONE
                    q[a + Z.stored] -= q[a + Z.capacity] * q[a + Z.air]
            if step % substeps == 0:
                if hour % BLOCK == 0:
                    for r in range(lit_rows):
                        bring_in(r, hour, lit_at, lit_rows, block, block_, L)
                    for i in range(BLOCK * asked_rows * L):
                        asked_[i] = 0.0
                anew = step == first_step
                scales_ = series.asked_scales
                fill_hour(Z.fresh, ASKED, zones, hour, anew, asked_at, one_asked, asked_row, asked_kinds, asked_scales, scales_, q, q_, L)
                scales_ = series.gain_scales
                fill_hour(Z.convective, GAINS, zones, hour, anew, gains_at, one_gains, gain_row, gain_kinds, gain_scales, scales_, q, q_, L)
            sun, now = (hour % BLOCK) * lit_rows, (hour % BLOCK) * asked_rows
            swing = sun + lit_rows - U(1)
            bright = weather.shape[hour, step % substeps]
            begin_zones(zones, block, sun + sun_rows, bright, t_out, weather.wind_squared[hour], per_dt, opens, steps.leaks, q)
            begin_paths(path_a, path_b, paths, through_path, q)

            # each element: its last step is finished, its next begun; what films decide on waits for them
            for e in range(elements):
                c, b, mine, other = e * SHARED, e * ELEMENT, zone_in[e] * ZONE, zone_out[e] * ZONE
                between = shared[c + S.between] > 0.0
                if under_way:
                    t_in, t_outer, by_in, by_out = finish(b, mine, other, between, weight, p, q)
                else:
                    t_in, t_outer, by_in, by_out = p[b + E.surf_in], p[b + E.surf_out], p[b + E.flux_in], p[b + E.flux_out]
                if own[e]:
                    r_out, r_in = advance(apart, chain_at[e], fours[e], x, offset[e], by_out, by_in)
                else:
                    r_out, r_in = advance(alike, chain_at[e], fours[e], x, offset[e], by_out, by_in)
                if shared[c + S.span] + shared[c + S.span_out] > 0.0:
                    p[b + E.own_out], p[b + E.own_in] = r_out, r_in
                    if shared[c + S.span] > 0.0:
                        p[b + E.hc_in] = film(shared[c + S.low], shared[c + S.span], shared[c + S.sign], t_in, q[mine + Z.air])
                    if shared[c + S.span_out] > 0.0:
                        p[b + E.hc_out] = film(
                            shared[c + S.low_out], shared[c + S.span_out], shared[c + S.sign_out], t_outer, q[other + Z.air]
                        )
                    due[e] = True
                    continue
                if steady[e]:
                    recall(b, mine, other, r_in, r_out, p, q)
                    continue
                answer(b, c, mine, other, between, r_in, r_out, around, bright * block[sun + sun_row[e]], block[swing], shared, p, q)

            sweep = 0
            for solved in range(MOST_FILMS):
                for e in range(elements):
                    if due[e]:
                        c, b, mine, other = e * SHARED, e * ELEMENT, zone_in[e] * ZONE, zone_out[e] * ZONE
                        own_in, own_out, shines = p[b + E.own_in], p[b + E.own_out], bright * block[sun + sun_row[e]]
                        between = shared[c + S.between] > 0.0
                        answer(b, c, mine, other, between, own_in, own_out, around, shines, block[swing], shared, p, q)
                        due[e] = False
                couple(step == first_step, side_element, side_within, steady, coupling, p)
                reduce_zones(zones, q)

                # sweeps over the zones until nothing moves
                # what hung together with the films of the pass before does so still: a small move says nothing then
                if solved > 0 and sweep >= few:
                    for k in range(L):
                        solve_together(k, L, q_, at, side_other, coupling_, path_at, end_path, end_other, through_, t_out)
                sweep = 0
                moved = 1.0
                while moved > TOLERANCE_K and sweep < MOST_SWEEPS:
                    sweep += 1
                    moves = sweep_zones(zones, at, side_other, coupling, path_at, end_path, end_other, through_path, t_out, opens, q)
                    moved = most_of(moves)
                    if sweep % few == 0 and moved > TOLERANCE_K:
                        moved_by[U(0)] = moves
                        for k in range(L):
                            if moved_[k] > TOLERANCE_K:
                                solve_together(k, L, q_, at, side_other, coupling_, path_at, end_path, end_other, through_, t_out)
                most = max(most, sweep)

                # where the new temperatures turn a flow of heat, its film is another: once more with that
                if solved + 1 == MOST_FILMS or turn_films(shared, zone_in, zone_out, due, p, q) == 0:
                    break

            if records:
                write_down(U(step - first_step), elements, zones, L, p_, q_, through_, left.films, left.record, left.joints)
            if opens:
                for z in range(zones):
                    a = z * ZONE
                    stiff, widest = q[a + Z.stiff], q[a + Z.potential]
                    q[a + Z.shut] = shut_by((stiff * q[a + Z.closed_c] + widest * t_out) / (stiff + widest), q[a + Z.high_c])
            if steps.moist:
                damp, pressure = weather.vapour_out[hour], weather.pressure_pa[hour]
                dampen(zones, system, counted, now, share, per_dt, damp, pressure, asked, q)
            if counted:
                book_paths(path_a, path_b, through_path, dt, q)
                ends = step % substeps == substeps - 1
                book_zones(zones, system, ends, now, dt, share, t_out, weather.adaptive_c[hour], asked, q)
                if ends and hour % BLOCK == BLOCK - U(1):
                    hand_on(hour, asked_, left.systems, steps.moist, L)
                if keeps:
                    keep(zones, hour, share, L, q_, left.kept)

        finish_all(dt, shared, zone_in, zone_out, p, q)
        store(1.0, alike, apart, x, p, q, holds, own, chain_at, fours, offset, zone_in)
        for z in range(zones):
            a = z * ZONE
            q[a + Z.stored] += q[a + Z.capacity] * q[a + Z.air]
        return most

    return compiled(run, SIGNATURE, f"run_{lanes}", formulas, vectors, tables)


RUN = {lanes: make(lanes) for lanes in LANES}
"""The compiled kernel for each number of lanes."""
