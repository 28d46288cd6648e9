"""The formulas of one element, zone or opening in one step, compiled into every kernel.

Plain functions of numbers or of lanes; the kernels call them in their inner loops, so that a formula is written once. All are smooth or
clipped ramps of the last step's state: no threshold may turn a rounding error into another result.
"""

from __future__ import annotations

import math

from numba import njit

from eurythm.thermal.lanes import above

OUTDOORS, GROUND, ZONE, ADIABATIC, FIXED = 0, 1, 2, 3, 4
UPRIGHT, LOOKS_UP, LOOKS_DOWN = 0, 1, 2
BAND_K = 0.5
SIGMA = 5.670374e-8
RADIANT_H = 4.0 * SIGMA * 293.15**3
FILM_REF = 5.0
"""Film at both ends of every factored chain, W/m²K."""
AIR_HEAT = 1006.0
EVAPORATION = 2.5e6
"""Heat of evaporation of water at 0 °C, J/kg, to which latent loads are counted."""
FILM_NEAR, FILM_RAMP = 0.8, 0.8
"""Differences of inside films up to which a step is not solved again, and the ramp beyond, W/m²K."""
LEAST_COIL_K = 2.0
"""A coil is colder than the room by this at least."""
formula = njit(error_model="numpy", nogil=True, fastmath={"contract"})


@formula
def film(low, span, sign, surface_c, air_c):
    """Inside convective coefficient, W/m2K: 5.0 for heat rising, 2.5 level, 0.7 for heat sinking (ISO 13789, annex C).

    ``low + span`` times a ramp half a kelvin wide over the difference of the last step.
    """
    return low + span * min(max((surface_c - air_c) * sign + 0.5, 0.0), 1.0)


@formula
def corrected(used, wanted):
    """Film to solve a step with again, W/m2K: the one that its temperatures want, or the one used where that is about as good.

    In between through a ramp, so that a step that is solved again goes on from where one that is not stands.
    """
    off = wanted - used
    return used + off * min(max((abs(off) - FILM_NEAR) * (1.0 / FILM_RAMP), 0.0), 1.0)


@formula
def coil_flow(load, air_c, coil_c):
    """Air that a cooling load needs to send over a coil, kg/s, which leaves it at the coil's own temperature (apparatus dew point)."""
    return max(-load, 0.0) / (AIR_HEAT * max(air_c - coil_c, LEAST_COIL_K))


@formula
def answers(g11, g12, g22, h_out, h_in, r_in, r_out, s_in, e_out):
    """How the two surfaces of a chain answer in a step, in closed form.

    ``g`` are the chain's answers to 1 W/m² with the reference film at both ends, ``h`` the real films, ``r`` its surfaces' own
    temperatures, ``s_in`` and ``e_out`` what meets either surface beside its zones, W/m². With v what a zone adds by its films, returns
    b_in, b_out, cross, known_in, known_out of

        T_in = known_in + b_in v_in + cross v_out,   T_out = known_out + b_out v_out + cross v_in
    """
    b_in, b_out, cross, keeps_in, keeps_out = weights(g11, g12, g22, h_out, h_in)
    known_in, known_out = knowns(b_in, b_out, cross, keeps_in, keeps_out, h_out, h_in, r_in, r_out, s_in, e_out)
    return b_in, b_out, cross, known_in, known_out


@formula
def weights(g11, g12, g22, h_out, h_in):
    """What of `answers` depends on films alone: b_in, b_out, cross, and what each surface keeps of its own temperature."""
    x1, x2, square = h_out - FILM_REF, h_in - FILM_REF, g12 * g12
    d11, d22 = 1.0 + g11 * x1, 1.0 + g22 * x2
    det = 1.0 / (d11 * d22 - square * x1 * x2)
    return (d11 * g22 - square * x1) * det, (d22 * g11 - square * x2) * det, g12 * det, d11 * det, d22 * det


@formula
def knowns(b_in, b_out, cross, keeps_in, keeps_out, h_out, h_in, r_in, r_out, s_in, e_out):
    """Both surfaces of `answers` but for what their zones add, °C."""
    known_in = keeps_in * r_in - cross * (h_out - FILM_REF) * r_out + b_in * s_in + cross * e_out
    known_out = keeps_out * r_out - cross * (h_in - FILM_REF) * r_in + b_out * e_out + cross * s_in
    return known_in, known_out


@formula
def outdoors(view, wind, still, emissivity, around, lit):
    """Films of an outside in the open air together, W/m²K, and its surroundings weighted by them with the sun that is absorbed, W/m².

    `around` holds the air's and the sky's temperature, the wind's film, and those of radiation to air and sky.
    """
    t_out, t_sky, wind_h, air_h, sky_h = around
    to_air, to_sky = wind * wind_h + still + (emissivity - view) * air_h, view * sky_h
    return to_air + to_sky, to_air * t_out + to_sky * t_sky + lit


@formula
def beyond(ground_h, fixed_h, ground_swing, fixed_e, swing, lit):
    """The same of an outside that stands against the ground or a stated temperature."""
    return ground_h + fixed_h, ground_swing * swing + fixed_e + lit


@formula
def onto(area, hc, hr, b, known):
    """What a surface makes of its zone's sums: radiant node by itself and by the air, air by itself, W/K, and what is known into both, W."""
    by_air, by_star = area * hc, area * hr
    return by_star * (1.0 - b * hr), by_star * b * hc, by_air * (1.0 - b * hc), by_star * known, by_air * known


@formula
def fluxes(t_in, t_out, v_in, s_in, passing, h_out, h_in):
    """What enters an element from outside, W/m², and the fluxes into either end with the reference film, inner and outer.

    `v_in` is what its zone adds by its films, `passing` all that surrounds its outer surface, weighted by films.
    """
    enters = passing - h_out * t_out
    return enters, s_in + v_in - (h_in - FILM_REF) * t_in, enters + FILM_REF * t_out


@formula
def recovered(bypass_c, air_c, outdoor_c):
    """Share of the heat recovery in use: full while the room is below the bypass temperature, and while it is hotter out."""
    need = min(max(bypass_c + 0.5 - air_c, 0.0), 1.0)
    return above(outdoor_c, air_c, 1.0 - need, need)


@formula
def enlarged(most, cool_c, air_c, outdoor_c):
    """Factor on mechanical outdoor air by the economiser: up to `most` as the room nears its cooling setpoint and it is
    cooler out."""
    need = min(max((air_c - cool_c + 1.5), 0.0), 1.0)
    helps = min(max((air_c - outdoor_c) * 0.5, 0.0), 1.0)
    return 1.0 + (most - 1.0) * need * helps


@formula
def cracks(by_wind, by_stack, wind_squared, apart_k):
    """Infiltration through cracks, W/K: wind and stack added in quadrature (Sherman and Grimsrud 1980)."""
    return math.sqrt(by_wind * wind_squared + by_stack * apart_k)


@formula
def windows(by_wind, by_stack, wind_squared, apart_k):
    """Flow through open windows, W/K, by the larger of what wind and stack drive (EN 16798-7, single-sided airing)."""
    return math.sqrt(max(by_wind * wind_squared, by_stack * apart_k))


@formula
def exchanged(fixed, by_stack, apart_k):
    """Exchange of air between two zones, W/K: a stated flow, and what their difference of temperature drives."""
    return math.sqrt(fixed + by_stack * apart_k)


@formula
def let_in(free_c, stiff, open_c, outdoor_c, most):
    """Flow that windows let in, W/K: what brings a room that would reach `free_c` down to `open_c`, at most `most`."""
    excess = stiff * max(free_c - open_c, 0.0)
    return min(excess / max(open_c - outdoor_c, 0.05), most)


@formula
def load_of(free_c, stiff, low_c, high_c, heat_most, cool_most):
    """Ideal load that keeps a zone between its setpoints, W, heating positive, within the plant's limits."""
    wanted = stiff * (min(max(free_c, low_c), high_c) - free_c)
    return min(max(wanted, -cool_most), heat_most)


@formula
def shut_by(open_air_c, cool_c):
    """How far windows stay shut in the next step because the room would be too warm with them open, 0 to 1."""
    return min(max(open_air_c - cool_c, 0.0), 1.0)


@formula
def saturated(air_c, pressure_pa):
    """Humidity ratio of saturated air, kg/kg (Magnus form, as `climate.air.saturation_pa`)."""
    vapour = min(610.5 * math.exp(17.269 * air_c / (237.3 + air_c)), 0.9 * pressure_pa)
    return 0.622 * vapour / (pressure_pa - vapour)


@formula
def surely_free(air_c, pressure_pa):
    """Humidity ratio below which air is not saturated in any case, kg/kg: the exponential's series instead of itself, which is dear."""
    x = 17.269 * air_c / (237.3 + air_c)
    more = max(x, 0.0)
    return 0.622 * 610.5 * (1.0 + x + 0.5 * more * more) / pressure_pa
