"""Where and how the notes of a solo are played: fingerings, other ways, picking, phrases carried elsewhere."""

from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass, replace

from eager_owl.neck.cautions import PAIN_WORDS as PAIN_WORDS
from eager_owl.neck.cautions import Caution as Caution
from eager_owl.neck.cautions import Limits as Limits
from eager_owl.neck.cautions import find_cautions as find_cautions
from eager_owl.neck.cautions import rest_words as rest_words
from eager_owl.neck.costs import Costs
from eager_owl.neck.fingering import Around, Fingering, find_alternatives, find_fingering
from eager_owl.neck.fingering import with_places as with_places
from eager_owl.neck.habits import homes
from eager_owl.neck.moving import Moved as Moved
from eager_owl.neck.moving import move_phrase
from eager_owl.neck.picking import STYLES as STYLES
from eager_owl.neck.picking import awkward_crossings as awkward_crossings
from eager_owl.neck.picking import find_sweeps as find_sweeps
from eager_owl.neck.picking import propose_picking
from eager_owl.neck.preference import FINGERS as FINGERS
from eager_owl.neck.preference import Hand as Hand
from eager_owl.neck.preference import Lesson as Lesson
from eager_owl.neck.preference import leaning_words as leaning_words
from eager_owl.neck.preference import learn as learn
from eager_owl.neck.schools import PlacingSchool as PlacingSchool
from eager_owl.neck.schools import placing_schools as placing_schools
from eager_owl.neck.shapes import pentatonic_box, shape_words
from eager_owl.neck.shapes import position_name as position_name
from eager_owl.neck.states import candidates
from eager_owl.neck.story import HandStory as HandStory
from eager_owl.neck.story import Stand as Stand
from eager_owl.neck.story import price_words as price_words
from eager_owl.neck.story import tell_hand as tell_hand
from eager_owl.neck.strings_heard import Calibration, calibrate, sounds_elsewhere, string_shares
from eager_owl.notation.tab import text_tab
from eager_owl.session.facts import key_of, names_of
from eager_owl.solo.document import Note, Phrase, Solo, Stroke, with_notes
from eager_owl.theory.words import plural

Spot = tuple[int, int]  # string and fret

# A hand is taken from the phrase before, or to the one after, over a rest of up to this long.
_HAND_S = 4.0
# The box of notes that the player put there, so near, is carried on.
_BOX_S = 12.0
# A way that costs so little more than the best is nearly as good.
_NEAR_COST, _NEAR_A_NOTE = 1.0, 0.08
_PHRASE_NOTES = 64
_OTHER_WAYS = 4
USUAL_HAND = Hand()


def place_phrase(solo: Solo, index: int, hand: Hand = USUAL_HAND) -> Solo:
    """Place a phrase's notes anew under the solo's school, as a hand likes it; pins are kept."""
    return place_notes(solo, solo.notes_in(solo.phrases[index]), hand)


def place_notes(solo: Solo, notes: Iterable[Note], hand: Hand = USUAL_HAND) -> Solo:
    """Place these notes anew under the solo's school, as a hand likes it; pins are kept.

    In a phrase, of whose notes the player put none anywhere, the first that another way, nearly as good, has
    elsewhere is in doubt.
    """
    chosen = list(notes)
    free = 0 < len(chosen) <= _PHRASE_NOTES and not any("place" in note.pins for note in chosen)
    best, *others = (alternatives(solo, chosen, 2, hand) if free else []) or [fingering(solo, chosen, hand=hand)]
    placed = {note.id: replace(note, other_place=None) for note in with_places(chosen, best)}
    for other in others:
        if other.cost - best.cost < min(_NEAR_COST, _NEAR_A_NOTE * len(chosen)):
            note, place = next(
                (note, there)
                for note, here, there in zip(chosen, best.places, other.places, strict=True)
                if here and there and (here.string, here.fret) != (there.string, there.fret)
            )
            placed[note.id] = replace(placed[note.id], other_place=(place.string, place.fret))
    return with_notes(solo, (placed.get(note.id, note) for note in solo.notes))


def place_around(solo: Solo, ids: Iterable[int], hand: Hand = USUAL_HAND) -> Solo:
    """Place anew the phrases that hold these notes, and the notes themselves where they are in none."""
    wanted = [note for note in solo.notes if note.id in set(ids)]
    indices = {solo.phrase_index_at(note.onset) for note in wanted}
    for index in indices:
        if index is not None:
            solo = place_phrase(solo, index, hand)
    loose = (n for n in wanted if solo.phrase_index_at(n.onset) is None)
    return place_notes(solo, loose, hand) if None in indices else solo


def fingering(
    solo: Solo,
    notes: Iterable[Note],
    school: str | None = None,
    from_fret: int | None = None,
    hand: Hand = USUAL_HAND,
) -> Fingering:
    """The cheapest fingering of notes under a placing school (the solo's own unless given), from a fret if asked."""
    chosen = list(notes)
    around = _around(solo, chosen)
    if from_fret is not None:
        around = replace(around, from_fret=from_fret)
    return find_fingering(chosen, solo.instrument, costs_of(solo, school, hand), key_of(solo), around)


def alternatives(solo: Solo, notes: Sequence[Note], count: int = 4, hand: Hand = USUAL_HAND) -> list[Fingering]:
    """The cheapest different fingerings of notes under the solo's school; pins are kept."""
    around = _around(solo, notes)
    return find_alternatives(notes, solo.instrument, costs_of(solo, None, hand), key_of(solo), count, around)


@dataclass(frozen=True)
class Way:
    """A way to play a phrase: what it is called, the notes placed so, its price, how many notes it puts elsewhere."""

    name: str
    notes: tuple[Note, ...]
    price: str
    elsewhere: int


def ways(solo: Solo, notes: Sequence[Note], hand: Hand = USUAL_HAND) -> list[Way]:
    """The phrase as it stands, the best other fingerings of the solo's school, and what other schools would do.

    No two alike; pins are kept by all.
    """
    found = [("as it is", list(notes))]
    for other in alternatives(solo, notes, _OTHER_WAYS, hand):
        placed = with_places(notes, other)
        stands = tell_hand(placed, solo.instrument).stands
        found.append(
            (f"from the {position_name(stands[0].position).split()[0]}" if stands else "open strings", placed)
        )
    for name in placing_schools():
        found.append((name.replace("-", " "), with_places(notes, fingering(solo, notes, name, hand=hand))))
    told: list[Way] = []
    seen = set()
    for name, placed in found:
        spots = tuple((note.string, note.fret) for note in placed)
        if spots not in seen:
            seen.add(spots)
            elsewhere = sum(a != (n.string, n.fret) for a, n in zip(spots, notes, strict=True))
            told.append(Way(name, tuple(placed), price_words(tell_hand(placed, solo.instrument)), elsewhere))
    return told


def home_of(solo: Solo) -> int | None:
    """The pitch class of the minor pentatonic home that the solo's boxes stand on; None without notes or key."""
    key = key_of(solo)
    return homes(solo.notes, key)[0].root if solo.notes or key else None


def other_places(solo: Solo, note: Note) -> list[Spot]:
    """Where else on the neck a note's pitch is."""
    return [
        spot for spot in candidates(note.pitch, solo.instrument, note.harmonic) if spot != (note.string, note.fret)
    ]


def whole_words(solo: Solo) -> str:
    """How the hand goes through a whole solo: each phrase has its own, and the widest reach is in one of them."""
    stories = {phrase.name: tell_hand(solo.notes_in(phrase), solo.instrument) for phrase in solo.phrases}
    told = {name: story for name, story in stories.items() if story.stands}
    if not told:
        return "the phrases' notes show here once they are placed"
    name, widest = max(told.items(), key=lambda each: each[1].reach.mm)
    reach = f"; widest reach {widest.reach.mm:.0f} mm, in “{name}”" if widest.reach.mm else ""
    return f"{plural(len(told), 'phrase')}, each with its own hand{reach}"


def shape_under(solo: Solo, notes: Sequence[Note], before: Sequence[Note]) -> str:
    """The shape that notes of one stand make, by name; `before` are those of the stand before. Empty for none."""
    return shape_words(notes, home_of(solo), solo.instrument, before, names_of(solo))


def box_near(solo: Solo, position: int) -> list[tuple[Spot, bool]]:
    """The spots of the key's pentatonic box under a hand at a position, each with whether it is the root."""
    home, instrument = home_of(solo), solo.instrument
    if home is None:
        return []
    near = range(position - 1, position + 5)
    boxes = [[spot for spot in pentatonic_box(home, n, instrument) if spot[1] in near] for n in range(1, 6)]
    return [
        ((string, fret), (instrument.tuning[string - 1] + fret - home) % 12 == 0)
        for string, fret in max(boxes, key=len)
    ]


def costs_of(solo: Solo, school: str | None = None, hand: Hand = USUAL_HAND) -> Costs:
    """What a placing school (the solo's own unless given) finds costly; the default's where the name is gone.

    A hand leans the default's table only: another school was asked for to see something else.
    """
    schools = placing_schools()
    usual = Solo().placing_school
    chosen = schools.get(school or solo.placing_school, schools[usual])
    return (hand if chosen.name == usual else replace(hand, leaning=())).costs(chosen.costs)


def _around(solo: Solo, notes: Sequence[Note]) -> Around:
    """Where the hand comes from and must go, and what the sound says of the strings."""
    if not notes:
        return Around()
    first, end = notes[0].onset, notes[-1].end
    ids = {note.id for note in notes}
    others = [note for note in solo.notes if note.finger and note.id not in ids]
    before = [note for note in others if note.onset < first < note.end + _HAND_S][-1:]
    after = [note for note in others if notes[-1].onset < note.onset < end + _HAND_S][:1]
    hands = [tell_hand(near, solo.instrument).stands[0].position if near else None for near in (before, after)]
    put = [n for n in others if "place" in n.pins and first - _BOX_S < n.onset < end + _BOX_S]
    stands = tell_hand(put, solo.instrument).stands
    box = max(stands, key=lambda stand: len(stand.note_ids)).position if stands else None
    beats = [solo.grid.beat_at(note.onset) for note in notes] if solo.grid else None
    return Around(None, hands[0], hands[1], sounds_elsewhere(notes, solo.instrument, strings_known(solo)), box, beats)


def strings_known(solo: Solo) -> Calibration:
    """What the pinned notes tell of each string's sound."""
    return calibrate(solo.notes)


def string_heard(solo: Solo, note: Note) -> tuple[int, float] | None:
    """The string that a note's sound speaks for and how likely it is by the sound alone, or None."""
    against = sounds_elsewhere([note], solo.instrument, strings_known(solo))
    if against is None or note.stiffness is None:
        return None
    shares = string_shares(
        against[0], [string for string, _ in candidates(note.pitch, solo.instrument, note.harmonic)]
    )
    likeliest = max(shares, key=lambda string: shares[string])
    return likeliest, shares[likeliest]


def picking(solo: Solo, notes: Sequence[Note]) -> list[Stroke | None]:
    """The picking strokes of notes under the solo's style; the player's own are kept."""
    beats = [solo.grid.beat_at(note.onset) for note in notes] if solo.grid else None
    return propose_picking(notes, picking_style(solo), beats)


def picking_style(solo: Solo) -> str:
    """The name of the solo's style of picking; the default's where the name is gone."""
    return solo.picking if solo.picking in STYLES else Solo().picking


def moved(
    solo: Solo,
    notes: Sequence[Note],
    semitones: int,
    from_fret: int | None,
    strings: Collection[int] | None,
    hand: Hand = USUAL_HAND,
    keep_shape: bool = False,
) -> Moved:
    """Notes carried to another key, octave, position or set of strings under the solo's school, or in their shape."""
    costs, key = costs_of(solo, None, hand), key_of(solo)
    return move_phrase(notes, solo.instrument, semitones, from_fret, strings, costs, key, keep_shape)


def moved_tab(solo: Solo, phrase: Phrase, notes: Sequence[Note], key_text: str) -> str:
    """A phrase carried elsewhere as text tab, in its key there."""
    alone = replace(solo, phrases=(Phrase(phrase.start, phrase.end, phrase.name),), chart_text="")
    if key_of(solo) is not None:
        alone = replace(alone, key_text=key_text)
    return text_tab(with_notes(alone, notes))
