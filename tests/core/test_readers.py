"""Readers enter themselves: a module in their folder is found, and files find their reader by it."""

from __future__ import annotations

import sys
import textwrap
from pathlib import Path

import pytest
import trimesh

from eurythm.api import describe
from eurythm.exchange import readers
from eurythm.exchange.intake.received import Received, received_from
from eurythm.model.errors import EurythmError

OWN = """
from eurythm.exchange.intake.received import Received
from eurythm.exchange.readers.base import Reader

def read(path, name, ask, progress):
    return Received(file=name, format="own", project=path.read_text(encoding="utf-8")[4:])

READERS = (Reader("own", "Own", (".own",), "model", lambda head: head.text.startswith(b"own:"), read),)
"""


def test_a_reader_is_one_module(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "own.py").write_text(OWN, encoding="utf-8")
    monkeypatch.setattr(readers, "__path__", [*readers.__path__, str(tmp_path)])
    readers.found.cache_clear()
    try:
        file = tmp_path / "house.own"
        file.write_text("own:Library", encoding="utf-8")
        assert readers.read(file, "house.own").project == "Library"
        assert readers.by_ending("a.OWN").brings == "model"  # type: ignore[union-attr]
        describe.write(tmp_path)
        assert '"Own"' in (tmp_path / "readers.json").read_text(encoding="utf-8")
    finally:
        readers.found.cache_clear()
        sys.modules.pop("eurythm.exchange.readers.own", None)


def test_a_reader_made_as_contributing_says_reads_a_file(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    text = Path("docs/contributing/format.md").read_text(encoding="utf-8")
    recipe = textwrap.dedent(text[text.index("   ```python") : text.rindex("   ```")]).split("\n", 1)[1]
    (tmp_path / "ply.py").write_text(recipe, encoding="utf-8")
    monkeypatch.setattr(readers, "__path__", [*readers.__path__, str(tmp_path)])
    readers.found.cache_clear()
    try:
        box = trimesh.creation.box((10.0, 8.0, 9.0))
        box.apply_translation((5.0, 4.0, 4.5))
        file = tmp_path / "mass.ply"
        file.write_bytes(box.export(file_type="ply"))
        received = readers.read(file, "mass.ply", {"unit": "m", "up": "z", "storey_height": "3"})
        assert len(received.storeys) == 3
    finally:
        readers.found.cache_clear()
        sys.modules.pop("eurythm.exchange.readers.ply", None)


def test_endings_lead_to_one_reader_each() -> None:
    endings = [ending for reader in readers.found() for ending in reader.endings]
    assert len(endings) == len(set(endings))
    assert {r.brings for r in readers.found()} == {"model", "surroundings", "weather", "drawing"}
    assert all((r.read is not None and r.begins is not None) == (r.brings == "model") for r in readers.found())


def test_what_is_no_model_is_refused_with_what_is_read(tmp_path: Path) -> None:
    file = tmp_path / "notes.txt"
    file.write_text("hello", encoding="utf-8")
    with pytest.raises(EurythmError) as fault:
        readers.read(file, "notes.txt")
    assert fault.value.code == "unknown-format"
    assert "gbXML, glTF, IFC, OBJ and STL" in fault.value.message


def test_what_was_kept_before_things_had_kinds_has_them_now() -> None:
    kept = {
        "file": "a.ifc", "format": "ifc", "spaces": [{"id": "r", "class_name": "IfcSpace"}, {"id": "m", "class_name": "Solid"}],
        "elements": [{"id": "w", "class_name": "IfcWall"}, {"id": "c", "class_name": "IfcFurniture"}],
    }  # fmt: skip
    found = received_from(kept)
    assert [t.kind for t in (*found.spaces, *found.elements)] == ["room", "mass", "wall", "other"]
    assert Received.model_validate_json(found.model_dump_json()) == found
