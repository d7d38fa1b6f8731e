"""What is to be said and done next: before there are notes to explain, the program says how to come by them."""

from eager_owl.session.facts import pitch_text
from eager_owl.session.hearing import ONE_TUNE_S, unheard
from eager_owl.session.open_solo import OpenSolo
from eager_owl.theory.words import plural


def next_steps(opened: OpenSolo) -> list[tuple[str, str]]:
    """Steps in the order of the work, each as the name of its command and what it comes to in words."""
    solo, sound = opened.solo, opened.sound
    survey = sound.survey if sound is not None else None
    steps: list[tuple[str, str]] = []
    under = [note for note in opened.notes if note.pitch < solo.instrument.lowest]
    if under:
        lowest = pitch_text(min(note.pitch for note in under), solo)
        steps.append(
            ("show_facts", f"{plural(len(under), 'note')} under the lowest string: is it tuned to {lowest}?")
        )
    stretch = sound is not None and opened.view.span is not None
    is_long = sound is not None and sound.recording.duration_s > ONE_TUNE_S
    if is_long and not stretch and not solo.phrases:
        steps.append(("go_to_time", "go near the solo, look closer, drag over it"))
    if solo.grid is None:
        if stretch:
            steps.append(("find_beat", "find the beat of this stretch"))
        elif is_long:
            steps.append(("show_facts", "say tempo and first beat"))
        elif survey is not None and survey.grid is not None:
            steps.append(("find_beat", f"take the beat: {survey.grid.meter} at {survey.grid.bpm:.0f}"))
        elif sound is not None and survey is None:
            steps.append(("find_beat", "take the beat, once it is listened for"))
        else:
            steps.append(("show_facts", "say tempo and first beat"))
    if not solo.phrases and (stretch or not is_long):
        steps.append(("suggest_phrases", "suggest phrases"))
    if not solo.chart_text.strip():
        steps.append(("show_chart", "write the chords, or have them suggested"))
    if not solo.key_text.strip():
        steps.append(("show_facts", "say the key") if not solo.chart_text.strip() else ("show_chart", "take the key"))
    waiting = unheard(solo)
    if sound is not None and opened.phrase is not None and not opened.notes and not opened.phrase.others:
        steps.append(("hear", "hear this phrase"))
    elif sound is not None and opened.phrase is None and waiting:
        steps.append(("hear", f"hear {plural(len(waiting), 'phrase')}"))
    return steps
