"""A report as PDF, set by typst from `page.typ`."""

from __future__ import annotations

import json
import re
import tempfile
from collections.abc import Mapping
from pathlib import Path
from typing import Any

HERE = Path(__file__).parent
FONTS = HERE.parent / "fonts"
LONG, PART = re.compile(r"\S{25,}"), re.compile(r"\S{1,12}")
HERE_IT_MAY_BREAK = "\u200b"


def pdf_of(told: Mapping[str, Any]) -> bytes:
    """Return the report as PDF."""
    import typst

    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder)
        (root / "data.json").write_text(json.dumps(breakable(told), ensure_ascii=False), encoding="utf-8")
        (root / "page.typ").write_text((HERE / "page.typ").read_text(encoding="utf-8"), encoding="utf-8")
        made: bytes = typst.compile(str(root / "page.typ"), root=str(root), font_paths=[str(FONTS), *_fallbacks()], format="pdf")
    return made


def breakable(told: Any) -> Any:
    """Return plain data whose texts have places to break in words that are too long for a line; pictures stay as they are."""
    if isinstance(told, Mapping):
        return {key: breakable(value) for key, value in told.items()}
    if isinstance(told, list | tuple):
        return [breakable(value) for value in told]
    if not isinstance(told, str) or told.lstrip().startswith("<svg"):
        return told
    return LONG.sub(lambda word: HERE_IT_MAY_BREAK.join(PART.findall(word.group())), told)


def _fallbacks() -> list[str]:
    """Fonts for scripts that ours do not have: those that come with the charts of a library that is there anyway."""
    import matplotlib

    return [str(Path(matplotlib.get_data_path()) / "fonts" / "ttf")]
