"""The facade for scripts and notebooks: a project in and out, edits, a simulated year, studies of every kind, comparison, reasons, report.

Everything else of the package may change without notice; this does not. Tables are pandas frames, errors are `EurythmError` with a sentence.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal

import pandas as pd

from eurythm.assess.attribution import attribution
from eurythm.assess.figures import OF_CASES, figures_of, flat
from eurythm.brief.assumed import assumed_values
from eurythm.brief.edits import Together, apply_edit
from eurythm.exchange.bundle import read_bytes
from eurythm.exchange.demo import demo_project
from eurythm.exchange.project_file import WeatherFile, read_project, write_project
from eurythm.explain.case import Case
from eurythm.model.amount import said
from eurythm.model.errors import EurythmError
from eurythm.model.project import Project as Documents
from eurythm.model.reading import read_document
from eurythm.model.study import StudySpec
from eurythm.report.compared.assumptions import still_assumed
from eurythm.report.compared.content import Asked, content
from eurythm.report.compared.paper import pdf_of
from eurythm.report.compared.pictures import form
from eurythm.report.compared.sheets import xlsx_of
from eurythm.report.compared.studied import study_told
from eurythm.report.compared.web import html_of
from eurythm.simulate import run
from eurythm.study.alternatives import alternatives
from eurythm.study.answers import answer
from eurythm.study.levers import LEVERS, CaseInputs
from eurythm.study.outcomes import outcomes_of
from eurythm.study.plan import case_at, check, count, step_labels
from eurythm.study.pool import Pool
from eurythm.study.runner import InProcess, Job, Runner, climate_of
from eurythm.study.whole import Ran, run_study

Units = Literal["SI", "IP"]


@dataclass(frozen=True)
class Year:
    """A scheme's simulated year."""

    scheme: str
    outcome: Mapping[str, Any]

    @property
    def figures(self) -> pd.Series:
        """Its figures by their ids, SI."""
        return pd.Series(flat(self.outcome), name=self.scheme, dtype=float)

    @property
    def zones(self) -> pd.DataFrame:
        """Its zones, a row each."""
        return pd.json_normalize(list(self.outcome["zones"])).set_index("id")

    @property
    def months(self) -> pd.DataFrame:
        """Its months, a row each, kWh."""
        return pd.json_normalize(list(self.outcome["monthly"])).set_index("month")

    @property
    def remarks(self) -> list[str]:
        """Its remarks as sentences."""
        return [said(r["sentence"]) for r in self.outcome["remarks"]]

    def _repr_html_(self) -> str:
        return str(_described(self.figures.to_frame())._repr_html_())


@dataclass(frozen=True)
class Study:
    """A study that has run: its cases, and what they say."""

    spec: StudySpec
    ran: Ran

    @property
    def cases(self) -> pd.DataFrame:
        """All cases, a row each: what is taken of each lever, status, reason, figures by their ids."""
        views, ids = check(self.spec, self.ran.job.base), [f.id for f in outcomes_of(self.spec)]
        rows = []
        for steps, result in self.ran.cases():
            taken = dict(zip((v.key for v in views), steps, strict=True))
            rows.append(
                {"number": result.number, **taken, "status": result.status, "reason": said(result.reason)} | flat(result.figures, ids)
            )
        return pd.DataFrame(rows).set_index("number")

    def effects(self, outcome: str = "eui_kwh_per_m2") -> pd.DataFrame:
        """What each lever or measure does to an outcome, the strongest first."""
        found = answer(self.spec, self.ran.table(), outcome, "cost_per_m2")
        if found.why:
            raise EurythmError("no-effects", found.why, "study")
        return pd.DataFrame([{"lever": e.lever, "span": e.span, **e.figures} for e in found.effects]).set_index("lever")

    def best(self, outcome: str = "eui_kwh_per_m2", against: str = "cost_per_m2") -> pd.DataFrame:
        """The cases that no other betters in both outcomes, or in the goals of a search."""
        return self.cases.loc[answer(self.spec, self.ran.table(), outcome, against).best]

    @property
    def alternatives(self) -> pd.DataFrame:
        """Of measures: every case with its money over the years against the baseline."""
        told = [r.figures for r in self.ran.results]
        rows = []
        for one in alternatives(self.spec, self.ran.rows, told, self.ran.job.base.factors):
            held = {} if one.held is None else dict(vars(one.held))
            rows.append({"taken": " + ".join(one.taken) or "baseline", **one.figures, **held, "avoided_kg": one.avoided_kg})
        return pd.DataFrame(rows)

    def labels(self, number: int) -> list[str]:
        """What a case is called by."""
        one = case_at(self.spec, number, self.ran.rows[number])
        return step_labels(self.spec, check(self.spec, self.ran.job.base), one, self.ran.job.base)

    def _repr_html_(self) -> str:
        return str(self.cases._repr_html_())


class Project:
    """A project: place, library, factors and schemes, with the weather files that they refer to."""

    def __init__(self, documents: Documents, files: Mapping[str, WeatherFile] | None = None) -> None:
        self._documents = documents
        self._files = dict(files or {})

    @property
    def documents(self) -> Documents:
        """Its documents, as they stand."""
        return self._documents

    @property
    def schemes(self) -> list[str]:
        """Ids of its schemes, the reference first."""
        ids = [s.id for s in self._documents.schemes]
        return sorted(ids, key=lambda name: name != self._documents.reference)

    def save(self, path: str | Path) -> None:
        """Write it as one file, which the page and the command line open."""
        Path(path).write_text(write_project(self._documents, self._files), encoding="utf-8")

    def edit(self, *edits: Mapping[str, Any]) -> Project:
        """Return the project with typed edits taken, all or none: ``{"op": "set", "path": "schemes/quay/turn_deg", "value": 20}``."""
        together = read_document(Together, {"op": "together", "edits": [dict(edit) for edit in edits]}, "edit")
        return Project(apply_edit(self._documents, together), self._files)

    def set(self, path: str, value: Any) -> Project:
        """Return the project with one value set."""
        return self.edit({"op": "set", "path": path, "value": value})

    def simulate(self, scheme: str | None = None, substeps: int = 1) -> Year:
        """Simulate a year of a scheme, of the reference where none is named."""
        case = self._case(scheme)
        made = run(case.place, case.library, case.scheme, case.factors, case.climate, substeps)
        return Year(case.scheme.id, made.outcome.as_dict())

    def compare(self, *schemes: str) -> pd.DataFrame:
        """Return figures of schemes side by side, all where none is named, a row each with title and unit."""
        years = [self.simulate(name) for name in schemes or self.schemes]
        return _described(pd.concat([year.figures for year in years], axis=1))

    def explain(self, scheme: str | None = None, use: Literal["heating", "cooling"] = "heating") -> pd.DataFrame:
        """Return what a scheme's load is made of: kWh a year, and W at its peak, by source, the largest first."""
        taken = self._case(scheme).taken_apart()
        told = attribution(taken.prepared.building, taken.prepared.arrays, taken.parts)
        names = {s["id"]: s["name"] for s in told["sources"]}
        own = told["building"][use]
        frame = pd.DataFrame({"kwh": own["parts_kwh"], "peak_w": own["peak"]["parts_w"]}).rename(index=names)
        return frame.reindex(frame["kwh"].abs().sort_values(ascending=False).index)

    def daylight(self, scheme: str | None = None) -> pd.Series:
        """Return the figures of daylight on a scheme's floors, judged for this question alone."""
        name = scheme or self._documents.reference
        judged = self.set(f"schemes/{name}/use/lights/floors", "yes").simulate(name).figures
        return judged[["daylit_share", "useful_daylight_share", "lighting_kwh_per_m2", "lighting_saved_kwh_per_m2"]]

    def assumed(self, scheme: str | None = None) -> pd.DataFrame:
        """Return the values of a scheme that nobody gave."""
        values = assumed_values(self._documents, self._case(scheme).scheme)
        return pd.DataFrame([{"path": v.path, "title": v.title, "value": v.value, "unit": v.unit, "source": v.source} for v in values])

    def count(self, **asked: Any) -> int:
        """Return how many cases a study would have; see `study`."""
        return count(self._asked(asked)[0])

    def study(self, *, processes: int = 1, **asked: Any) -> Study:
        """Run a study: ``kind``, ``levers``, ``measures``, ``goals`` and so on as in a study file; ``scheme`` is the reference unless named.

        Raises
        ------
        EurythmError
            Where the question cannot be answered, before anything runs.
        """
        spec, inputs = self._asked(asked)
        check(spec, inputs)
        pool = Pool(processes) if processes > 1 else None
        runner: Runner = pool or InProcess()
        try:
            files = {digest: one.text for digest, one in self._files.items()}
            return Study(spec, run_study(runner, Job(spec, inputs, files, "script")))
        finally:
            if pool is not None:
                pool.close()

    def report(
        self, path: str | Path, schemes: Sequence[str] = (), study: Study | None = None, units: Units = "SI", title: str = ""
    ) -> Path:
        """Write a report of schemes, the first of which the others are held against, as .pdf, .html or .xlsx."""
        out = Path(path)
        writers: dict[str, Any] = {".pdf": pdf_of, ".html": html_of, ".xlsx": xlsx_of}
        if out.suffix not in writers:
            raise EurythmError("wrong-form", f"A report is written as .pdf, .html or .xlsx, not “{out.suffix}”.", "path")
        cases = [self._case(name) for name in schemes or self.schemes]
        asked = [Asked(c.scheme.name, "reference" if k == 0 else "as it stands", c) for k, c in enumerate(cases)]
        assumed = still_assumed(self._documents, cases[0].scheme, None)
        part = None
        if study is not None:
            told = [r.figures for r in study.ran.results]
            part = study_told(study.spec, study.ran.job.base, study.ran.table(), told, units)
        made = writers[out.suffix](content(self._documents.name, asked, units, study=part, title=title, assumed=assumed))
        out.write_bytes(made if isinstance(made, bytes) else made.encode())
        return out

    def _case(self, scheme: str | None) -> Case:
        name = scheme or self._documents.reference
        try:
            found = self._documents.scheme(name)
        except KeyError:
            raise EurythmError("no-such-scheme", f"There is no scheme “{name}”; there are {', '.join(self.schemes)}.", "scheme") from None
        files = {digest: one.text for digest, one in self._files.items()}
        climate = climate_of(self._documents.place, files)
        return Case(self._documents.place, self._documents.library, found, self._documents.factors, climate)

    def _asked(self, asked: Mapping[str, Any]) -> tuple[StudySpec, CaseInputs]:
        spec = read_document(StudySpec, {"scheme": self._documents.reference, **asked}, "study")
        case = self._case(spec.scheme)
        return spec, CaseInputs(case.place, case.library, case.factors, case.scheme, self._documents.schemes)

    def levers(self, scheme: str | None = None) -> pd.DataFrame:
        """Return what of a scheme can be varied, with steps proposed."""
        case = self._case(scheme)
        inputs = CaseInputs(case.place, case.library, case.factors, case.scheme, self._documents.schemes)
        offers = [offer for lever in LEVERS.values() for offer in lever.offers(inputs)]
        return pd.DataFrame([{"kind": o.kind, "path": o.path, "title": o.title, "unit": o.unit, "steps": o.steps} for o in offers])

    def _repr_html_(self) -> str:
        pictures = "".join(
            f"<div style='display:inline-block;margin:8px'>{form(self._case(name).prepared().building)}<br>{name}</div>"
            for name in self.schemes
        )
        return f"<b>{self._documents.name}</b><br>{pictures}"


def open_project(path: str | Path) -> Project:
    """Open a project file, or a bundle as a project of one scheme. Raises EurythmError."""
    path = Path(path)
    found = read_project(read_bytes(path), str(path), path.parent)
    return Project(found.project, found.files)


def demo() -> Project:
    """Return the demo project."""
    return Project(demo_project())


def _described(figures: pd.DataFrame) -> pd.DataFrame:
    titles = {f.id: (f.title, f.unit) for f in figures_of(*OF_CASES)}
    out = figures.copy()
    out.insert(0, "title", [titles[i][0] for i in out.index])
    out.insert(1, "unit", [titles[i][1] for i in out.index])
    return out
