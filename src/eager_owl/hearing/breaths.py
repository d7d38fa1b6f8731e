"""Where a solo falls into phrases: at the lead's breaths, the longer and the nearer a bar the likelier."""

import numpy as np
from numpy.typing import NDArray

from eager_owl.rhythm.grid import BeatGrid

_LEAST_BREATH_S = 0.08
_LONGEST_COUNTED_S = 1.2
_LEAST_SOUND_S = 0.05  # a blip shorter than this does not end a breath
_LIKELY_S, _LENGTH_WEIGHT = 3.5, 0.8
_SHORTEST_S, _LONGEST_S = 0.8, 16.0
_BAR_REBATE = 0.25
_BEFORE_S, _AFTER_S = 0.1, 0.12


def find_breaths(midi: NDArray[np.float64], hop_s: float) -> list[tuple[float, float]]:
    """(start, end) in seconds of the stretches in which the lead's pitch (nan for none) is silent."""
    sounding = np.isfinite(midi)
    edges = np.flatnonzero(np.diff(np.concatenate([[False], sounding, [False]]).astype(np.int8)))
    spans = [(a, b) for a, b in zip(edges[::2], edges[1::2], strict=True) if (b - a) * hop_s >= _LEAST_SOUND_S]
    borders = [0.0, *(float(value) * hop_s for span in spans for value in span), len(midi) * hop_s]
    gaps = list(zip(borders[::2], borders[1::2], strict=True))
    return [
        gap for index, gap in enumerate(gaps) if index in (0, len(gaps) - 1) or gap[1] - gap[0] >= _LEAST_BREATH_S
    ]


def suggest_phrases(midi: NDArray[np.float64], hop_s: float, grid: BeatGrid | None) -> list[tuple[float, float]]:
    """(start, end) in seconds of likely phrases: the cuts at breaths that cost least together (dynamic programming).

    A phrase pays for being unlike _LIKELY_S in length, a cut for a short breath and for being far from a bar.
    """
    if not np.isfinite(midi).any():
        return []
    breaths = find_breaths(midi, hop_s)
    price = [_cut_price(gap, grid) for gap in breaths]
    total, back = [0.0], [0]
    for j in range(1, len(breaths)):
        best, at = np.inf, j - 1
        for i in range(j - 1, -1, -1):
            seconds = breaths[j][0] - breaths[i][1]
            if seconds > _LONGEST_S and i < j - 1:
                break
            short = 2.0 if seconds < _SHORTEST_S else 0.0
            cost = total[i] + price[j] + short + _LENGTH_WEIGHT * float(np.log(max(seconds, 0.05) / _LIKELY_S)) ** 2
            if cost < best:
                best, at = cost, i
        total.append(best)
        back.append(at)
    cuts, j = [], len(breaths) - 1
    while j > 0:
        cuts.append((back[j], j))
        j = back[j]
    return [_span(breaths[i], breaths[j]) for i, j in reversed(cuts)]


def _cut_price(gap: tuple[float, float], grid: BeatGrid | None) -> float:
    breath = min(gap[1] - gap[0], _LONGEST_COUNTED_S)
    price = 0.6 - breath
    if grid is not None:
        # A phrase that begins in the beat before a bar or just after its line begins with the bar.
        beat = grid.beat_at(gap[1]) % grid.beats_per_bar
        near = min(beat, grid.beats_per_bar - beat)
        price -= _BAR_REBATE * max(0.0, 1.0 - near)
    return price


def _span(before: tuple[float, float], after: tuple[float, float]) -> tuple[float, float]:
    start = max(before[1] - _BEFORE_S, (before[0] + before[1]) / 2)
    return round(start, 3), round(min(after[0] + _AFTER_S, (after[0] + after[1]) / 2), 3)
