"""Text tab as people type it: forty hands' habits, each with what it must be read as."""

import unittest

from eager_owl.notation.imported import ForeignFileError, Imported
from eager_owl.notation.tab import TabRows, text_tab
from eager_owl.notation.tab_in import read_tab
from eager_owl.session.importing import read_pasted_tab
from tests.written import demo_solo

E = "-" * 17


def six(high: str = E, b: str = E, g: str = E, d: str = E, a: str = E, low: str = E, labels: str = "eBGDAE") -> str:
    """Six lines with their letters, one bar unless a line has more."""
    return "\n".join(f"{label}|{line}|" for label, line in zip(labels, (high, b, g, d, a, low), strict=True))


def read(text: str) -> Imported:
    return read_tab(text, "typed.txt")


def places(text: str) -> list[tuple[int | None, int | None]]:
    return [(note.string, note.fret) for note in read(text).solo.notes]


def beats(text: str) -> list[float]:
    solo = read(text).solo
    assert solo.grid is not None
    return [round(solo.grid.beat_at(note.onset), 2) for note in solo.notes]


def names(text: str) -> list[list[str]]:
    return [[technique.name for technique in note.techniques] for note in read(text).solo.notes]


def named(line: str) -> list[list[str]]:
    """The techniques of a single line on the second string."""
    width = max(17, len(line))
    plain = "-" * width
    return names(six(plain, line.ljust(width, "-"), plain, plain, plain, plain))


_RUN = "-5---7---8---5---"
_RUN_PLACES = [(2, 5), (2, 7), (2, 8), (2, 5)]


class Lines(unittest.TestCase):
    """How the lines themselves are typed."""

    def test_the_same_four_notes_in_many_ways_of_drawing_lines(self) -> None:
        plain = six(b=_RUN)
        ways = {
            "plain": plain,
            "double bars": plain.replace("|-", "||-").replace("-|\n", "-||\n"),
            "colons": plain.replace("|-", ":-"),
            "spaces before the bar": plain.replace("|-", " |-"),
            "spaces in front": "\n".join("    " + line for line in plain.splitlines()),
            "brackets about the letters": "\n".join(f"[{line[0]}]{line[1:]}" for line in plain.splitlines()),
            "small letters": plain.lower(),
            "capital top string": plain.replace("e|", "E|"),
            "numbers for letters": six(b=_RUN, labels="123456"),
            "no letters": "\n".join(line[1:] for line in plain.splitlines()),
            "long dashes": plain.replace("-", "–"),
            "longest dashes": plain.replace("-", "—"),
            "box drawing": plain.replace("-", "─").replace("|", "│"),
            "underscores": plain.replace("-", "_"),
            "windows line ends": plain.replace("\n", "\r\n"),
            "a byte order mark": "\ufeff" + plain,
            "no bar at the end": "\n".join(line.rstrip("|") for line in plain.splitlines()),
            "words after the lines": "\n".join(
                f"{line}  x{n}" if n == 1 else line for n, line in enumerate(plain.splitlines())
            ),
            "thick string on top": "\n".join(reversed(plain.splitlines())),
        }
        for way, text in ways.items():
            with self.subTest(way):
                self.assertEqual(places(text), _RUN_PLACES)
                self.assertEqual(beats(text), [0, 1, 2, 3])

    def test_lines_that_are_typed_askew_are_cut_at_their_own_bars(self) -> None:
        lines = six(high=f"{E}|{E}", b=f"{_RUN}|{_RUN}", g=f"{E}-|{E}", d=f"{E}|{E}", a=f"{E}|{E}", low=f"{E}|{E}")
        self.assertEqual(places(lines), _RUN_PLACES * 2)
        self.assertEqual(beats(lines)[4:], [4, 5, 6, 7])

    def test_systems_that_are_wrapped_go_on(self) -> None:
        text = f"My Tune\n\n{six(b=_RUN)}\n\n\n{six(high=_RUN)}\n"
        self.assertEqual(places(text), _RUN_PLACES + [(1, fret) for _, fret in _RUN_PLACES])
        self.assertEqual(beats(text), list(range(8)))
        self.assertEqual(read(text).solo.title, "My Tune")

    def test_two_systems_without_a_line_between_them(self) -> None:
        self.assertEqual(len(places(f"{six(b=_RUN)}\n{six(b=_RUN)}")), 8)

    def test_repeat_signs_are_played(self) -> None:
        text = six(":--------------:", ":5--7--8--5----:", *[":--------------:"] * 4)
        self.assertEqual(len(places(text)), 8)

    def test_seven_and_eight_strings_and_a_bass(self) -> None:
        seven = "\n".join([*six(b=_RUN).splitlines(), f"B|{_RUN}|"])
        self.assertEqual(read(seven).solo.instrument.tuning[-1], 35)
        self.assertIn((7, 5), places(seven))
        bass = "\n".join(f"{label}|{line}|" for label, line in zip("GDAE", (E, E, E, _RUN), strict=True))
        self.assertEqual([note.pitch for note in read(bass).solo.notes], [33, 35, 36, 33])

    def test_other_tunings_are_read_from_their_letters_or_from_words(self) -> None:
        dropped = six(low=_RUN, labels="eBGDAD")
        self.assertEqual(read(dropped).solo.instrument.tuning, (64, 59, 55, 50, 45, 38))
        said = f"Tuning: D A D G A D\n\n{six(low=_RUN, labels='123456')}"
        self.assertEqual(read(said).solo.instrument.tuning, (62, 57, 55, 50, 45, 38))
        flat = "\n".join(
            f"{label:2}|{line}|"
            for label, line in zip(("Eb", "Bb", "Gb", "Db", "Ab", "Eb"), (E,) * 5 + (_RUN,), strict=True)
        )
        self.assertEqual(read(flat).solo.instrument.tuning, (63, 58, 54, 49, 44, 39))

    def test_a_capo_raises_every_fret(self) -> None:
        found = read(f"Capo 2nd fret\n{six(b=_RUN)}").solo
        self.assertEqual((found.instrument.capo, found.notes[0].fret, found.notes[0].pitch), (2, 7, 66))


class Numbers(unittest.TestCase):
    def test_what_no_bar_can_be_numbered_is_no_bar_number(self) -> None:
        for odd in ("9" * 400, "²", "٣"):
            found = read(f"{odd}   {odd}\n" + six(b="--3---5----------"))
            self.assertEqual([note.fret for note in found.solo.notes], [3, 5], odd)


class Facts(unittest.TestCase):
    def test_tempo_meter_key_and_chords(self) -> None:
        text = f"Tempo = 90, 3/4, key: F minor\n  Fm7      C7\n{six(b='-5---7---8---')}"
        found = read(text).solo
        assert found.grid is not None
        self.assertEqual((found.grid.bpm, found.grid.beats_per_bar, found.key_text), (90, 3, "F minor"))
        self.assertIn("Fm7", found.chart_text)
        for words in ("q = 132", "132 bpm", "♩=132", "BPM: 132"):
            grid = read(f"{words}\n{six(b=_RUN)}").solo.grid
            self.assertEqual(grid.bpm if grid else 0, 132, words)

    def test_phrases_are_named_by_what_stands_over_them(self) -> None:
        found = read(f"[Question]\n{six(b=_RUN)}\n\n[Answer]\n{six(high=_RUN)}").solo
        self.assertEqual([phrase.name for phrase in found.phrases], ["Question", "Answer"])

    def test_palm_mutes_and_ringing_over_the_strings(self) -> None:
        self.assertEqual(names(f"  P.M.----|\n{six(b=_RUN)}")[:3], [["palm_mute"], ["palm_mute"], []])
        self.assertEqual(names(f"  let ring---------|\n{six(b=_RUN)}"), [["let_ring"]] * 4)


class Signs(unittest.TestCase):
    def test_hammers_pulls_slides_and_taps(self) -> None:
        self.assertEqual(named("-5h7---7p5---"), [[], ["hammer_on"], [], ["pull_off"]])
        self.assertEqual(named("-5H7-7P5"), [[], ["hammer_on"], [], ["pull_off"]])
        self.assertEqual(named("-5h7p5-----"), [[], ["hammer_on"], ["pull_off"]])
        self.assertEqual(named("-5/7---7\\5--"), [[], ["slide"], [], ["slide"]])
        self.assertEqual(named("-5s7-----"), [[], ["slide"]])
        self.assertEqual(named("-5-/-7----"), [[], ["slide"]])
        self.assertEqual(named("----/7-----"), [["slide_in"]])
        self.assertEqual(named("-7\\---------"), [["slide_out"]])
        self.assertEqual(named("-5-t12p5---"), [[], ["tap"], ["pull_off"]])

    def test_bends_by_target_by_size_and_let_down(self) -> None:
        for typed, name, size in (
            ("7b9", "bend", 2.0), ("7b(9)", "bend", 2.0), ("7b8", "bend", 1.0), ("7bfull", "bend", 2.0),
            ("7b1/2", "bend", 1.0), ("7b½", "bend", 1.0), ("7b", "bend", None), ("7^", "bend", None),
            ("7b9r7", "bend_release", 2.0),
            ("7b9r", "bend_release", 2.0), ("(7b9)", "prebend", 2.0), ("7b9½", "bend", 2.5),
        ):  # fmt: skip
            with self.subTest(typed):
                line = f"-{typed}---"
                (note,) = read(six(b=line.ljust(17, "-"))).solo.notes
                self.assertEqual([(t.name, t.semitones) for t in note.techniques], [(name, size)])
                self.assertEqual(note.fret, 7)

    def test_vibrato_ghosts_mutes_harmonics_trills_and_dots(self) -> None:
        self.assertEqual(named("-7~---8v-----"), [["vibrato"], ["vibrato"]])
        self.assertEqual(named("-7~~~~~~-----"), [["vibrato"]])
        self.assertEqual(named("-(7)--x---X--"), [["ghost"], ["ghost"], ["ghost"]])
        self.assertEqual(named("-<12>-[7]-5*-"), [["harmonic"], ["harmonic"], ["harmonic"]])
        self.assertEqual([note.pitch for note in read(six(b="-<12>-[7]-5*-7------")).solo.notes], [71, 78, 83, 66])
        self.assertEqual(named("-7tr---5.----"), [["trill"], ["staccato"]])
        self.assertEqual(named("-7b9~--------"), [["bend", "vibrato"]])

    def test_two_digits_and_two_strings_at_once(self) -> None:
        self.assertEqual([fret for _, fret in places(six(b="-10--12--10------"))], [10, 12, 10])
        double = read(six("-5---------------", "-5---------------")).solo.notes
        self.assertEqual([[t.name for t in note.techniques] for note in double], [["double_stop"]] * 2)

    def test_unknown_signs_are_told_by_line_and_column(self) -> None:
        found = read(six(b="-5--$7-----------"))
        self.assertEqual([note.fret for note in found.solo.notes], [5, 7])
        self.assertRegex(found.complaints[0], r"line 2, column \d+: “\$” is not known")

    def test_rhythm_is_read_from_spacing(self) -> None:
        self.assertEqual(beats(six(b="-5-7-8-5-5-7-8-5-")), [0, 0.5, 1, 1.5, 2, 2.5, 3, 3.5])
        self.assertEqual(beats(six(b="-5-------7---8---")), [0, 2, 3])
        free = "\n".join(
            f"{label} {line}" for label, line in zip("eBGDAE", (E, "--5--7--8--5-----", E, E, E, E), strict=True)
        )
        self.assertEqual(beats(free), [0, 0.5, 1, 1.5])


class Whole(unittest.TestCase):
    def test_our_own_tab_comes_back_with_all_that_it_holds(self) -> None:
        solo = demo_solo()
        for rows in (TabRows(), TabRows(rhythm=True, hands=True)):
            back = read_tab(text_tab(solo, rows), "demo.txt")
            self.assertEqual(back.complaints, ())
            self.assertEqual([(n.string, n.fret) for n in back.solo.notes], [(n.string, n.fret) for n in solo.notes])
            self.assertEqual([p.name for p in back.solo.phrases], ["Pickup", "Question", "Answer"])
            self.assertEqual((back.solo.title, back.solo.key_text), ("Night Ferry", "F minor"))
            ours = [{t.name for t in note.techniques} for note in solo.notes]
            theirs = [{t.name for t in note.techniques} for note in back.solo.notes]
            self.assertEqual(theirs, ours)
            assert back.solo.grid is not None and solo.grid is not None
            off = [
                abs(back.solo.grid.beat_at(b.onset) - solo.grid.beat_at(a.onset))
                for a, b in zip(solo.notes, back.solo.notes, strict=True)
            ]
            self.assertLess(sorted(off)[-4], 0.15)  # in the trill's bar the signs need more room than the time

    def test_pasted_tab_is_placed_with_fingers(self) -> None:
        found = read_pasted_tab(six(b=_RUN)).solo
        self.assertEqual([(n.string, n.fret) for n in found.notes], _RUN_PLACES)
        self.assertTrue(all(note.finger for note in found.notes))

    def test_what_is_no_tab_is_told_in_a_line(self) -> None:
        for text in ("", "Dear diary", "e|---\nB|---\n", "-" * 5000, "\n".join(["|"] * 50), six()):
            with self.assertRaises(ForeignFileError) as caught:
                read(text)
            self.assertNotIn("\n", str(caught.exception))
