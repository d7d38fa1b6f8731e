import unittest

from hypothesis import given
from hypothesis import strategies as st

from eager_owl.theory.chord import parse_chord, transpose_chord
from eager_owl.theory.interval import interval_name, interval_words
from eager_owl.theory.key import parse_key
from eager_owl.theory.pitch import hz_to_midi, midi_to_hz, parse_pitch, pitch_name, pretty
from eager_owl.theory.scale import SCALES, degree_semitones


class Pitches(unittest.TestCase):
    def test_names_and_numbers(self) -> None:
        for name, midi in (("E4", 64), ("E2", 40), ("Bb3", 58), ("F#5", 78), ("c4", 60), ("C-1", 0), ("64", 64)):
            self.assertEqual(parse_pitch(name), midi, name)
        self.assertEqual(pitch_name(58), "Bb3")
        self.assertEqual(pitch_name(58, parse_key("B major").names), "A#3")

    def test_bad_names_are_refused_by_name(self) -> None:
        for name in ("H4", "E", "", "E#b4", "200"):
            with self.assertRaisesRegex(ValueError, "is not a pitch"):
                parse_pitch(name)

    @given(st.floats(20, 120))
    def test_hertz_and_back(self, midi: float) -> None:
        self.assertAlmostEqual(hz_to_midi(midi_to_hz(midi)), midi, places=9)

    def test_pretty_changes_accidentals_only(self) -> None:
        self.assertEqual(pretty("Bbm7b5"), "B♭m7♭5")
        self.assertEqual(pretty("F minor blues"), "F minor blues")
        self.assertEqual(pretty("b7"), "♭7")
        self.assertEqual(pretty("#9→b3"), "♯9→♭3")


class Chords(unittest.TestCase):
    def test_tones(self) -> None:
        expected = {
            "F": "R 3 5", "Fm": "R b3 5", "F-7": "R b3 5 b7", "Fmaj7": "R 3 5 7", "FM7": "R 3 5 7", "FΔ": "R 3 5 7",
            "FΔ7": "R 3 5 7", "Gm7b5": "R b3 b5 b7", "Gø": "R b3 b5 b7", "Gø7": "R b3 b5 b7", "B°": "R b3 b5",
            "Bdim7": "R b3 b5 bb7", "C7alt": "R 3 b7 b9 #9 b5 #5", "C7#9": "R 3 5 b7 #9", "C7b9": "R 3 5 b7 b9",
            "C6": "R 3 5 6", "C6/9": "R 3 5 6 9", "C69": "R 3 5 6 9", "Cm6": "R b3 5 6", "C9": "R 3 5 b7 9",
            "C13": "R 3 5 b7 9 13", "Csus4": "R 4 5", "C7sus4": "R 4 5 b7", "Cadd9": "R 3 5 9", "Cmadd9": "R b3 5 9",
            "Fm(maj7)": "R b3 5 7", "FmMaj7": "R b3 5 7", "Fmmaj7": "R b3 5 7", "C+": "R 3 #5", "C7+": "R 3 #5 b7",
            "C+7": "R 3 #5 b7", "C7(b9,#5)": "R 3 #5 b7 b9", "F5": "R 5", "Ebmaj9": "R 3 5 7 9",
            "Dbmaj7#11": "R 3 5 7 #11",
        }  # fmt: skip
        for symbol, tones in expected.items():
            self.assertEqual(set(parse_chord(symbol).labels), set(tones.split()), symbol)

    def test_bass(self) -> None:
        self.assertEqual(parse_chord("Bb/D").bass, 2)
        self.assertEqual(parse_chord("C6/9/E").bass, 4)
        self.assertEqual(parse_chord("Bb7").bass, 10)

    def test_unreadable_chords_are_named(self) -> None:
        for symbol in ("H7", "Fxx", "C7b8", "Cm7b", "m7", "", "C7/"):
            with self.assertRaisesRegex(ValueError, f"“{symbol}” can't be read"):
                parse_chord(symbol)

    def test_what_is_no_chord_is_quoted_no_longer_than_one_cares_to_read(self) -> None:
        with self.assertRaisesRegex(ValueError, "C…” can't be read") as caught:
            parse_chord("C" * 400)
        self.assertLess(len(str(caught.exception)), 100)

    @given(st.sampled_from(["Fm7", "Gm7b5", "C7alt", "Bb/D", "Abmaj7"]), st.integers(-12, 12))
    def test_transposing_keeps_the_tones(self, symbol: str, semitones: int) -> None:
        chord = parse_chord(symbol)
        moved = transpose_chord(chord, semitones)
        self.assertEqual(moved.labels, chord.labels)
        again = parse_chord(moved.symbol)
        self.assertEqual((again.root, again.bass, again.labels), (moved.root, moved.bass, moved.labels))


class KeysAndScales(unittest.TestCase):
    def test_keys(self) -> None:
        for text, name in (("F minor", "F minor"), ("Fm", "F minor"), ("bb", "Bb major"), ("c# min", "C# minor")):
            self.assertEqual(parse_key(text).name, name)
        self.assertEqual([parse_key("F minor").names[pc] for pc in (8, 3, 4, 1)], ["Ab", "Eb", "E", "Db"])
        self.assertEqual([parse_key("E major").names[pc] for pc in (8, 3, 10)], ["G#", "D#", "Bb"])
        self.assertEqual(parse_key("A minor").names[8], "G#")
        self.assertEqual(parse_key("D minor").names[1], "C#")
        self.assertEqual(parse_key("Eb minor").name, "Eb minor")

    def test_keys_as_players_name_them(self) -> None:
        for text, name, mode in (
            ("E blues", "E blues", "major"),
            ("e Blues", "E blues", "major"),
            ("A minor blues", "A minor blues", "minor"),
            ("A Dorian", "A Dorian", "minor"),
            ("g mixolydian mode", "G Mixolydian", "major"),
            ("D minor, harmonic", "D harmonic minor", "minor"),
            ("E Phrygian", "E Phrygian", "minor"),
            ("C ionian", "C major", "major"),
        ):
            key = parse_key(text)
            self.assertEqual((key.name, key.mode), (name, mode), text)
            self.assertEqual(parse_key(key.name), key)

    def test_the_tonic_stays_as_it_was_written_where_a_signature_can_be(self) -> None:
        self.assertEqual(parse_key("Gb blues").name, "Gb blues")
        self.assertEqual(parse_key("F# major"), parse_key("Gb major"))
        self.assertEqual(parse_key("Db minor").name, "C# minor")  # eight flats
        self.assertEqual(parse_key("Gb major").moved(2).name, "Ab major")

    def test_signatures(self) -> None:
        told = {"C major": 0, "A minor": 0, "D Dorian": 0, "G Mixolydian": 0, "E Phrygian": 0, "F Lydian": 0,
                "A blues": 3, "A minor blues": 0, "D harmonic minor": -1, "Gb major": -6}  # fmt: skip
        self.assertEqual({text: parse_key(text).fifths for text in told}, told)

    def test_what_belongs_to_a_key(self) -> None:
        self.assertIn(6, parse_key("A Dorian").pitch_classes)
        self.assertNotIn(5, parse_key("A Dorian").pitch_classes)
        self.assertTrue({0, 1} <= parse_key("A blues").pitch_classes, "both thirds")
        self.assertTrue({8, 6} <= parse_key("A minor").pitch_classes, "the raised sixth and seventh")

    def test_bad_key(self) -> None:
        for text in ("", "H minor", "F blues-ish", "minor"):
            with self.assertRaisesRegex(ValueError, "is not a key"):
                parse_key(text)

    def test_two_names_of_one_scale(self) -> None:
        altered = {(0 + step) % 12 for step in SCALES["altered"].degrees}
        melodic = {(1 + step) % 12 for step in SCALES["melodic minor"].degrees}
        self.assertEqual(altered, melodic)

    def test_every_scale_starts_on_its_root_and_has_no_step_twice(self) -> None:
        for scale in SCALES.values():
            self.assertEqual(scale.labels[0], "R")
            self.assertEqual(len(scale.degrees), len(scale.labels), scale.name)

    def test_intervals(self) -> None:
        self.assertEqual(interval_name(72, 5), "5")
        self.assertEqual(degree_semitones("bb7"), 9)
        self.assertEqual(interval_words("b5"), "flat five")
        self.assertEqual(interval_words("3"), "third")
