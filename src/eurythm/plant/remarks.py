"""What is doubtful about systems, by their year."""

from __future__ import annotations

from collections.abc import Sequence

from eurythm.model.remark import Remark
from eurythm.plant.staged import SystemTold

FEW_HOURS = 100
"""Up to so many hours in which heat or cold falls short are told beside the system only: our own assumption."""


def plant_remarks(systems: Sequence[SystemTold]) -> list[Remark]:
    """Return which systems leave many hours of heat or cold unmet."""
    found = []
    for told in systems:
        path = "scheme/plant/main" if told["id"] == "main" else f"scheme/plant/systems/{told['id']}"
        short = (("heat", told["short_heat_h"]), ("cold", told["short_cold_h"]))
        found += [
            Remark(
                "load-not-met", f"“{told['name']}”: {what} falls short in {hours:,} hours of the year.", f"{path}/{what}/power_kw",
                "Give it more power, or another source", "doubtful", "plant",
            )
            for what, hours in short
            if hours > FEW_HOURS
        ]  # fmt: skip
    return found
