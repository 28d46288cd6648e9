"""Meshes: OBJ, STL and glTF."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path

from eurythm.exchange.intake.received import Received
from eurythm.exchange.readers.base import Head, Progress, Reader

OBJ_BEGINS = (b"v ", b"o ", b"g ", b"# ", b"vn", b"mt", b"#")
STL_HEAD, STL_TRIANGLE = 84, 50


def begins_gltf(head: Head) -> bool:
    """The binary form by its mark, the text one by its ending too."""
    return head.first.startswith(b"glTF") or (head.text.startswith(b"{") and head.said == "gltf")


def begins_stl(head: Head) -> bool:
    """The text form by its word, the binary one by its size."""
    counted = int.from_bytes(head.first[80:84], "little")
    binary = head.size >= STL_HEAD and head.size == STL_HEAD + STL_TRIANGLE * counted
    return head.said == "stl" and (head.text.startswith(b"solid") or binary)


def begins_obj(head: Head) -> bool:
    """Lines as OBJ has them, and the ending."""
    lines = head.first.splitlines()[:50]
    return (
        head.said == "obj" and b"\x00" not in head.first and any(line.lstrip()[:2] in OBJ_BEGINS or line.startswith(b"#") for line in lines)
    )


def _reading(kind: str) -> Callable[[Path, str, Mapping[str, str], Progress], Received]:
    def read(path: Path, name: str, ask: Mapping[str, str], progress: Progress) -> Received:
        from eurythm.exchange.mesh.read import read_mesh

        return read_mesh(path, name, kind, dict(ask))

    return read


READERS = (
    Reader("obj", "OBJ", (".obj",), "model", begins_obj, _reading("obj"), ("storey_height", "unit", "up")),
    Reader("stl", "STL", (".stl",), "model", begins_stl, _reading("stl"), ("storey_height", "unit", "up")),
    Reader("gltf", "glTF", (".glb", ".gltf"), "model", begins_gltf, _reading("gltf"), ("storey_height",)),
)
