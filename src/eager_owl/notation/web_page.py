"""One HTML file that needs nothing else: the sheet as SVG, sound to play beside it, and what explains each phrase."""

import base64
import html
import re
from collections.abc import Sequence
from dataclasses import dataclass

_STYLE = """
:root { color-scheme: light; }
body { margin: 0 auto; max-width: 1100px; padding: 24px 18px 60px; background: #fcf8ee; color: #1d282b;
  font: 17px/1.5 Cabin, "Gill Sans", "Segoe UI", sans-serif; }
h1 { font: 600 34px Vollkorn, Georgia, serif; margin: 0 0 4px; }
h2 { font: 600 22px Vollkorn, Georgia, serif; margin: 34px 0 6px; }
p.from { color: #566260; margin: 0 0 12px; }
figure { margin: 10px 0; background: #fff; border: 1px solid #dfd4be; border-radius: 7px; overflow-x: auto; }
figure svg { display: block; width: 100%; height: auto; min-width: 640px; }
.sounds { display: flex; flex-wrap: wrap; gap: 18px; margin: 8px 0; }
.sounds label { display: block; color: #566260; }
ul { margin: 6px 0 0; padding-left: 20px; }
li.remark { font-style: italic; }
"""


@dataclass(frozen=True)
class WebPart:
    """A phrase: its sheet as SVG text, its sounds as (words, bytes of an Ogg file), sentences and remarks."""

    number: int
    name: str
    svg: str
    sounds: tuple[tuple[str, bytes], ...]
    sentences: tuple[str, ...]
    remarks: tuple[str, ...]


def web_page(title: str, parts: Sequence[WebPart], sound_from: str, typefaces: str) -> str:
    """The page's text; `typefaces` is their style sheet. It names no other file and no other place."""
    body = [f"<h1>{html.escape(title)}</h1>", f'<p class="from">Sound from {html.escape(sound_from)}.</p>']
    body += [_part(part) for part in parts] or ["<p>There are no notes yet.</p>"]
    return (
        '<!DOCTYPE html>\n<html lang="en"><head><meta charset="utf-8">'
        '<meta name="viewport" content="width=device-width, initial-scale=1">'
        f"<title>{html.escape(title)}</title><style>{typefaces}{_STYLE}</style></head>\n<body>\n"
        + "\n".join(body)
        + "\n</body></html>\n"
    )


def _part(part: WebPart) -> str:
    sounds = "".join(
        f"<label>{html.escape(words)}<br>"
        f'<audio controls loop src="data:audio/ogg;base64,{base64.b64encode(ogg).decode()}"></audio></label>'
        for words, ogg in part.sounds
    )
    told = "".join(f"<li>{html.escape(sentence)}</li>" for sentence in part.sentences)
    told += "".join(f'<li class="remark">{html.escape(remark)}</li>' for remark in part.remarks)
    return (
        f"<section><h2>{part.number} {html.escape(part.name)}</h2>"
        f'<div class="sounds">{sounds}</div><figure>{inline_svg(part.svg, part.number)}</figure>'
        + (f"<ul>{told}</ul>" if told else "")
        + "</section>"
    )


def inline_svg(text: str, number: int) -> str:
    """An SVG file's text as it can stand in a page: without its prologue, its ids its own."""
    text = text[text.index("<svg") :]
    return re.sub(r'(id="|url\(#|href="#)', rf"\g<1>p{number}-", text)
