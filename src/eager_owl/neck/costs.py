"""What is hard or unlikely on the neck, and how much: the one table that the solver adds up.

The unit is a change of position by one fret at a moderate tempo, about 1.0; the figures are proportions, not
joules. Each row multiplies a measure of the same name (see `measures`). A placing school is mostly another such
table. The default's figures were weighed on phrases composed by the habits of players
(`benchmarks/train_places.py`) and rounded.
"""

from dataclasses import dataclass, fields


@dataclass(frozen=True)
class Costs:
    """One row, one reason. Negative where a thing is sought."""

    # Moving the hand: for setting off, and for each fret of the way.
    shift: float = 0.71
    shift_fret: float = 0.74
    # With a finger left on its string to lead the hand.
    glide: float = 2.0
    glide_fret: float = 1.67
    # The same in a line that slides (glides count by what it does not).
    glide_among_slides: float = 0.07
    # While an open string sounds.
    open_shift: float = 2.04
    open_fret: float = 2.38
    # Over a rest there is time.
    rest_shift: float = 1.42
    rest_fret: float = 1.13
    # A slide takes the hand along.
    slide_fret: float = 0.12
    # What is easy at 60 is not at 160: per fret, times the share of a third of a second that is wanting.
    hurry_fret: float = 1.35
    # Fingers further apart than at ease, and than is comfortable, per cm; both fall up the neck.
    reach_cm: float = 0.14
    strain_cm: float = 0.12
    # A finger on a fret of its neighbour's: the index back, the little finger on.
    out_of_place: float = 2.24
    # A string away, each string skipped beyond it, and both within a time too short.
    string_change: float = 0.37
    string_skip: float = 2.15
    string_hurry: float = 1.13
    # A shape of two strings or more moved to others, for each of its edges.
    shape_elsewhere: float = 0.53
    # A shape moved along its strings, per fret.
    shape_fret: float = 0.32
    # The same pitch again, on another string.
    repeat_elsewhere: float = 2.81
    # A half step taken across strings, and each semitone beyond a major third leapt along one.
    half_step_across: float = 0.05
    leap_along: float = 0.0
    # Notes an octave apart with other than one string between them.
    octave_other: float = 2.55
    # The same finger on another fret or string right after; walking along a string; rolled over strings at a fret.
    same_finger: float = 0.34
    rolled_finger: float = 0.02
    # The little finger is the weakest; a barre takes strength for each string beyond the first.
    little_finger: float = 0.12
    barre_string: float = 0.25
    # Of the fingers alone, once places are settled. Most hands take three frets with index and ring, two with index
    # and ring or middle, bend with the ring finger and those behind it, and leave the little finger to runs.
    little_outside_run: float = 1.0
    ring_at_three: float = 0.1
    middle_at_two: float = 0.45
    middle_outside_run: float = 0.25
    bend_without_ring: float = 0.6
    # An open string rings on and sounds unlike its neighbours, unless the line lies low where they are at hand, or
    # points at it: by a pull-off to its pitch, or a pedal of it.
    open_string: float = 9.27
    open_low: float = 0.14
    open_pointed_at: float = 0.08
    # A low line in full use of the open strings' pitches, played further up: per fret above the third.
    high_for_low: float = 0.0
    # High frets on thick strings are hard to reach and sound dull: per fret above the ninth and string from
    # the third on.
    thick_high: float = 0.03
    # Bending pushes two or three strings' worth of tension: index alone, little finger, wound strings, the first
    # frets (per fret below the fifth), the thickest or thinnest pushed off the neck.
    bend_index: float = 5.81
    bend_little: float = 0.68
    bend_wound: float = 2.2
    bend_low_fret: float = 0.45
    # Legato wants its string: a hammer-on, pull-off, slide or trill on another one is not one.
    legato_elsewhere: float = 30.0
    slide_other_finger: float = 0.76
    # A finger that is down already can't hammer on, or be pulled off to.
    legato_same_finger: float = 6.0
    # A string change in a line that slides, times the share of slides around.
    slide_line: float = 2.75
    # In a quick run up or down a scale: leaving a string before its third note, staying for a fourth.
    three_left: float = 2.67
    three_stayed: float = 2.25
    # The same in a scale run at any pace.
    three_left_steady: float = 0.0
    three_stayed_steady: float = 0.0
    # A picked note in a run of legato, on the string of the note before.
    picked_stays: float = 0.26
    # Away from where the player said to be, per fret.
    from_fret: float = 0.5
    # Away from the box of a neighbouring phrase that the player put there, per fret, where the line does not slide.
    from_box: float = 0.03
    # Per fret of the hand up the neck (a player's own liking), under the fifth fret, and above the twelfth.
    up_neck: float = 0.0
    low_neck: float = 0
    high_neck: float = 0.16
    # Where the sound says that another string played it, per unit of log-likelihood.
    sounds_elsewhere: float = 1.0
    # A root cell's own places (root, flat seven under it, flat three and four over it on the next string).
    root_cell: float = -0.06
    # A line around the tonic in a major key, with the index finger on it on the second string.
    root_box: float = -0.5
    # The minor box's own bends: fourth on the third string, flat seventh on the second, flat third on the first.
    box_bend: float = -0.2
    # The hand's position counted from the fret of the minor root on the thinnest string: twelve figures. At 0 and 3
    # the index finger has the minor and the relative major root under it; the others are as weighed.
    home: tuple[float, ...] = (0, 0.12, 0.15, 0.02, 0.22, 0.2, 0.08, 0.21, 0.15, 0.26, 0.31, 0.4)


ROWS = tuple(field.name for field in fields(Costs) if field.name != "home")
