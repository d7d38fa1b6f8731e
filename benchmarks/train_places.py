"""Weigh the rows of the default costs on composed phrases, as the weights of a conditional random field.

J. Lafferty, A. McCallum and F. Pereira, "Conditional random fields", ICML 2001. A fingering's likelihood falls with
the exponential of its cost; what is raised is that of the composed places, whichever fingers and positions take
them. Steps by Adam (D. Kingma and J. Ba, 2015). Prints the rows to be put, rounded, into `neck/costs.py`.

./run-benchmarks train_places [phrases] [rounds]
"""

import sys
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from scipy.special import logsumexp

from benchmarks.habits import GUITAR, Composed, compose
from eager_owl.neck import fingering
from eager_owl.neck.costs import ROWS, Costs
from eager_owl.neck.measures import home_measures, state_measures, step_measures
from eager_owl.solo.document import Note

Weights = dict[str, float]

_RATE, _BATCH, _TOWARDS_START = 0.08, 20, 1e-3
# Rows that physics or the player's word decide, not the composed phrases.
_FIXED = {"legato_elsewhere", "from_fret", "sounds_elsewhere", "strain_cm", "little_finger", "barre_string"}
_MAY_BE_NEGATIVE = {"open_pointed_at", "open_low", "root_cell", "root_box", "box_bend", "open_string"}
_LEAST = {
    "reach_cm": 0.1,
    "same_finger": 0.3,
    "out_of_place": 0.3,
    "bend_index": 0.5,
    "bend_little": 0.3,
    "bend_wound": 1.0,
    "bend_low_fret": 0.1,
}


def to_weights(costs: Costs) -> Weights:
    return {name: getattr(costs, name) for name in ROWS} | {f"home {i}": h for i, h in enumerate(costs.home)}


def to_costs(weights: Weights) -> Costs:
    rows = {name: weights[name] for name in ROWS}
    return Costs(**rows, home=tuple(weights[f"home {i}"] for i in range(12)))


def wrong_notes(problem: fingering._Problem, notes: list[Note]) -> NDArray[np.float64]:
    """How many notes of each state lie elsewhere than composed, shape (strokes, states)."""
    wrong = np.zeros(problem.lattice.exists.shape)
    for i, (stroke, rows) in enumerate(zip(problem.lattice.members, problem.rows, strict=True)):
        for column, index in enumerate(stroke):
            there = (rows.strings[:, column] == notes[index].string) & (rows.frets[:, column] == notes[index].fret)
            wrong[i, : len(rows)] += ~there
    return wrong


def marginals(
    own: NDArray[np.float64], steps: NDArray[np.float64]
) -> tuple[float, NDArray[np.float64], NDArray[np.float64]]:
    """Log-likelihood's normaliser, and marginals of homes and states (H, n, K) and of steps (n - 1, K, K)."""
    count = own.shape[1]
    ahead, back = np.zeros_like(own), np.zeros_like(own)
    ahead[:, 0] = -own[:, 0]
    for i in range(1, count):
        ahead[:, i] = logsumexp(ahead[:, i - 1, :, None] - steps[i - 1], axis=1) - own[:, i]
    for i in range(count - 2, -1, -1):
        back[:, i] = logsumexp(-steps[i] + (back[:, i + 1] - own[:, i + 1])[:, None, :], axis=2)
    total = float(logsumexp(ahead[:, -1]))
    states = np.exp(ahead + back - total)
    pairs = np.zeros_like(steps)
    for i in range(1, count):
        after = (back[:, i] - own[:, i])[:, None, :]
        pairs[i - 1] = np.exp(ahead[:, i - 1, :, None] - steps[i - 1] + after - total).sum(axis=0)
    return total, states, pairs


def slope(phrase: Composed, costs: Costs, keyed: bool) -> tuple[float, Weights]:
    """Negative log-likelihood of the composed places and how it changes with each row."""
    free = [replace(n, string=None, fret=None) for n in phrase.notes]
    problem = fingering._pose(free, GUITAR, costs, phrase.key if keyed else None, fingering.Around())
    assert problem is not None
    lattice, count = problem.lattice, len(problem.rows)
    steps = problem.steps(1, count)
    wrong = wrong_notes(problem, phrase.notes)
    total, states, pairs = marginals(problem.own, steps)
    gold, gold_states, gold_pairs = marginals(problem.own + 1e4 * wrong, steps)
    if gold < -1e3:  # the composed places are no state of a hand
        return 0.0, {}
    states, pairs = gold_states - states, gold_pairs - pairs
    sums: Weights = defaultdict(float)
    for name, measure in state_measures(lattice):
        sums[name] = float((measure * states.sum(axis=0)).sum())
    for name, measure in step_measures(lattice, 1, count):
        sums[name] = float((measure * pairs).sum())
    for layer, home in zip(states, problem.homes, strict=True):
        above, measures = home_measures(lattice, home, GUITAR)
        held = layer * (lattice.stopped > 0)
        for name, measure in measures:
            sums[name] += float((measure * held).sum())
        for degree, share in enumerate(np.bincount(above.ravel(), held.ravel(), 12)):
            sums[f"home {degree}"] += float(share)
    return total - gold, sums


def share_right(costs: Costs, phrases: Iterable[Composed], keyed: bool) -> dict[str, float]:
    """Of the notes of each habit, the share put on the composed string and fret."""
    hits: dict[str, list[bool]] = defaultdict(list)
    for phrase in phrases:
        free = [replace(n, string=None, fret=None) for n in phrase.notes]
        places = fingering.find_fingering(free, GUITAR, costs, phrase.key if keyed else None).places
        right = [
            p is not None and (p.string, p.fret) == (n.string, n.fret)
            for p, n in zip(places, phrase.notes, strict=True)
        ]
        hits[phrase.habit] += right
        hits["all"] += right
    return {habit: round(float(np.mean(right)), 3) for habit, right in hits.items()}


def train(count: int, rounds: int, start: Costs) -> Costs:
    phrases, rng = compose(count, seed=11), np.random.default_rng(3)
    weights, first = to_weights(start), to_weights(start)
    names = [name for name in weights if name not in _FIXED]
    mean, square, step = dict.fromkeys(names, 0.0), dict.fromkeys(names, 0.0), 0
    for number in range(rounds):
        loss, order = 0.0, rng.permutation(count)
        rate = _RATE * (1 - number / rounds)
        for at in range(0, count, _BATCH):
            sums: Weights = defaultdict(float)
            for i in order[at : at + _BATCH]:
                one, slopes = slope(phrases[i], to_costs(weights), rng.random() < 0.7)
                loss += one
                for name, value in slopes.items():
                    sums[name] += value / _BATCH
            step += 1
            for name in names:
                pull = sums[name] + _TOWARDS_START * (weights[name] - first[name])
                mean[name] = 0.9 * mean[name] + 0.1 * pull
                square[name] = 0.99 * square[name] + 0.01 * pull**2
                weights[name] -= (
                    rate * (mean[name] / (1 - 0.9**step)) / ((square[name] / (1 - 0.99**step)) ** 0.5 + 1e-6)
                )
                if name not in _MAY_BE_NEGATIVE:
                    weights[name] = max(weights[name], _LEAST.get(name, 0.0))
        least = min(weights[f"home {i}"] for i in range(12))
        for i in range(12):
            weights[f"home {i}"] -= least
        print(f"round {number}: {loss / count:.2f} nats a phrase", file=sys.stderr)
    return to_costs(weights)


def main() -> None:
    count, rounds = (int(a) for a in (sys.argv[1:] + ["800", "8"][len(sys.argv) - 1 :])[:2])
    costs = train(count, rounds, Costs())
    tried = compose(400, seed=99)
    for keyed in (True, False):
        print(f"# composed, another seed, key {keyed}: {share_right(costs, tried, keyed)}")
    for name in ROWS:
        print(f"{name}={getattr(costs, name):.2f},")
    print(f"home=({', '.join(f'{h:.2f}' for h in costs.home)}),")


if __name__ == "__main__":
    main()
