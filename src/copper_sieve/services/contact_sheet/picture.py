"""A contact sheet as one PNG: a row for every part."""

from __future__ import annotations

import io
from itertools import islice

from PIL import Image, ImageDraw, ImageFont

from copper_sieve.services.contact_sheet.contents import ContactSheet, ContactSheetPart

MOST_PARTS = 24  # of one picture; the page holds all
_WIDTH, _MARGIN, _GAP = 1600, 32, 14
_LIT, _SMALL = 220, 120
_ROW = _LIT + 2 * _GAP
_PAPER, _CARD, _INK, _SECOND = (236, 231, 223), (255, 255, 255), (37, 33, 28), (98, 90, 81)
_RULE = (214, 206, 194)


def png(sheet: ContactSheet) -> bytes:
    """Return a picture of the first parts, with the number of omitted ones."""
    parts = list(islice(sheet.parts, MOST_PARTS))
    more = sheet.count - len(parts)
    height = 90 + len(parts) * (_ROW + _GAP) + (50 if more else 0)
    image = Image.new("RGB", (_WIDTH, height), _PAPER)
    draw = ImageDraw.Draw(image)
    when = f"{sheet.finished_at:%Y-%m-%d %H:%M}" if sheet.finished_at else ""
    draw.text((_MARGIN, 24), f"Delivery {sheet.delivery_id}", _INK, ImageFont.load_default(28))
    draw.text((_MARGIN, 58), f"{when}  Copper Sieve", _SECOND, ImageFont.load_default(16))
    for n, part in enumerate(parts):
        _draw(image, draw, part, 90 + n * (_ROW + _GAP))
    if more:
        text = f"and {more} more: see the HTML page"
        draw.text((_MARGIN, height - 40), text, _SECOND, ImageFont.load_default(18))
    out = io.BytesIO()
    image.save(out, "PNG")
    return out.getvalue()


def _draw(image: Image.Image, draw: ImageDraw.ImageDraw, part: ContactSheetPart, top: int) -> None:
    draw.rounded_rectangle((_MARGIN, top, _WIDTH - _MARGIN, top + _ROW), 6, _CARD)
    left, upper = _MARGIN + _GAP, top + _GAP
    if part.lit:
        _paste(image, part.lit, left, upper, _LIT)
    left += _LIT + 2 * _GAP
    _write(draw, (left, upper), f"{part.set_name} for {part.target}", _INK, 20)
    facts = " · ".join(one for one in (part.facts, part.origin) if one)
    _write(draw, (left, upper + 28), facts[:150], _SECOND, 14)
    shown = [(one.words.split(",")[0], one.png) for one in part.maps]
    shown += [(one.name, one.picture) for one in part.files if one.picture]
    room = _WIDTH - _MARGIN - left
    side = min(_SMALL, room // max(len(shown), 1) - _GAP)
    letters = max(6, side // 7)
    for words, data in shown:
        _paste(image, data, left, upper + 58, side)
        box = left - 1, upper + 57, left + side, upper + 58 + side
        draw.rectangle(box, outline=_RULE)  # white maps are seen on the white card
        for line in range(2):
            at = left, upper + 62 + side + 15 * line
            _write(draw, at, words[line * letters : (line + 1) * letters], _SECOND, 12)
        left += side + _GAP


def _write(
    draw: ImageDraw.ImageDraw, at: tuple[int, int], text: str, color: tuple[int, ...], size: int
) -> None:
    """Draw text; the built-in font of the imaging library has few symbols besides letters."""
    known = text.translate({ord("×"): "x", ord("−"): "-", ord("…"): "..."})
    draw.text(at, known, color, ImageFont.load_default(size))


def _paste(image: Image.Image, data: bytes, left: int, top: int, side: int) -> None:
    with Image.open(io.BytesIO(data)) as one:
        small = one.convert("RGB")
    small.thumbnail((side, side), Image.Resampling.LANCZOS)
    if max(small.size) < side:  # a small set is shown as large as the others
        scale = side / max(small.size)
        size = round(small.width * scale), round(small.height * scale)
        small = small.resize(size, Image.Resampling.NEAREST)
    image.paste(small, (left, top))
