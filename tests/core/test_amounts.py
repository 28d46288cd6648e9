"""Sentences carry their amounts: written in SI or inch-pound by whoever shows them, plain where they are printed."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

import eurythm
from eurythm.brief.resolve import resolve
from eurythm.climate.standin import standin_year
from eurythm.model.amount import CLOSE, OPEN, amount, said
from eurythm.model.errors import EurythmError
from eurythm.model.library import Library
from eurythm.model.place import Place
from tests.command import eurythm as command
from tests.conftest import make_scheme, volume

MADE = re.compile(r"\{amount\((?:[^()]|\([^()]*\))*\)\}")
BARE = re.compile(r"\}? ?(?:m³|m²|mm|°C|W/m²K|kWh/m²)(?![\w²³/·])|\} m(?![\w²³/·])")


def test_an_amount_is_written_in_either_system_with_the_digits_that_it_has() -> None:
    sentence = f"The head ({amount(2.7, 'm')}) over {amount(1234.5, 'm²', 1)} at {amount(26, '°C')} with {amount(0.25, 'W/m²K')}."
    assert said(sentence) == "The head (2.7 m) over 1,234.5 m² at 26 °C with 0.25 W/m²K."
    assert said(sentence, "IP") == "The head (8.86 ft) over 13,288.0 ft² at 78.8 °F with 0.044 Btu/h·ft²·°F."


def test_names_keep_what_looks_like_an_amount() -> None:
    assert said(f"“Hall 5 m” is {amount(2, 'm')} high.", "IP") == "“Hall 5 m” is 6.56 ft high."


def test_a_refusal_carries_its_amounts_and_prints_them_in_si() -> None:
    with pytest.raises(EurythmError) as fault:
        resolve(Place(), Library(), make_scheme(volumes=[volume()], skin={"sill_m": 2.0, "head_m": 1.5}), standin_year("merrowhaven"))
    assert str(fault.value) == "The window head (1.5 m) is not above the sill (2 m)."
    assert said(fault.value.message, "IP") == "The window head (4.92 ft) is not above the sill (6.56 ft)."
    assert fault.value.message.count(OPEN) == fault.value.message.count(CLOSE) == 2


def test_the_command_line_prints_no_marks(tmp_path: Path) -> None:
    bundle = tmp_path / "b.eurythm.json"
    bundle.write_text(
        '{"format": "eurythm.bundle", "version": 1, "place": {"climate": {"kind": "stand-in", "id": "merrowhaven"}}, '
        '"scheme": {"id": "s", "name": "S", "skin": {"sill_m": 2, "head_m": 1.5}, '
        '"volumes": [{"id": "v", "form": {"kind": "rectangle", "length": 9, "depth": 6}, "storeys": [{"id": "s0"}]}]}}',
        encoding="utf-8",
    )
    told = command("simulate", bundle)
    assert told.returncode == 2
    assert "head (1.5 m) is not above" in told.stderr
    assert OPEN not in told.stderr + told.stdout


def test_sentences_of_errors_and_remarks_hold_no_bare_amounts() -> None:
    """An amount that is not marked would stay in SI on the page."""
    root = Path(eurythm.__file__).parent
    bare = []
    for file in root.rglob("*.py"):
        for match in re.finditer(r"(?:EurythmError|Remark|Finding)\((?:[^()]|\([^()]*\))*\)", file.read_text(encoding="utf-8")):
            sentence = MADE.sub("", match.group(0))
            bare += [f"{file.name}: {text}" for text in re.findall(r'f?"[^"]*"', sentence) if BARE.search(text)]
    assert bare == ['epw.py: f"Line 1: altitude {altitude:g} m is out of range."']  # quotes what the file has


def test_degrees_of_an_angle_stand_at_their_number() -> None:
    assert said(f"Turned by {amount(15, '°', 1)}, at {amount(15, '°C', 1)}.") == "Turned by 15.0°, at 15.0 °C."
