"""From what a request names (a scheme, a pin) to the case that is asked about."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from eurythm.api.office import Office
from eurythm.api.shapes import CaseAsk
from eurythm.explain.case import Case
from eurythm.model.errors import EurythmError, NotFound
from eurythm.model.project import Project
from eurythm.model.scheme import Scheme
from eurythm.store.projects import State
from eurythm.store.tables import PinRow
from eurythm.study.plan import inputs_of, shown, step_labels
from eurythm.study.runner import climate_of

# Of a case its title, the labels of all its steps, and which case of which study it is ("" for a scheme).
Called = tuple[str, Sequence[str], str]


@dataclass(frozen=True, eq=False)
class Titled:
    """A case with what it is called, the project that it belongs to and the revision that it stands on."""

    case: Case
    title: str
    subtitle: str
    project: Project
    revision: int
    labels: tuple[str, ...] = ()
    of_study: str = ""

    @property
    def called(self) -> Called:
        """What it is called, for telling it apart from others."""
        return self.title, self.labels, self.of_study


def told_apart(called: Sequence[Called]) -> list[str]:
    """Return titles of cases that stand side by side, so that no two are the same where anything tells them apart.

    Parameters
    ----------
    called
        What each case is called.

    Returns
    -------
    list of str
        The titles. Where two or more would be the same, each is followed by those of its labels that not all of them have;
        where that does not tell them apart, by which case of which study it is.
    """
    titles = [title for title, _, _ in called]

    def mend(addition: Callable[[int, list[int]], str]) -> None:
        for title in {t for t in titles if titles.count(t) > 1}:
            same = [k for k, t in enumerate(titles) if t == title]
            for k, more in [(k, addition(k, same)) for k in same]:
                titles[k] = f"{title}, {more}" if more else title

    def own_labels(k: int, same: list[int]) -> str:
        shared = set.intersection(*(set(called[j][1]) for j in same))
        return ", ".join(label for label in called[k][1] if label not in shared)

    mend(own_labels)
    mend(lambda k, _: called[k][2])
    return titles


def scheme_of(project: Project, scheme_id: str) -> Scheme:
    """Return a scheme of a project. Raises NotFound."""
    try:
        return project.scheme(scheme_id)
    except KeyError:
        raise NotFound("no-such-scheme", f"There is no scheme “{scheme_id}”.", f"schemes/{scheme_id}") from None


def case_of_scheme(here: Office, state: State, scheme_id: str) -> Titled:
    """Return a scheme as it stands. Raises NotFound, or EurythmError without weather."""
    project, scheme = state.project, scheme_of(state.project, scheme_id)
    subtitle = "reference" if scheme_id == project.reference else "as it stands"
    return _titled(here, state, project, scheme, scheme.name, subtitle, state.revision)


def case_of_pin(here: Office, state: State, pin: PinRow) -> Titled:
    """Return a pinned case of a study, or a pinned scheme.

    Raises
    ------
    EurythmError
        Where the scheme was removed or the case's steps cannot be taken.
    """
    if pin.scheme_id is not None:
        if all(s.id != pin.scheme_id for s in state.project.schemes):
            raise EurythmError("scheme-removed", "This scheme was removed.", f"pins/{pin.id}")
        return case_of_scheme(here, state, pin.scheme_id)
    assert pin.study_id is not None
    assert pin.number is not None
    return case_of_study(here, state, pin.study_id, pin.number)


def case_of_study(here: Office, state: State, study_id: str, number: int) -> Titled:
    """Return a case of a study. Raises NotFound, or EurythmError where its steps cannot be taken."""
    study = here.studies.state(study_id)
    inputs = study.inputs()
    one = here.studies.case(study, number)
    labels = step_labels(study.spec, shown(study.spec, inputs), one, inputs)
    taken = inputs_of(study.spec, one, inputs)
    project = study.base.model_copy(update={"place": taken.place, "library": taken.library, "factors": state.project.factors})
    title = f"{taken.scheme.name}, {', '.join(labels[:2])}"
    of_study = f"case {number} of “{study.name}”"
    subtitle = f"{of_study}: {', '.join(labels)}"
    made = _titled(here, state, project, taken.scheme, title, subtitle, study.revision)
    return replace(made, labels=tuple(labels), of_study=of_study)


def base_of_study(here: Office, state: State, study_id: str) -> Titled:
    """Return the scheme that a study was asked of, as it stood then. Raises NotFound, or EurythmError without weather."""
    study = here.studies.state(study_id)
    project = study.base.model_copy(update={"factors": state.project.factors})
    scheme = study.inputs().scheme
    return _titled(here, state, project, scheme, scheme.name, "as it was when this was asked", study.revision)


def cases_asked(here: Office, project_id: str, asked: Sequence[CaseAsk]) -> list[Titled]:
    """Return the cases that a request names. Raises NotFound, or EurythmError where an entry names neither scheme nor pin."""
    state = here.projects.state(project_id)
    found = []
    for one in asked:
        if sum(name is not None for name in (one.scheme, one.pin, one.study)) != 1 or (one.study is None) != (one.number is None):
            raise EurythmError("wrong-case", "Name a scheme, a pin, or a study and the number of a case.", "cases")
        if one.scheme is not None:
            found.append(case_of_scheme(here, state, one.scheme))
        elif one.study is not None and one.number is not None:
            here.studies.refuse_other(project_id, one.study)
            found.append(case_of_study(here, state, one.study, one.number))
        else:
            assert one.pin is not None
            found.append(case_of_pin(here, state, here.studies.pin_of(project_id, one.pin)))
    return found


def _titled(here: Office, state: State, project: Project, scheme: Scheme, title: str, subtitle: str, revision: int) -> Titled:
    climate = climate_of(project.place, here.projects.files(state.id))
    return Titled(Case(project.place, project.library, scheme, project.factors, climate), title, subtitle, project, revision)
