"""Round numbers along an axis."""

from __future__ import annotations

import math

STEPS = (1.0, 2.0, 5.0, 10.0)


def linear(low: float, high: float, wanted: int = 6) -> list[float]:
    """Return round values between two ends, about as many as wanted."""
    if not high > low:
        return [low]
    rough = (high - low) / max(wanted, 1)
    decade = 10.0 ** math.floor(math.log10(rough))
    step = next(s * decade for s in STEPS if s * decade >= rough * (1.0 - 1e-9))
    first = math.ceil(low / step - 1e-9)
    return [k * step for k in range(first, math.floor(high / step + 1e-9) + 1)]


def decades(low: float, high: float) -> list[float]:
    """Return values of 1, or of 1, 2 and 5 where few, of each power of ten between two ends above zero."""
    first, last = math.floor(math.log10(low)), math.ceil(math.log10(high))
    leads = (1.0,) if last - first > 3 else (1.0, 2.0, 5.0)
    found = [m * 10.0**k for k in range(first, last + 1) for m in leads]
    return [v for v in found if low * (1.0 - 1e-9) <= v <= high * (1.0 + 1e-9)]


def text(value: float, step: float) -> str:
    """Return a value of an axis with as many digits as its step needs."""
    if value != 0.0 and not 1e-4 <= abs(value) < 1e6:
        return f"{value:.3g}".replace("-", "−").replace("e+0", "e").replace("e−0", "e−").replace("e+", "e")
    digits = max(0, -math.floor(math.log10(step) + 1e-9)) if step > 0.0 else 0
    return f"{value:.{digits}f}".replace("-", "−") if abs(value) > 0.5 * 10.0**-digits else "0"
