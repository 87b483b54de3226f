"""The colours of the light and the dark theme, as plain text: for the window, and for pictures that need none."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Colours:
    """The colours of one theme, as hexadecimal texts."""

    name: str
    paper: str
    surface: str
    sunk: str
    ink: str
    mute: str
    hair: str
    accent: str
    tint: str
    liquid: str
    half: str
    vapour: str
    fault: str
    fault_ground: str
    good: str
    water: str
    hydrate: str

    def of_share(self, share: float) -> str:
        """Return the colour of a vapour fraction: from liquid through the half to vapour, without steps."""
        t = 2.0 * min(max(share, 0.0), 1.0)
        first, last = (self.liquid, self.half) if t <= 1.0 else (self.half, self.vapour)
        return mixed(first, last, t if t <= 1.0 else t - 1.0)


def mixed(first: str, last: str, share: float) -> str:
    """Return a colour between two, ``share`` of the way to the last."""
    parts = (round((1.0 - share) * int(first[i : i + 2], 16) + share * int(last[i : i + 2], 16)) for i in (1, 3, 5))
    return "#" + "".join(f"{p:02x}" for p in parts)


def _luminance(colour: str) -> float:
    values = [int(colour[i : i + 2], 16) / 255.0 for i in (1, 3, 5)]
    linear = [v / 12.92 if v <= 0.04045 else ((v + 0.055) / 1.055) ** 2.4 for v in values]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def contrast(first: str, second: str) -> float:
    """Return the contrast of two colours, 1 to 21 (W3C, Web Content Accessibility Guidelines 2.2, 2023)."""
    low, high = sorted((_luminance(first), _luminance(second)))
    return (high + 0.05) / (low + 0.05)


READABLE = 4.5
"""The contrast that text needs, by the same guidelines, level AA."""


def legible(colour: str, ground: str, ink: str) -> str:
    """Return a colour that text can be read in on a ground: its own, or so much of the ink in it as that takes."""
    for k in range(11):
        found = mixed(colour, ink, 0.1 * k)
        if contrast(found, ground) >= READABLE:
            return found
    return ink


LIGHT = Colours(
    "light", "#F5F3EE", "#FFFFFF", "#ECE9E1", "#1B2428", "#5C676E", "#DAD6CB", "#8A3A67", "#EDE1E6",
    "#0A5C63", "#7FA77A", "#DB8A2A", "#A9441B", "#F4DDD3", "#3B744B", "#4A678F", "#6B4FA0",
)  # fmt: skip
DARK = Colours(
    "dark", "#14191C", "#1C2327", "#101416", "#E6E9E8", "#93A0A5", "#2E383D", "#D583B0", "#3A2B36",
    "#3FA7A6", "#A8B878", "#F0A94E", "#F08A5D", "#4A2A20", "#79BF8B", "#8AA6CF", "#B39BE0",
)  # fmt: skip
