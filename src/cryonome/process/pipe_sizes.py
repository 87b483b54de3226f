"""Nominal pipe sizes: outside diameters and walls by schedule of ASME B36.10M (welded and seamless wrought steel pipe),
1/2 to 48 in."""

from __future__ import annotations

import csv
from dataclasses import dataclass
from functools import cache
from pathlib import Path

INCH = 0.0254
"""m."""
SCHEDULES = ("5", "10", "20", "30", "40", "60", "80", "100", "120", "140", "160", "STD", "XS", "XXS")


@dataclass(frozen=True)
class PipeSize:
    """A nominal size with its outside diameter m and walls m by schedule, where the standard has one."""

    nominal: str
    outside: float
    walls: dict[str, float]

    def inside(self, schedule: str) -> float | None:
        """Return the inside diameter m of a schedule, None where the standard has no such pipe."""
        wall = self.walls.get(schedule)
        return None if wall is None else self.outside - 2.0 * wall


@cache
def pipe_sizes() -> tuple[PipeSize, ...]:
    """Return every size, the smallest first."""
    text = (Path(__file__).parent / "pipe_sizes.csv").read_text(encoding="utf-8")
    rows = csv.DictReader(text.splitlines())
    return tuple(
        PipeSize(r["nominal"], float(r["outside_in"]) * INCH, {s: float(r[s]) * INCH for s in SCHEDULES if r[s]})
        for r in rows
    )


def size_named(nominal: str) -> PipeSize | None:
    """Return a size by its name, as people write it (``4``, ``4 in``, ``1 1/2"``), None where there is none."""
    plain = nominal.strip().casefold().removesuffix('"').removesuffix("inch").removesuffix("in").strip()
    plain = plain.replace(" ", "-")
    return next((s for s in pipe_sizes() if s.nominal == plain), None)
