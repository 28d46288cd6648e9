"""Requirements on a building model as IDS (buildingSMART): which objects meet them, which do not, and why."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from pydantic import BaseModel

from eurythm.exchange.xml import parse_xml
from eurythm.model.errors import EurythmError

SHIPPED = Path(__file__).with_name("energy.ids")
MOST_FAILED = 500


class Failure(BaseModel):
    """An object that does not meet a requirement, and why."""

    object: str
    called: str
    reason: str


class Requirement(BaseModel):
    """One specification of an IDS file: how many objects it is about, how many meet it, and those that do not."""

    name: str
    description: str
    applicable: int
    passed: int
    failed: list[Failure]


class Requirements(BaseModel):
    """An IDS file against a model."""

    title: str
    requirements: list[Requirement]


def check_requirements(model: Path, name: str, specification: Path | None = None) -> Requirements:
    """Check a model against an IDS file, the shipped one for energy models unless another is given.

    Raises
    ------
    EurythmError
        ``not-ids`` or ``not-ifc``.
    """
    import ifcopenshell  # both take a second to load, which only the process that checks should spend
    from ifctester import ids

    source = specification or SHIPPED
    parse_xml(source, source.name)
    try:
        asked = ids.open(str(source))
    except Exception as fault:
        raise EurythmError("not-ids", f"“{source.name}” cannot be read as IDS 1.0: {fault!s:.160}.", source.name) from None
    try:
        held = ifcopenshell.open(str(model))
    except Exception as fault:
        raise EurythmError("not-ifc", f"“{name}” cannot be read as IFC: {fault!s:.160}.", name) from None
    asked.validate(held)
    return Requirements(title=str(asked.info.get("title", source.stem)), requirements=[_requirement(s) for s in asked.specifications])


def _requirement(specification: Any) -> Requirement:
    reasons: dict[int, tuple[Any, list[str]]] = {}
    for facet in specification.requirements:
        for failure in facet.failures:
            element = failure["element"]
            reasons.setdefault(element.id(), (element, []))[1].append(str(failure["reason"]))
    failed = [
        Failure(object=str(getattr(e, "GlobalId", "")), called=_called(e), reason="; ".join(dict.fromkeys(why))[:300])
        for e, why in list(reasons.values())[:MOST_FAILED]
    ]
    count = len(specification.applicable_entities)
    return Requirement(
        name=str(specification.name),
        description=str(specification.description or ""),
        applicable=count,
        passed=count - len(reasons),
        failed=failed,
    )


def _called(element: Any) -> str:
    parts = [getattr(element, n, None) for n in ("Tag", "Name", "LongName")]
    return " ".join(str(p) for p in parts if p) or str(getattr(element, "GlobalId", element.is_a()))
