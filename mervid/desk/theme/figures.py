"""Figures as the window says them: one way for each kind, everywhere (more of them: `mervid.core.figures`)."""

from __future__ import annotations

from ...core.figures import share
from ...core.fitting.drift import Summary
from ...core.model.beatgrid import Grid
from ...core.pairs.forecast import Forecast


def clock(seconds: float, *, digits: int = 0) -> str:
    """Minutes and seconds: '3:07', or '3:07.250' with digits."""
    seconds = max(0.0, seconds)
    whole = round(seconds * 10**digits)
    minutes, rest = divmod(whole, 60 * 10**digits)
    if not digits:
        return f"{minutes}:{rest:02d}"
    s, part = divmod(rest, 10**digits)
    return f"{minutes}:{s:02d}.{part:0{digits}d}"


def ms(value: float | None) -> str:
    """An error: '3.2 ms', '224 ms', '–' where nothing is heard."""
    if value is None:
        return "–"
    return f"{value:.1f} ms" if value < 100 else f"{value:,.0f} ms".replace(",", " ")


def tempo(grid: Grid) -> str:
    """One tempo with three decimals, or the range of a variable grid."""
    return tempo_between(float(grid.tempi.min()), float(grid.tempi.max()))


def tempo_between(low: float, high: float) -> str:
    """One tempo with three decimals, or a range."""
    return f"{low:.3f}" if high - low < 0.0005 else f"{low:.1f}–{high:.1f}"


def trust(expected: Forecast) -> str:
    """How far two tracks may be trusted to stay together, as a sign: will, will probably, may not."""
    return "●" if expected.is_safe else "◐" if expected.is_probable else "○"


def achieves(summary: Summary | None) -> str:
    """What a grid achieves, in one line: its worst error, and the share of beats within tolerance."""
    return "" if summary is None else f"worst {ms(summary.worst)}, {share(summary.within)}"
