"""D86 as it is reported: percents recovered in the receiver, with the loss and the residue, to percents evaporated."""

from __future__ import annotations

from collections.abc import Sequence

STANDARD_PRESSURE = 101.3e3
"""Pa. The pressure to which losses are brought."""


def corrected_loss(loss: float, pressure: float) -> float:
    """Return the loss (percent) observed at a barometric ``pressure`` (Pa) as it would be at 101.3 kPa.

    ASTM D86-23, equation 5: Lc = 0.5 + (L - 0.5)/(1 + (101.3 - P)/8.00), P in kPa.
    """
    return 0.5 + (loss - 0.5) / (1.0 + (STANDARD_PRESSURE - pressure) / 8.0e3)


def evaporated(percents: Sequence[float], loss: float, residue: float | None = None) -> list[float]:
    """Return percents evaporated for rising percents recovered (n,), each with the loss added; the end point, where
    given at 100 %, stands where the ``residue`` begins.

    ASTM D86-23, section 11.4: percent evaporated is the sum of percent recovered and percent loss. Raises ValueError
    where that leads beyond 100 %."""
    end = 100.0 - (residue or 0.0)
    out = [end if p >= 100.0 else p + loss for p in percents]
    inner = [e for e, p in zip(out, percents) if p < 100.0]
    if inner and inner[-1] >= (end if len(inner) < len(out) else 100.0):
        raise ValueError(
            f"{percents[len(inner) - 1]:g} % recovered and a loss of {loss:g} % leave no room for a residue of {residue or 0.0:g} %"
        )
    return out
