"""Cases that come to the same, found before they are run: a rectangle turned by half a circle whose glass keeps to the compass."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from itertools import product
from typing import Any

import numpy as np
from numpy.typing import NDArray

from eurythm.assess.figures import WORST
from eurythm.geometry.building import Building, Face, Vec
from eurythm.model.errors import EurythmError
from eurythm.model.scheme import Scheme
from eurythm.model.study import LeverSpec
from eurythm.simulate import building_of
from eurythm.study.levers import CaseInputs
from eurythm.study.outcomes import of_zones
from eurythm.study.plan import Case, CaseList, inputs_of, part_of_lever
from eurythm.study.runner import CaseResult, Job, Runner, Starting, untold

MOST_FORMS = 300
"""More forms than these are not compared with each other: that would take longer than it saves."""
MILLIMETRE = 3


def _of_form(spec: LeverSpec) -> bool:
    """Whether a lever's steps can come to one form; steps of any other lever, and of a single field, always differ."""
    return spec.kind not in ("field", "facade", "zone") and part_of_lever(spec).step in ("form", "openings")


def same_cases(job: Job, cases: CaseList) -> NDArray[np.int64]:
    """Return for each case the place of the first one in the list that comes to the same: its own where there is none before it."""
    forms = _forms(job)
    if job.study.kind == "every" and len(set(forms.values())) == len(forms):
        return np.arange(len(cases))
    rows = cases.rows[cases.numbers - cases.first]
    if forms:
        of_form = np.array([_of_form(spec) for spec in job.study.levers])
        sizes = [len(spec.steps) for spec in job.study.levers if _of_form(spec)]
        which = {form: k for k, form in enumerate(dict.fromkeys(forms.values()))}
        of_steps = np.array([which[form] for form in forms.values()])
        rows = np.column_stack([of_steps[np.ravel_multi_index(tuple(rows[:, of_form].astype(int).T), sizes)], rows[:, ~of_form]])
    _, first, inverse = np.unique(rows, axis=0, return_index=True, return_inverse=True)
    same: NDArray[np.int64] = first[inverse.ravel()]
    return same


def run_all(runner: Runner, job: Job, cases: CaseList, starting: Starting = untold) -> Iterator[list[CaseResult]]:
    """Run cases, each that is the same as another one only once; yield the results of all of them in lots, as they come."""
    same = same_cases(job, cases)
    own = same == np.arange(len(cases))
    others: dict[int, list[int]] = {}
    for at in np.flatnonzero(~own):
        others.setdefault(int(cases.numbers[same[at]]), []).append(int(cases.numbers[at]))
    for lot in runner.run(job, cases.chosen(own), starting):
        yield [*lot, *(replace(result, number=n, seconds=0.0) for result in lot for n in others.get(result.number, ()))]


def _forms(job: Job) -> dict[tuple[str, ...], Any]:
    """What each combination of the form's levers comes to; nothing where there is none, or too many, or they are not combined."""
    if job.study.kind != "every" or any(spec.tied for spec in job.study.levers):
        return {}
    levers = [spec for spec in job.study.levers if _of_form(spec)]
    total = int(np.prod([len(spec.steps) for spec in levers])) if levers else 0
    if total < 2 or total > MOST_FORMS or not any(spec.kind == "turn" and len(spec.steps) > 1 for spec in levers):
        return {}
    found: dict[tuple[str, ...], Any] = {}
    named = any(spec.kind == "zone" for spec in job.study.levers) or any(not id.endswith(WORST) for id in of_zones(job.study))
    study = job.study.model_copy(update={"levers": tuple(levers), "left_out": ()})
    for number, steps in enumerate(product(*(spec.steps for spec in levers))):
        key = tuple(repr(s) for s in steps)
        try:
            found[key] = _known_by(inputs_of(study, Case(number, steps), job.base), named)
        except EurythmError:
            found[key] = key  # it will tell its reason when it is run
    return found


def _known_by(inputs: CaseInputs, named: bool) -> Any:
    """All that a result depends on of a form, whatever its parts are called and in which order they stand; zones that are `named` stay apart by name."""
    scheme = inputs.scheme
    building = building_of(inputs.place, scheme)
    named = named or bool(scheme.use.zones or scheme.air_paths)
    zones = {z.id: (z.id if named else "", z.profile, *_places(building, z.id)) for z in building.zones}
    rest = scheme.model_copy(
        update={
            "id": "-",
            "name": "",
            "turn_deg": 0.0,
            "turned_about": None,
            "skin": scheme.skin.model_copy(update={"turn_with": "building"}),
        }
    )
    faces = frozenset(_face(f, zones) for f in building.faces)
    shades = frozenset(_loop(s.corners) for s in building.shades)
    return faces, shades, len(building.faces), _without_sides(rest).model_dump_json()


def _without_sides(scheme: Scheme) -> Scheme:
    """A scheme without what only decides which wall has which glass and shade: that is seen at the walls."""
    default = type(scheme.skin)()
    names = ("glazing_ratio", "overhang_depth_m", "fin_depth_m", "louvre_depth_m")
    return scheme.model_copy(update={"skin": scheme.skin.model_copy(update={n: getattr(default, n) for n in names})})


def _places(building: Building, zone: str) -> tuple[Any, ...]:
    points = np.concatenate([loop for f in building.faces if zone in (f.zone, f.other) for loop in f.loops] or [np.zeros((1, 3))])
    return (*_rounded(points.min(axis=0)), *_rounded(points.max(axis=0)), *_rounded(points.sum(axis=0)))


def _face(face: Face, zones: dict[str, tuple[Any, ...]]) -> Any:
    across = np.cross(face.normal, face.along)
    windows = frozenset(
        (
            *_rounded(face.origin + face.along * (w.s + w.width / 2) + across * (w.z + w.height / 2)),
            *_rounded(np.array([w.width, w.height])),
            w.glazing,
        )
        for w in face.windows
    )
    between = frozenset(str(zones.get(z, z)) for z in (face.zone, face.other) if z is not None)
    loops = frozenset(_loop(loop) for loop in face.loops)
    return (
        face.kind,
        face.boundary,
        face.boundary_c,
        face.construction,
        face.air,
        face.border,
        face.louvres,
        face.blinds,
        between,
        loops,
        windows,
    )


def _loop(points: Vec) -> Any:
    return frozenset(_rounded(p) for p in points)


def _rounded(values: Vec) -> tuple[float, ...]:
    return tuple((np.round(values, MILLIMETRE) + 0.0).tolist())
