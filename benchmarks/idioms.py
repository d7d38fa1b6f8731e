"""Harder phrases than those of benchmarks/pieces.py: what the fretting hand does in many ways, and awkward idioms."""

from collections.abc import Callable

import numpy as np

from benchmarks.pieces import MINOR_PENTATONIC, NATURAL_MINOR, Piece, Stroke, True_, ladder

# A string struck again by a finger of the fretting hand is so much softer than the pick.
_SOFT = (0.3, 0.6)


def soft_legato(piece: Piece, pitch: int, beat_s: float, name: str, rng: np.random.Generator) -> Stroke:
    """A note hammered on or pulled off as a soft stroke of its own, while the one before stops."""
    before = piece.strokes[-1]
    before.end = piece.now + 0.005
    piece.truth[-1].duration = piece.now - piece.truth[-1].onset
    velocity = round(before.velocity * float(rng.uniform(*_SOFT)))
    stroke = Stroke(piece.now, piece.now + 0.97 * beat_s, pitch, max(20, velocity))
    piece.strokes.append(stroke)
    piece.truth.append(True_(piece.now, 0.97 * beat_s, pitch, (name,)))
    piece.now += beat_s
    return stroke


def legato_run(
    piece: Piece, stroke: Stroke, pitches: list[int], beat_s: float, rng: np.random.Generator, soft: bool
) -> None:
    """Notes after a stroke, each hammered on or pulled off, softly struck or by the pitch alone."""
    for pitch in pitches:
        name = "hammer_on" if pitch > piece.truth[-1].pitch else "pull_off"
        if soft:
            stroke = soft_legato(piece, pitch, beat_s, name, rng)
        else:
            piece.legato(stroke, pitch, beat_s, name, float(rng.uniform(0.004, 0.025)), False)


def bend(stroke: Stroke, true: True_, size: float, rise_s: float, late_s: float) -> float:
    """Bend a struck note; the time at which it has arrived."""
    start = stroke.onset + late_s
    stroke.curve = [(start, 0.0), (start + rise_s / 2, size * 0.45), (start + rise_s, size)]
    true.techniques, true.bend_cents = ("bend",), 100 * size
    return start + rise_s


def the_hand(rng: np.random.Generator) -> Piece:
    """All that a fretting hand does between two strokes of the pick, at speeds and levels of all kinds."""
    piece, root = Piece("the hand"), int(rng.integers(48, 67))
    notes = ladder(root, NATURAL_MINOR if rng.random() < 0.5 else MINOR_PENTATONIC, root - 3, root + 17)
    at, soft = len(notes) // 2, bool(rng.random() < 0.4)
    kinds = ("pick", "legato", "slide", "bend", "release", "let down", "vibrato", "again", "trill")
    shares = (0.27, 0.2, 0.17, 0.09, 0.06, 0.03, 0.07, 0.08, 0.03)

    def near(pitch: int, most: int) -> int:
        others = [p for p in notes if 0 < abs(p - pitch) <= most]
        return int(rng.choice(others))

    while piece.now < 11.0:
        at = int(np.clip(at + rng.integers(-3, 4), 0, len(notes) - 1))
        pitch, kind = notes[at], str(rng.choice(kinds, p=shares))
        quick, held = float(rng.uniform(0.1, 0.35)), float(rng.uniform(0.4, 1.1))
        if kind in ("pick", "again"):
            for _ in range(1 if kind == "pick" else int(rng.integers(2, 5))):
                stroke = piece.pick(pitch, quick, rng, gap=float(rng.choice((0.0, 0.03, 0.2))))
                stroke.velocity = int(rng.integers(45, 120))
        elif kind == "legato":
            stroke = piece.pick(pitch, quick, rng, gap=0.0)
            line = [near(pitch, 4)]
            while rng.random() < 0.55 and len(line) < 4:
                line.append(near(line[-1], 4))
            legato_run(piece, stroke, line, float(rng.uniform(0.08, 0.3)), rng, soft)
        elif kind == "trill":
            stroke, other = piece.pick(pitch, 0.11, rng, gap=0.0), near(pitch, 4)
            line = [other, pitch] * int(rng.integers(2, 5))
            legato_run(piece, stroke, line, 1 / float(rng.uniform(6.5, 11)), rng, soft)
        elif kind == "slide":
            stroke, to = piece.pick(pitch, float(rng.uniform(0.14, 0.5)), rng, gap=0.0), near(pitch, 7)
            for _ in range(int(rng.integers(1, 3))):
                far = abs(to - piece.truth[-1].pitch)
                stepped = far > 1 and bool(rng.random() < 0.65)
                glide_s = float(rng.uniform(0.04, 0.1)) * (1 + 0.12 * far)
                piece.legato(stroke, to, float(rng.uniform(0.18, 0.6)), "slide", glide_s, stepped)
                to = near(to, 5)
        elif kind in ("bend", "release"):
            stroke = piece.pick(pitch, held, rng)
            size = float(rng.choice([0.5, 1.0, 2.0, 3.0], p=[0.12, 0.3, 0.46, 0.12]))
            rise_s = float(rng.choice((rng.uniform(0.06, 0.2), rng.uniform(0.2, 0.4))))
            top = bend(stroke, piece.truth[-1], size, min(rise_s, 0.45 * held), float(rng.uniform(0.0, 0.15)))
            if kind == "release":
                back = top + float(rng.uniform(0.08, 0.3))
                stroke.curve += [(back, size), (back + float(rng.uniform(0.07, 0.3)), 0.0)]
                piece.truth[-1].techniques = ("bend_release",)
                stroke.end = max(stroke.end, stroke.curve[-1][0] + 0.1)
                piece.now = max(piece.now, stroke.end + 0.01)
            elif rng.random() < 0.4:
                stroke.vibrato = (top + 0.05, float(rng.uniform(4.2, 7)), float(rng.uniform(20, 60)))
                piece.truth[-1].techniques = ("bend", "vibrato")
        elif kind == "let down":
            stroke = piece.pick(pitch, held, rng)
            start = stroke.onset + float(rng.uniform(0.08, 0.3)) * held
            stroke.curve = [(stroke.onset, 2.0), (start, 2.0), (start + float(rng.uniform(0.1, 0.25)), 0.0)]
            piece.truth[-1].techniques, piece.truth[-1].bend_cents = ("prebend_release",), 200.0
        else:
            stroke = piece.pick(pitch, held, rng)
            late, extent = float(rng.uniform(0.0, 0.2)), float(rng.uniform(15, 90))
            stroke.vibrato = (stroke.onset + late, float(rng.uniform(4.2, 7)), extent)
            piece.truth[-1].techniques = ("vibrato",)
        if rng.random() < 0.15:
            piece.now += float(rng.uniform(0.1, 0.5))
        piece.truth[-1].duration = min(piece.truth[-1].duration, piece.now - piece.truth[-1].onset)
    return piece


def wide_vibrato(rng: np.random.Generator) -> Piece:
    """Held notes swung by eighty cents to a semitone and a half, with short ones between."""
    piece, root = Piece("wide vibrato"), int(rng.integers(55, 68))
    notes = ladder(root, MINOR_PENTATONIC, root - 2, root + 14)
    for _ in range(11):
        for _ in range(int(rng.integers(1, 4))):
            piece.pick(int(rng.choice(notes)), float(rng.uniform(0.12, 0.3)), rng)
        stroke = piece.pick(int(rng.choice(notes)), float(rng.uniform(0.8, 1.3)), rng)
        stroke.vibrato = (stroke.onset + 0.1, float(rng.uniform(4, 6)), float(rng.uniform(80, 150)))
        piece.truth[-1].techniques = ("vibrato",)
    return piece


def whammy_bar(rng: np.random.Generator) -> Piece:
    """Held notes dipped by one to four semitones and back, or let dive at their end, among plain ones."""
    piece, root = Piece("whammy bar"), int(rng.integers(55, 66))
    notes = ladder(root, MINOR_PENTATONIC, root, root + 14)
    for _ in range(10):
        for _ in range(int(rng.integers(1, 4))):
            piece.pick(int(rng.choice(notes)), float(rng.uniform(0.15, 0.35)), rng)
        stroke = piece.pick(int(rng.choice(notes)), float(rng.uniform(0.8, 1.3)), rng)
        start, depth = stroke.onset + float(rng.uniform(0.15, 0.35)), -float(rng.uniform(1, 4))
        down = start + float(rng.uniform(0.08, 0.2))
        stroke.curve = [(start, 0.0), (down, depth)]
        piece.truth[-1].techniques = ("dive",)
        if rng.random() < 0.7:
            piece.truth[-1].techniques = ("dip",)
            stroke.curve.append((down + float(rng.uniform(0.08, 0.2)), 0.0))
    return piece


def let_ring(rng: np.random.Generator) -> Piece:
    """Broken chords, each string left to ring until the chord changes."""
    piece = Piece("let ring")
    shapes = ((0, 7, 12, 16, 19), (0, 7, 12, 15, 19), (0, 7, 10, 16, 19), (0, 5, 9, 12, 17))
    for _ in range(5):
        root, shape = int(rng.integers(43, 55)), shapes[int(rng.integers(len(shapes)))]
        beat, first = float(rng.uniform(0.17, 0.3)), len(piece.strokes)
        for step in (*shape, *shape[-2:0:-1])[: int(rng.integers(5, 9))]:
            piece.pick(root + step, beat, rng)
        for stroke, true in zip(piece.strokes[first:], piece.truth[first:], strict=True):
            again = [s.onset for s in piece.strokes if s.pitch == stroke.pitch and s.onset > stroke.onset]
            stroke.end = min([piece.now, *again])
            true.duration = stroke.end - true.onset
    return piece


def unison_bends(rng: np.random.Generator) -> Piece:
    """A fretted note, and on the string below it a note two semitones lower bent up to it, struck together."""
    piece, root = Piece("unison bends"), int(rng.integers(59, 68))
    notes = ladder(root, MINOR_PENTATONIC, root, root + 12)
    for _ in range(11):
        for _ in range(int(rng.integers(1, 3))):
            piece.pick(int(rng.choice(notes)), float(rng.uniform(0.2, 0.35)), rng)
        pitch, beat = int(rng.choice(notes)), float(rng.uniform(0.5, 1.0))
        upper = piece.pick(pitch, beat, rng)
        lower = Stroke(upper.onset + float(rng.uniform(0, 0.012)), upper.end, pitch - 2, upper.velocity, channel=1)
        true = True_(lower.onset, lower.end - lower.onset, pitch - 2)
        bend(lower, true, 2.0, float(rng.uniform(0.1, 0.2)), float(rng.uniform(0.02, 0.08)))
        piece.strokes.append(lower)
        piece.truth.append(true)
    return piece


def sixths(rng: np.random.Generator) -> Piece:
    """A line in sixths, some struck together, some one after the other and left to ring."""
    piece, root = Piece("sixths"), int(rng.integers(48, 58))
    notes = ladder(root, (0, 2, 4, 5, 7, 9, 11), root, root + 21)
    at = 3
    for _ in range(20):
        at = int(np.clip(at + rng.choice((-2, -1, 1, 2)), 0, len(notes) - 6))
        beat, apart = float(rng.uniform(0.3, 0.6)), bool(rng.random() < 0.3)
        low = piece.pick(notes[at], beat, rng)
        late = low.onset + (beat / 2 if apart else float(rng.uniform(0, 0.012)))
        piece.strokes.append(Stroke(late, low.end, notes[at + 5], low.velocity))
        names = () if apart else ("double_stop",)
        piece.truth[-1].techniques = names
        piece.truth.append(True_(late, low.end - late, notes[at + 5], names))
    return piece


def low_line(rng: np.random.Generator) -> Piece:
    """A riff on the two lowest strings, the sixth let down to D."""
    piece, beat = Piece("drop D"), float(rng.uniform(0.14, 0.28))
    while piece.now < 10.0:
        step = int(rng.choice((0, 0, 0, 3, 5, 6, 7, 10, 12, 15)))
        piece.pick(38 + step, beat * float(rng.choice((1, 1, 2))), rng)
    return piece


def high_line(rng: np.random.Generator) -> Piece:
    """A line up to the twenty-second fret of the first string, with bends at the top."""
    piece = Piece("fret 22")
    notes = ladder(64, NATURAL_MINOR, 74, 86)
    at = 3
    while piece.now < 9.0:
        at = int(np.clip(at + rng.integers(-2, 3), 0, len(notes) - 1))
        stroke = piece.pick(notes[at], float(rng.choice((0.12, 0.18, 0.3, 0.7))), rng)
        if stroke.end - stroke.onset > 0.5 and rng.random() < 0.5:
            bend(stroke, piece.truth[-1], float(rng.choice((1.0, 2.0))), float(rng.uniform(0.1, 0.2)), 0.08)
    return piece


def bursts(rng: np.random.Generator) -> Piece:
    """Runs of fourteen notes a second, picked, over two octaves and more, with held notes between."""
    piece, root = Piece("14 a second"), int(rng.integers(48, 60))
    notes = ladder(root, NATURAL_MINOR, root, root + 26)
    while piece.now < 9.0:
        up, count = bool(rng.random() < 0.5), int(rng.integers(8, 16))
        start = int(rng.integers(0, len(notes) - count + 1)) if count < len(notes) else 0
        line = notes[start : start + count]
        for pitch in line if up else line[::-1]:
            piece.pick(pitch, 1 / 14, rng, gap=0.0)
        piece.pick(piece.truth[-1].pitch, float(rng.uniform(0.3, 0.6)), rng)
    return piece


HARDER: tuple[Callable[[np.random.Generator], Piece], ...] = (
    the_hand, wide_vibrato, whammy_bar, let_ring, unison_bends, sixths, low_line, high_line, bursts,
)  # fmt: skip
