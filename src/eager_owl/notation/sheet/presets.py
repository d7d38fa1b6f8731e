"""What is shown on a page: a few choices under one name."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Preset:
    """`by_phrase` sets each phrase apart under its heading; else the bars run on and phrases are named over them.

    The rest says whether it is there: the standard staff, picking strokes, fingers, counted beats, measured loudness,
    chord functions, intervals with the sources they come from, sentences that explain, remarks, doubts.
    """

    name: str
    words: str
    by_phrase: bool
    staff: bool = False
    strokes: bool = False
    fingers: bool = False
    counting: bool = False
    dynamics: bool = False
    functions: bool = False
    intervals: bool = False
    sentences: bool = False
    remarks: bool = False
    doubts: bool = False
    chart: bool = False


PRESETS: dict[str, Preset] = {
    preset.name: preset
    for preset in (
        Preset("stand", "page for the stand", by_phrase=False, strokes=True, dynamics=True),
        Preset(
            "lesson", "page for the lesson", by_phrase=True, staff=True, strokes=True, fingers=True, counting=True,
            dynamics=True, sentences=True, remarks=True, chart=True,
        ),
        Preset(
            "analysis", "page for analysis", by_phrase=True, strokes=True, fingers=True, dynamics=True,
            functions=True, intervals=True, sentences=True, remarks=True, doubts=True, chart=True,
        ),
    )
}  # fmt: skip
