"""Illuminance at sensors: hour by hour over a year, and under an overcast sky."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from eurythm.climate.year import HOURS, ClimateYear
from eurythm.daylight import outlook, room, suns
from eurythm.daylight.compiled import gather, gather_straight
from eurythm.daylight.efficacy import light_of
from eurythm.daylight.enclosure import Reflectance
from eurythm.daylight.glass import Glass, Panes
from eurythm.daylight.outlook import Around, Bundle, brightness, dullness, look
from eurythm.daylight.room import Rays, rooms_of
from eurythm.daylight.sensors import Sensor
from eurythm.daylight.suns import by_hour, suns_on
from eurythm.geometry.building import Building, Face, Vec
from eurythm.model.place import Place

Series = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Illuminance:
    """Light on sensors (K).

    Attributes
    ----------
    lux : (K, 8760)
    source : where luminous efficacy comes from
    overcast : works out the daylight factors; not before they are asked for, since the year's light goes without
    """

    sensors: tuple[Sensor, ...]
    lux: Series
    source: str
    overcast: Callable[[], Series] = field(repr=False)

    @cached_property
    def daylight_factor(self) -> Series:
        """Of the light on open level ground under the CIE overcast sky, (K,)."""
        return self.overcast()


@dataclass(frozen=True, eq=False)
class Skin:
    """What of the skin daylight hangs on.

    Attributes
    ----------
    glass : the glazing of a face's window
    reflectance : of an inner surface
    veils : by the id of a face with blinds, what these let through in each hour, (8760,)
    """

    glass: Glass
    reflectance: Reflectance
    veils: Mapping[str, Series]


def illuminance(
    building: Building, place: Place, climate: ClimateYear, sensors: Sequence[Sensor], skin: Skin, every: int = 1
) -> Illuminance:
    """Return the light on sensors of any zones; zones without glass are dark. With `every`, only one of so many hours is lit, and sensors look out
    through larger cells.

    Glass, its sizes and reflectances only weigh ways of light that are kept by the form and what stands around.
    """
    lux = np.zeros((len(sensors), HOURS))
    light = light_of(climate)
    rooms = [own for own in rooms_of(building, sensors, every > 1) if own.facades]
    if not rooms:
        return Illuminance(tuple(sensors), lux, light.source, lambda: np.zeros(len(sensors)))
    around = Around(building, place, climate, every)
    up = around.up
    looked = look(rooms, around)
    sun, even, band = light.sun[up], light.even[up], light.band[up]
    back = brightness(looked.bounce, around, (sun, even, band))
    number = 0
    rows, seen, direct, veils = [], [], [], []
    for here in rooms:
        answer = here.answer(skin.reflectance)
        bundles = looked.bundles[number : number + len(here.inside.rays)]
        number += len(bundles)
        for alike in by_veil(here.faces, skin):
            own, straight = np.zeros((3 + looked.groups, len(here.which))), np.zeros((len(here.which), len(up)))
            spread = np.zeros((2, len(around.suns[0]), len(here.which)))
            for facade in alike:
                panes = Panes(here.faces[facade], skin.glass)
                ways = [(rays, bundle) for rays, bundle in zip(here.inside.rays, bundles, strict=True) if rays.number == facade]
                own += diffuse(panes, ways, answer, len(here.which), looked.groups, here.placed.turn)
                spread += suns_on(here, facade, panes, answer, around, straight)
            rows.append(here.which)
            seen.append(own)
            direct.append(straight + by_hour(spread, around))
            veil = skin.veils.get(here.faces[alike[0]].id)
            veils.append(None if veil is None else veil[up])
    table = np.concatenate(seen, axis=1)
    hourly = np.maximum(table[:2].T @ np.stack([even, band]), 0.0) + table[3:].T.astype(np.float32) @ back
    whole, first = np.zeros((len(sensors), len(up))), 0
    for which, sunny, veil in zip(rows, direct, veils, strict=True):
        part = slice(first, first + len(which))
        first = part.stop
        own_light = hourly[part] + sunny * sun
        whole[which] += own_light if veil is None else own_light * veil
    lux[:, up] = whole

    def overcast() -> Series:
        factors = np.zeros(len(sensors))
        np.add.at(factors, np.concatenate(rows), table[2] + dullness(looked.bounce, around) @ table[3:])
        return factors

    return Illuminance(tuple(sensors), lux, light.source, overcast)


def forget() -> None:
    """Forget everything that was seen, such as through other glass."""
    for part in (outlook, room, suns):
        part.forget()


def by_veil(faces: Sequence[Face], skin: Skin) -> list[list[int]]:
    """Return numbers of façades: all without blinds together, each with blinds by itself."""
    bare = [k for k, face in enumerate(faces) if face.id not in skin.veils]
    return [*([bare] if bare else []), *([k] for k, face in enumerate(faces) if face.id in skin.veils)]


def diffuse(panes: Panes, own: Sequence[tuple[Rays, Bundle]], answer: Series, sensors: int, groups: int, turn: Vec) -> Series:
    """Return what the sensors of a room see through one façade of the sky's parts and of each group, (3 + G, sensors).

    Parameters
    ----------
    own : the ways through this façade, and what they meet
    answer : (N, K) what patches bring sensors; unused where all ways are straight
    """
    out = np.zeros((3 + groups, sensors))
    for rays, seen in own:
        value = np.zeros(len(rays.cell))
        for (count, visible), areas in panes.open_areas(rays.facade).items():
            value += areas[rays.cell] * rays.angles.through(count) * visible
        value *= rays.form
        if panes.louvred:
            value *= panes.past_louvres(rays.toward @ turn)
        if rays.straight:
            gather_straight(rays.to, seen.group, seen.sky, value, out)
        else:
            gather(rays.to, seen.group, seen.sky, value, answer, out)
    return out
