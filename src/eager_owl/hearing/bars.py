"""Where bars begin: the beats a bar and the phase that are likeliest, as small networks tell (bars.npz).

They see how much each mark stands out on each beat of the bar that is tried, so that a drum pattern is known by its
shape, not by what falls on the first beat alone, and how well the marks recur bar after bar. benchmarks/train_bars.py
trains them.
"""

import numpy as np
from numpy.typing import NDArray

from eager_owl.hearing.networks import ask, layers_of
from eager_owl.hearing.pulse import Pulse, greatest_near, onset_strength

METERS = (2, 3, 4)  # beats a bar
BARS_TRIED = tuple((per_bar, phase) for per_bar in METERS for phase in range(per_bar))
# Beats over which a change is looked for, of harmony and of the bass; half a beat on over one.
_HARMONY_BEATS, _BASS_BEATS = (1, 2, 4), (1, 2)
_LEAST_PAIRS = 3  # of beats a bar apart, that say whether a mark recurs


def mark_beats(pulse: Pulse, beats: NDArray[np.intp]) -> NDArray[np.float64]:
    """What tells of each beat whether a bar begins there, shape (marks, beats), each mark of mean 0 and deviation 1.

    How far harmony and bass change on it and half a beat on, where they may be early, and what is struck at either in
    each range; `beats` are frames.
    """
    last = len(pulse) - 1
    following = np.append(beats[1:], min(last, 2 * beats[-1] - beats[-2]))
    halves = np.clip((beats + following) // 2, 0, last)
    struck = [greatest_near(strength) for strength in onset_strength(pulse)]
    marks = [
        *(_changes(pulse.harmony, beats, reach) for reach in _HARMONY_BEATS),
        *(_changes(pulse.bass, beats, reach) for reach in _BASS_BEATS),
        *(strength[beats] for strength in struck),
        _changes(pulse.harmony, halves, 1),
        _changes(pulse.bass, halves, 1),
        *(strength[halves] for strength in struck),
    ]
    return np.stack([(mark - mark.mean()) / (mark.std() + 1e-9) for mark in marks])


def _changes(levels: NDArray[np.float32], at: NDArray[np.intp], reach: int) -> NDArray[np.float64]:
    """How far levels over some beats before each frame differ from those over as many after it, 0 to 1."""
    edges, last = np.array([0, *at, len(levels)]), len(levels) - 1
    result = np.zeros(len(at))
    for i, frame in enumerate(at):
        before = levels[edges[max(i + 1 - reach, 0)] : max(frame - 1, 1)].mean(axis=0)
        after = levels[min(frame + 2, last) : edges[min(i + 1 + reach, len(edges) - 1)] + 1].mean(axis=0)
        size = float(np.linalg.norm(before) * np.linalg.norm(after))
        result[i] = 1 - float(before @ after) / size if size > 0 else 0.0
    return result


def describe_bars(marks: NDArray[np.float64], per_bar: int, phase: int) -> NDArray[np.float32]:
    """What the networks see of bars of so many beats from beat `phase` on: each mark in the mean on each beat of the

    bar, and how well it recurs one bar and two bars on.
    """
    count = marks.shape[1]
    place = (np.arange(count) - phase) % per_bar
    on_beats = np.zeros((max(METERS), len(marks)))
    for beat in range(min(per_bar, count)):
        on_beats[beat] = marks[:, place == beat].mean(axis=1)
    recurs = [
        (marks[:, apart:] * marks[:, :-apart]).mean(axis=1) if count >= apart + _LEAST_PAIRS else np.zeros(len(marks))
        for apart in (per_bar, 2 * per_bar)
    ]
    meter = [float(per_bar == each) for each in METERS]
    return np.concatenate([on_beats.ravel(), meter, *recurs]).astype(np.float32)


def find_bars(pulse: Pulse, beats: NDArray[np.intp]) -> tuple[int, int]:
    """(beats a bar, index of the first first beat)."""
    marks = mark_beats(pulse, beats)
    seen = np.stack([describe_bars(marks, *tried) for tried in BARS_TRIED])
    return BARS_TRIED[int(ask(layers_of("bars"), seen)[:, 0].argmax())]
