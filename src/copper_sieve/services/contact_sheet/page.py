"""A contact sheet as one self-contained HTML page without scripts."""

from __future__ import annotations

import base64
from collections.abc import Iterator
from html import escape

from copper_sieve.services.contact_sheet.contents import (
    ContactSheet,
    ContactSheetFile,
    ContactSheetPart,
    ContactSheetPicture,
)

_STYLE = """
:root { color-scheme: light; }
body { margin: 0 auto; max-width: 1180px; padding: 24px; background: #ece7df; color: #25211c;
  font: 14px/1.45 system-ui, sans-serif; }
h1 { font-size: 20px; margin: 0 0 4px; } h2 { font-size: 16px; margin: 0; }
p { margin: 2px 0; } .second { color: #625a51; }
section { margin-top: 18px; padding: 16px; background: #fff; border: 1px solid #d6cec2;
  border-radius: 5px; break-inside: avoid; }
.head { display: grid; grid-template-columns: 200px 1fr; gap: 18px; }
.lit { width: 200px; height: 200px; object-fit: cover; background: #777; border-radius: 3px; }
.row { display: flex; flex-wrap: wrap; gap: 12px; margin-top: 10px; }
figure { margin: 0; width: 84px; font-size: 12px; color: #625a51; }
figure img, td img { display: block; background: #777; border-radius: 3px; object-fit: cover; }
figure img { width: 84px; height: 84px; }
table { width: 100%; border-collapse: collapse; margin-top: 12px; }
td { padding: 8px 12px 8px 0; border-top: 1px solid #d6cec2; vertical-align: top; }
td > img { width: 84px; height: 84px; }
.name { font-family: ui-monospace, monospace; overflow-wrap: anywhere; }
.row.small figure, .row.small img { width: 64px; } .row.small img { height: 64px; }
.remark { color: #7d540b; }
@media print { body { background: #fff; padding: 0; } }
"""


def html(sheet: ContactSheet) -> Iterator[bytes]:
    """Yield the page part by part."""
    when = f"{sheet.finished_at:%Y-%m-%d %H:%M}" if sheet.finished_at else "not finished"
    title = f"Delivery {sheet.delivery_id}"
    count = "1 part" if sheet.count == 1 else f"{sheet.count} parts"
    yield (
        '<!doctype html><html lang="en"><head><meta charset="utf-8">'
        '<meta name="viewport" content="width=device-width">'
        f"<title>{title}: contact sheet</title><style>{_STYLE}</style></head><body>"
        f'<h1>{title}</h1><p class="second">{when} · {count} · Copper Sieve</p>'
    ).encode()
    for part in sheet.parts:
        yield _part(part).encode()
    yield b"</body></html>"


def _part(part: ContactSheetPart) -> str:
    lit = _image(part.lit, f"{part.set_name}, lit", "lit") if part.lit else "<span></span>"
    lines = [part.facts, part.origin]
    facts = "".join(f'<p class="second">{escape(line)}</p>' for line in lines if line)
    maps = "".join(_figure(one) for one in part.maps)
    files = "".join(_file(one) for one in part.files)
    remarks = "".join(f'<p class="remark">{escape(one)}</p>' for one in part.remarks)
    return (
        f'<section><div class="head">{lit}<div><h2>{escape(part.set_name)} for '
        f'{escape(part.target)}</h2>{facts}<div class="row">{maps}</div></div></div>'
        f"<table>{files}</table>{remarks}</section>"
    )


def _file(file: ContactSheetFile) -> str:
    picture = _image(file.picture, file.name) if file.picture else ""
    channels = "".join(_figure(one) for one in file.channels)
    return (
        f'<tr><td style="width:96px">{picture}</td><td><p class="name">{escape(file.name)}</p>'
        f'<p class="second">{escape(file.facts)}</p></td>'
        f'<td><div class="row small" style="margin-top:0">{channels}</div></td></tr>'
    )


def _figure(picture: ContactSheetPicture) -> str:
    words = escape(picture.words)
    return f"<figure>{_image(picture.png, '')}<figcaption>{words}</figcaption></figure>"


def _image(png: bytes, words: str, style: str = "") -> str:
    data = base64.b64encode(png).decode()
    named = f' class="{style}"' if style else ""
    return f'<img{named} alt="{escape(words)}" src="data:image/png;base64,{data}">'
