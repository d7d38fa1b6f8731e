import unittest

from eager_owl.rhythm.chart import parse_chart
from eager_owl.theory.chord import parse_chord, second_names
from eager_owl.theory.harmony import function_of, roman_numeral, suggest_keys
from eager_owl.theory.key import parse_key
from eager_owl.theory.scale import RELATIVES, SCALES

F_MINOR, C_MAJOR = parse_key("F minor"), parse_key("C major")


class Numerals(unittest.TestCase):
    def test_degrees_and_qualities(self) -> None:
        chords = ("Fm7", "Bbm6", "Gm7b5", "C7alt", "Abmaj7", "Fm(maj7)", "Bdim7", "C+")
        told = [roman_numeral(parse_chord(chord), F_MINOR) for chord in chords]
        self.assertEqual(told, ["i7", "iv6", "iiø7", "V7alt", "bIIImaj7", "i(maj7)", "#iv°7", "V+"])

    def kind(self, chord: str, following: str | None = None, key: str = "C major") -> tuple[str, str]:
        after = parse_chord(following) if following else None
        function = function_of(parse_chord(chord), parse_key(key), after)
        return function.kind, function.words

    def test_the_keys_own(self) -> None:
        for chord in ("Cmaj7", "Dm7", "G7", "Bm7b5", "G13", "F"):
            self.assertEqual(self.kind(chord), ("own", ""))
        for chord in ("Fm7", "C7", "Bbm7", "Bb7", "Eb7"):
            self.assertEqual(self.kind(chord, key="F minor")[0], "own")

    def test_from_outside(self) -> None:
        self.assertEqual(self.kind("A7", "Dm7"), ("secondary dominant", "secondary dominant, V7 of ii"))
        self.assertEqual(self.kind("Db7", "Cmaj7"), ("tritone substitute", "tritone substitute for V7 of I"))
        self.assertEqual(self.kind("C#dim7", "Dm7")[0], "passing diminished")
        self.assertEqual(self.kind("Fm7", "C"), ("borrowed", "borrowed from C minor"))
        self.assertEqual(self.kind("C7", "C7")[0], "blues")
        self.assertEqual(self.kind("E7"), ("secondary dominant", "secondary dominant, pointing at VI"))
        self.assertEqual(self.kind("F#maj7")[0], "outside")


class Names(unittest.TestCase):
    def test_one_chord_under_two_names(self) -> None:
        self.assertEqual([c.symbol for c in second_names(parse_chord("Gm7b5"))], ["Bbm6/G"])
        self.assertEqual([c.symbol for c in second_names(parse_chord("Bbm6"))], ["Gm7b5/Bb"])
        self.assertEqual([c.symbol for c in second_names(parse_chord("C6"))], ["Am7/C"])
        self.assertEqual(len(second_names(parse_chord("Bdim7"))), 3)
        self.assertEqual(second_names(parse_chord("C7")), [])

    def test_relatives_have_the_same_notes(self) -> None:
        for name, (other, up) in RELATIVES.items():
            mine, theirs = set(SCALES[name].degrees), {(step + up) % 12 for step in SCALES[other].degrees}
            self.assertEqual(mine, theirs, name)


class Keys(unittest.TestCase):
    def best(self, text: str) -> str:
        return suggest_keys([chord for bar in parse_chart(text).bars for chord in bar])[0][0].name

    def test_keys_that_chords_speak_for(self) -> None:
        self.assertEqual(self.best("| Fm7 | Bbm7 | Gm7b5 | C7 | Fm7 |"), "F minor")
        self.assertEqual(self.best("| Dm7 | G7 | Cmaj7 | % |"), "C major")
        self.assertEqual(self.best("| A7 | D7 | A7 | % | D7 | % | A7 | % | E7 | D7 | A7 | E7 |"), "A blues")
        self.assertEqual(self.best("| Am | G | F | E7 |"), "A minor")

    def test_modes_come_from_the_chords_together(self) -> None:
        for text, key in (
            ("| Dm7 | G7 |", "D Dorian"),
            ("| Em | F |", "E Phrygian"),
            ("| A | G | D |", "A Mixolydian"),
            ("| F | G | F |", "F Lydian"),
            ("| Fm7 | Bbm7 |", "F minor"),
            ("| Fm7 | Bbm7 | C7 |", "F minor"),
            ("| Dm | G | C |", "C major"),
        ):
            self.assertEqual(self.best(text), key, text)

    def test_a_blues_is_spelled_by_its_own_chords(self) -> None:
        form = "| Gb7 | Cb7 | Gb7 | % | Cb7 | % | Gb7 | % | Db7 | Cb7 | Gb7 | Db7 |"
        self.assertEqual(self.best(form), "Gb blues")
        key = parse_key("Gb blues")
        self.assertEqual(function_of(parse_chord("Gb7"), key, parse_chord("Cb7")).kind, "blues")

    def test_shares_are_of_one_and_none_without_chords(self) -> None:
        shares = [share for _, share in suggest_keys([parse_chord("C")])]
        self.assertAlmostEqual(sum(shares), 1.0)
        self.assertEqual(suggest_keys([None]), [])
