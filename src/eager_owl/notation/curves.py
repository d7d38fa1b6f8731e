"""Names for the pitch curve of a note from a file: bends, bends let down, slides into it, vibrato."""

import numpy as np
from numpy.typing import NDArray

from eager_owl.solo.document import CONTOUR_HOP_S
from eager_owl.solo.techniques import Technique

_LEAST_BEND, _LEAST_SLIDE = 0.3, 0.7  # semitones
_HELD, _FALLEN = 0.85, 0.4  # shares of a bend: as high as it is held, and low enough to be let down
_SLIDE_S = 0.25
_VIBRATO_HZ, _VIBRATO_CENTS = (3.5, 10.0), (8.0, 200.0)
_LEAST_CYCLES = 2


def name_curve(contour: NDArray[np.float64]) -> tuple[Technique, ...]:
    """Techniques for a contour in semitones over the fret, a value every CONTOUR_HOP_S; empty for a flat one."""
    if len(contour) < 3:
        return ()
    found: list[Technique] = []
    steady = np.ones(len(contour), dtype=bool)
    swing = 0.5 * _swing(contour)
    high = float(np.quantile(contour, 0.9))
    first = float(contour[0])
    if (slid := _slide(contour)) is not None:
        found.append(slid)
        steady[: round((slid.rise_s or 0.0) / CONTOUR_HOP_S) + 2] = False
    elif high > _LEAST_BEND + swing:
        held = contour >= _HELD * high
        size = float(np.median(contour[held]))
        top = np.flatnonzero(held)
        before = first >= _HELD * size
        released = float(np.mean(contour[-3:])) < _FALLEN * size
        name = ("prebend_release" if released else "prebend") if before else "bend_release" if released else "bend"
        started = np.flatnonzero(contour[: top[0] + 1] <= 0.1 * size)
        rise = (top[0] - (started[-1] if len(started) else 0)) * CONTOUR_HOP_S
        found.append(
            Technique(name, round(size, 2), None if before else round(float(rise), 3))  # type: ignore[arg-type]
        )
        steady = np.zeros(len(contour), dtype=bool)
        steady[top[0] : top[-1] + 1] = True
    if (vibrato := _vibrato(contour[steady])) is not None:
        found.append(vibrato)
    return tuple(found)


def _swing(contour: NDArray[np.float64]) -> float:
    """How far a vibrato around the fret would swing, in semitones: what lies under the fret, twice."""
    return 2 * max(0.0, -float(np.quantile(contour, 0.1)))


def _slide(contour: NDArray[np.float64]) -> Technique | None:
    """A glide from another pitch to the fret, right at the start."""
    first = float(contour[0])
    if abs(first) < _LEAST_SLIDE:
        return None
    arrived = np.flatnonzero(np.abs(contour) < 0.25)
    if (
        not len(arrived)
        or arrived[0] * CONTOUR_HOP_S > _SLIDE_S
        or (first > 0 and np.quantile(contour, 0.9) > 0.5 * first)
    ):
        return None
    return Technique("slide", round(-first, 2), round(float(arrived[0]) * CONTOUR_HOP_S, 3))


def _vibrato(values: NDArray[np.float64]) -> Technique | None:
    """A regular swing about its mean: rate from its crossings, extent from its root mean square."""
    values = values - values.mean() if len(values) else values
    if len(values) * CONTOUR_HOP_S < _LEAST_CYCLES / _VIBRATO_HZ[0] / 2:
        return None
    extent = 100 * float(np.sqrt(2 * np.mean(np.square(values))))
    rising = np.flatnonzero((values[:-1] < 0) & (values[1:] >= 0))
    if len(rising) < _LEAST_CYCLES or not _VIBRATO_CENTS[0] <= extent <= _VIBRATO_CENTS[1]:
        return None
    periods = np.diff(rising) * CONTOUR_HOP_S
    rate = 1 / float(np.mean(periods))
    if not _VIBRATO_HZ[0] <= rate <= _VIBRATO_HZ[1] or float(np.std(periods)) > 0.3 / rate:
        return None
    return Technique("vibrato", rate_hz=round(rate, 2), extent_cents=round(extent, 1))
