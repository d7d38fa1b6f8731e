"""Fits over chords, the sentences, the whole solo counted, and the player's own word."""

import itertools
import unittest
from dataclasses import replace

from hypothesis import given, settings
from hypothesis import strategies as st

from eager_owl.reasons.colours import colour_of
from eager_owl.reasons.explain import BLUE_COST, DETOUR_COST, explain, explain_by_all, read_line
from eager_owl.reasons.fits import fit_over, fits_over_chart
from eager_owl.reasons.path import UNEXPLAINED_COST, best_path
from eager_owl.reasons.schools import reason_schools
from eager_owl.reasons.sources import parse_source
from eager_owl.reasons.tell import tell_story
from eager_owl.rhythm.chart import parse_chart, transpose_chart
from eager_owl.rhythm.grid import BeatGrid
from eager_owl.session import explaining
from eager_owl.session.sounding import against_chord
from eager_owl.solo.document import Note, Phrase, Solo, with_notes
from eager_owl.solo.techniques import Technique
from eager_owl.theory.chord import parse_chord
from eager_owl.theory.key import Key, parse_key
from tests.support import line
from tests.worked import written

GRID = BeatGrid(120, 0.0, 4)
C_MAJOR, F_MINOR = parse_key("C major"), parse_key("F minor")


class Colours(unittest.TestCase):
    def verdicts(self, chord: str, pitches: str, key: Key | None = None) -> list[str]:
        return [colour_of(n.pitch, parse_chord(chord), key).verdict for n in written(pitches)]

    def test_dominants_take_altered_colours(self) -> None:
        found = self.verdicts("C7", "C4 Db4 D4 Eb4 E4 F4 Gb4 G4 Ab4 A4 Bb4 B4")
        tones = ["chord tone" if i in (0, 4, 7, 10) else "tension" for i in range(12)]
        tones[5] = tones[11] = "clash"
        self.assertEqual(found, tones)

    def test_a_half_step_over_a_tone_rubs(self) -> None:
        self.assertEqual(self.verdicts("Cmaj7", "F4 Ab4 Db4 Bb4 D4 F#4"), ["clash"] * 4 + ["tension"] * 2)
        self.assertEqual(self.verdicts("Cm7", "E4 B4 Ab4 F4 A4"), ["clash"] * 3 + ["tension"] * 2)

    def test_the_keys_own_flat_six_is_at_home_on_its_tonic(self) -> None:
        self.assertEqual(self.verdicts("Fm7", "Db5", F_MINOR), ["tension"])
        self.assertEqual(self.verdicts("Fm7", "Db5"), ["clash"])

    def test_why_names_the_tone_that_is_rubbed(self) -> None:
        self.assertEqual(colour_of(64, parse_chord("F7")).why, "a half step above its flat seven")


class Fits(unittest.TestCase):
    def test_the_third_of_one_over_four_and_five(self) -> None:
        held = written("1:E4")
        self.assertEqual([fit_over(held, parse_chord(c), C_MAJOR).notes[0].verdict for c in ("C", "F7", "G7")],
                         ["safe", "clash", "colour"])  # fmt: skip
        self.assertEqual(fit_over(held, parse_chord("F7"), C_MAJOR).notes[0].change, -1)

    def test_a_change_makes_a_clash_fit(self) -> None:
        fit = fit_over(written("1:F4 1:B4"), parse_chord("Cmaj7"), C_MAJOR)
        self.assertEqual([note.verdict for note in fit.notes], ["clash", "safe"])
        pitch = 65 + fit.notes[0].change
        self.assertEqual(colour_of(pitch, parse_chord("Cmaj7")).verdict, "chord tone")

    def test_the_part_that_fits_alone(self) -> None:
        fit = fit_over(written("2:C4 F4 E4 G4 B4"), parse_chord("Cmaj7"), C_MAJOR)
        self.assertEqual(fit.alone, (2, 4))
        self.assertEqual(fit.words, "1 of 5 clashes")
        nothing = fit_over(written("1:F4 1:Ab4"), parse_chord("Cmaj7"), C_MAJOR)
        self.assertIsNone(nothing.alone)

    def test_register_is_told(self) -> None:
        low, high = (fit_over(written(p), parse_chord("Cmaj7"), None).notes[0].why for p in ("1:F2", "1:F5"))
        self.assertIn("growls", low)
        self.assertIn("milder", high)

    def test_light_notes_that_lead_on_do_not_clash(self) -> None:
        fit = fit_over(written("8:E4 F4 G4 C5"), parse_chord("C"), C_MAJOR, GRID)
        self.assertEqual([note.verdict for note in fit.notes], ["safe", "colour", "safe", "safe"])

    def test_over_every_chord_of_the_chart_once(self) -> None:
        fits = fits_over_chart(written("4:C4 E4"), parse_chart("| C | F | C | G7 |"), C_MAJOR)
        self.assertEqual([fit.chord.symbol for fit in fits], ["C", "F", "G7"])

    def test_a_typed_chord_that_cannot_be_read(self) -> None:
        solo = with_notes(Solo(chart_text="| C |"), line(60, 64))
        self.assertEqual(len(explaining.fits_of(solo, solo.notes, "Dm7")), 1)
        with self.assertRaisesRegex(ValueError, "Hm7"):
            explaining.fits_of(solo, solo.notes, "Hm7")


class Telling(unittest.TestCase):
    def sentences(self, text: str, key: str, chart: str, school: str) -> list[str]:
        notes, parsed = written(text), parse_chart(chart)
        reading = read_line(notes, parse_key(key), parsed, GRID)
        told = explain(notes, parse_key(key), parsed, GRID, reason_schools()[school], reading)
        return [sentence.words for sentence in tell_story(told, reading, GRID)]

    def test_a_line_ahead_of_its_chord(self) -> None:
        told = self.sentences("8:G4 A4 Bb4 D5 Eb5 Db5 Bb4 Ab4 Gb4 E4 Db4 Eb4 Gb4 Ab4 4:Bb4 1:A4", "F major",
                              "| Gm7 | C7 | Fmaj7 |", "chord-by-chord")  # fmt: skip
        self.assertIn(
            "From beat 3 of bar 1 the line already plays C altered (D♭ melodic minor); it lands on the third of "
            "Fmaj7 by a half step from the flat seven of C7.",
            told,
        )
        self.assertFalse(any("falls a half step" in words for words in told), "said once, not twice")

    def test_common_tones_and_strangers(self) -> None:
        told = self.sentences("2:Eb5 2:C5+ 4:A4 F#4 1:G4", "C minor", "| Abmaj7 | D7 | Gm7 |", "two-pentatonics")
        self.assertIn("Note 2: the third of A♭maj7 becomes the flat seven of D7.", told)
        self.assertTrue(any("note 3 is the fifth of D7" in words for words in told))

    def test_sequences_and_repeats(self) -> None:
        told = self.sentences("8:A4 B4 C5 A4 B4 C5 D5 B4 C5 D5 E5 C5 2:A4", "A minor", "| Am7 |", "chord-by-chord")
        self.assertTrue(any("one figure three times, each a step up in A" in words for words in told))

    def test_without_key_or_chart(self) -> None:
        notes = line(60, 62)
        reading = read_line(notes, None, parse_chart(""), None)
        told = explain(notes, None, parse_chart(""), None, reason_schools()["two-pentatonics"], reading)
        self.assertEqual(told.unexplained, 2)
        self.assertIn("want of a key", tell_story(told, reading, None)[0].words)

    def test_the_shortest_story_comes_first(self) -> None:
        told = explain_by_all(
            written("8:E4 F#4 G4 A4 B4 C5 D5 E5"), parse_key("E minor"), parse_chart("| Em |"), GRID
        )
        lengths = [each.bits for each in told]
        self.assertEqual(lengths, sorted(lengths))
        self.assertEqual({each.school for each in told}, set(reason_schools()))
        plain = explain_by_all(written("8:E4 G4 A4 B4 D5 B4"), parse_key("E minor"), parse_chart("| Em |"), GRID)
        self.assertEqual(
            plain[0].reasons[0].source_name, "E minor pentatonic", "of two as short, the one that says more"
        )


class OwnWord(unittest.TestCase):
    def solo(self) -> Solo:
        return with_notes(Solo(key_text="A minor", chart_text="| Am7 |", grid=GRID), written("8:A4 C5 D5 E5 G5 A5"))

    def test_a_source_of_the_players_own_is_kept(self) -> None:
        solo = explaining.named_source(self.solo(), [3, 4], "A Dorian")
        reasons = explaining.explain_notes(solo, solo.notes).reasons
        self.assertEqual([r.source_name for r in reasons[2:4]], ["A Dorian"] * 2)
        self.assertEqual(reasons[0].source_name, "A minor pentatonic")
        free = explaining.named_source(solo, [3, 4], "")
        self.assertEqual(free, self.solo())

    def test_a_role_of_the_players_own_is_kept(self) -> None:
        from eager_owl.solo.edits import set_role

        solo = set_role(self.solo(), [2], "blue note")
        self.assertEqual(explaining.reading_of(solo, solo.notes).roles[1], "blue note")

    def test_names_that_are_read(self) -> None:
        for name in ("F minor pentatonic", "Bb Lydian dominant", "Fm7 arpeggio", "Abmaj7 arpeggio", "chromatic"):
            self.assertEqual(parse_source(name).name, name)
        for name in ("F gypsy", "pentatonic", "H major", "Fx arpeggio"):
            with self.assertRaises(ValueError):
                parse_source(name)


class WholeSolo(unittest.TestCase):
    def test_counts_lead_to_notes(self) -> None:
        notes = written("8:A4 C5 E5 D5 C5 A4 4:G4 2:r 8:A4 C5 E5 D5 B4 A4 4:G4 2:r 4:F5")
        notes[0] = replace(notes[0], techniques=(Technique("slide", 1.0),), string=2, fret=10)
        solo = with_notes(
            Solo(key_text="A minor", chart_text="| Am7 | % | Dm7 |", grid=GRID, phrases=(Phrase(0, 2.5, "One"),)),
            notes,
        )
        reading = explaining.reading_of(solo, solo.notes)
        over = explaining.overview_of(solo, reading, explaining.explain_notes(solo, solo.notes, reading=reading))
        self.assertEqual(sum(len(ids) for _, ids in over.roles), len(notes))
        self.assertEqual(sum(len(ids) for _, ids in over.sources), len(notes))
        self.assertEqual(over.techniques, (("slide", (1,)),))
        self.assertEqual((over.lowest, over.highest), (67, 77))
        self.assertEqual(over.places, {(2, 10): (1,)})
        self.assertEqual([(p.index, p.notes) for p in over.phrases], [(0, 7)])
        self.assertEqual(over.figures, (((1, 2, 3, 4, 5, 6, 7), 2),))
        self.assertEqual(len(over.bars), 3)

    def test_an_empty_solo(self) -> None:
        solo = Solo()
        reading = explaining.reading_of(solo, [])
        over = explaining.overview_of(solo, reading, explaining.explain_notes(solo, [], reading=reading))
        self.assertEqual((over.sources, over.lowest, over.figures), ((), None, ()))

    def test_a_chord_to_hear_a_note_against(self) -> None:
        notes = against_chord(Note(1, 5.0, 1.0, 70, techniques=(Technique("bend", 2.0),)), parse_chord("Fm7/Ab"))
        self.assertEqual(min(n.pitch for n in notes) % 12, 8)
        self.assertEqual(notes[-1].pitch, 72)
        self.assertLessEqual({5, 8, 0, 3}, {n.pitch % 12 for n in notes[:-1]})


class Properties(unittest.TestCase):
    @settings(max_examples=30, deadline=None)
    @given(st.lists(st.integers(52, 80), min_size=2, max_size=20), st.integers(1, 11))
    def test_transposing_all_changes_no_event(self, pitches: list[int], by: int) -> None:
        chart = parse_chart("| Fm7 | Gm7b5 C7alt | Bb7 | Dbmaj7 |")
        one = read_line(line(*pitches), F_MINOR, chart, GRID)
        moved = Key((F_MINOR.tonic + by) % 12, "minor")
        two = read_line(line(*(p + by for p in pitches)), moved, transpose_chart(chart, by), GRID)
        self.assertEqual(one.roles, two.roles)
        for a, b in zip(one.events, two.events, strict=True):
            self.assertEqual((a.kind, a.notes, a.intervals, a.semitones, a.changed),
                             (b.kind, b.notes, b.intervals, b.semitones, b.changed))  # fmt: skip

    @settings(max_examples=30, deadline=None)
    @given(st.lists(st.integers(55, 79), min_size=1, max_size=5))
    def test_the_path_costs_no_more_than_any_other(self, pitches: list[int]) -> None:
        """Against every path there is, under a school whose changes all cost alike."""
        school, key = reason_schools()["two-pentatonics"], parse_key("A major")
        reading = read_line(line(*pitches), key, parse_chart(""), None)
        excused = [BLUE_COST if role == "blue note" else None for role in reading.roles]
        excused = [
            DETOUR_COST if e is None and role.startswith("approach") else e
            for e, role in zip(excused, reading.roles, strict=True)
        ]
        sources = school.sources(None, key)

        def cost(path: tuple[int, ...]) -> float:
            total = sources[path[0]].cost
            for before, after in itertools.pairwise(path):
                total += 0.0 if before == after else 4.5 + sources[after].cost
            for pitch, at, forgiven in zip(pitches, path, excused, strict=True):
                if not sources[at].explains(pitch, pitch):
                    total += UNEXPLAINED_COST if forgiven is None else forgiven
            return total

        found = best_path(reading.context, key, school, excused, [None] * len(pitches))
        if any(choice is None or choice.source not in sources for choice in found):
            return  # a chromatic run, which is offered besides
        mine = cost(tuple(sources.index(choice.source) for choice in found if choice))
        self.assertAlmostEqual(mine, min(map(cost, itertools.product(range(len(sources)), repeat=len(pitches)))))
