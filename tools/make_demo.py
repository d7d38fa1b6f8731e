"""Make the demo that ships: two recordings of “Night Ferry”, their truth, and the solo as the demo opens it.

Run as `PYTHONPATH=src .venv/bin/python tools/make_demo.py` after a change of the synthesiser or detector.
"""

from dataclasses import replace
from pathlib import Path

import soundfile

from eager_owl.audio.decode import decode
from eager_owl.notation.notes_file import write_notes
from eager_owl.session import hear_phrase, lay_heard, reference_to, survey
from eager_owl.solo.document import Phrase, Solo, change_phrase
from eager_owl.solo.edits import set_place
from eager_owl.solo.store import save
from eager_owl.sound import night_ferry

FOLDER = Path(__file__).resolve().parents[1] / "src/eager_owl/assets/demo"
TRANSCRIBED = 3


def main() -> None:
    """Write all files of the demo."""
    lead, band = FOLDER / "night-ferry-lead.flac", FOLDER / "night-ferry-band.flac"
    soundfile.write(lead, night_ferry.render_lead(), night_ferry.RATE_HZ, subtype="PCM_16")
    soundfile.write(band, night_ferry.render_with_band(), night_ferry.RATE_HZ, subtype="PCM_16")
    solo = Solo(
        title=night_ferry.TITLE,
        key_text=night_ferry.KEY,
        chart_text=night_ferry.CHART,
        grid=night_ferry.GRID,
        phrases=tuple(
            Phrase(round(night_ferry.GRID.time_of(a), 3), round(night_ferry.GRID.time_of(b), 3), name)
            for name, a, b, _ in night_ferry.PHRASES
        ),
    )
    truth = write_notes(night_ferry.solo_notes(), solo.instrument, night_ferry.TUNING_CENTS)
    (FOLDER / "night-ferry.truth.json").write_text(truth, encoding="utf-8")
    recording = decode(band)
    path = FOLDER / "night-ferry.owl.json"
    solo = replace(solo, recording=reference_to(band, recording, path))
    surveyed = survey(recording)
    for index in range(TRANSCRIBED):
        heard = hear_phrase(solo, solo.phrases[index], recording, surveyed, lambda share, doing: True)
        solo = lay_heard(solo, index, heard)
    solo = change_phrase(solo, 0, stage="proved")
    solo = change_phrase(solo, 1, stage="reasoned")
    # One place the player fixed by hand, so that the demo shows what a pin looks like.
    first = solo.notes_in(solo.phrases[0])[0]
    assert first.string is not None
    solo = set_place(solo, first.id, first.string)
    path.unlink(missing_ok=True)  # no copy of the demo before
    save(solo, path)


if __name__ == "__main__":
    main()
