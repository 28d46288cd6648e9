"""The facade for scripts: the examples of its page run, and what is wrong is told before anything runs."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

import eurythm
from eurythm.simulate import simulate

PAGE = Path(__file__).parents[2] / "docs/scripting.md"


def test_the_examples_of_the_page_run_one_after_another(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(tmp_path)
    here: dict[str, object] = {}
    examples = re.findall(r"```python\n(.*?)```", PAGE.read_text(encoding="utf-8"), re.DOTALL)
    assert len(examples) == 5
    for example in examples:
        exec(compile(example, str(PAGE), "exec"), here)
    assert (tmp_path / "report.pdf").read_bytes().startswith(b"%PDF")
    question = here["question"]
    assert list(question.cases.index) == [0, 1, 2, 3]  # type: ignore[attr-defined]
    assert all(question.cases["status"] == "done")  # type: ignore[attr-defined]


def test_a_year_is_the_one_of_the_core_and_a_project_stays_as_it_was(merrowhaven) -> None:
    library = eurythm.demo()
    documents = library.documents
    outcome = simulate(documents.place, documents.library, documents.scheme("court"), documents.factors, merrowhaven)
    assert library.simulate("court").figures["eui_kwh_per_m2"] == outcome.totals["eui_kwh_per_m2"]
    assert library.set("schemes/court/turn_deg", 10.0).documents is not documents
    assert library.documents is documents
    assert "<svg" in library._repr_html_()


def test_what_is_wrong_is_told_before_anything_runs() -> None:
    library = eurythm.demo()
    for wrong in (
        lambda: library.simulate("barn"),
        lambda: library.study(levers=[]),
        lambda: library.study(kind="search", levers=[{"kind": "turn", "low": 0, "high": 90}]),
        lambda: library.study(kind="riddle"),
        lambda: library.set("schemes/quay/colour", "red"),
        lambda: library.edit({"op": "paint", "path": "schemes/quay"}),
        lambda: library.report("report.doc"),
        lambda: eurythm.open_project("nowhere.json"),
    ):
        with pytest.raises(eurythm.EurythmError):
            wrong()
    with pytest.raises(AttributeError):
        _ = eurythm.nothing


def test_sentences_are_written_out() -> None:
    """Amounts stand in them as people read them, not between the marks that the page looks for."""
    bright = eurythm.demo().set("schemes/quay/skin/glazing_ratio/south", 0.95)
    remarks = bright.simulate("quay").remarks
    assert remarks
    assert not any("\ue000" in remark for remark in remarks)


def test_daylight_and_counts_are_answered() -> None:
    library = eurythm.demo()
    assert 0.0 < library.daylight("quay")["daylit_share"] <= 1.0
    assert library.count(kind="sample", levers=[{"kind": "turn", "low": 0, "high": 90}], size=10) == 10
    assert {"path", "title", "value"} <= set(library.assumed("quay").columns)
