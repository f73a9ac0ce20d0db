"""Draw how a surface is photographed under a lamp from several sides, for the manual.

usage: .venv/bin/python docs/look/draw_lamps.py    (writes docs/manual/drawings/lamps.svg)
"""

from __future__ import annotations

import math
from pathlib import Path

INK, SECOND, LINE, PAPER, COPPER, CLOTH = (
    "#25211c", "#625a51", "#d6cec2", "#f7f4ef", "#a4512a", "#cfc3b2",
)  # fmt: skip
WIDTH, HEIGHT = 760, 340
OUT = Path(__file__).parents[1] / "manual" / "drawings" / "lamps.svg"


def line(x1: float, y1: float, x2: float, y2: float, more: str = "") -> str:
    """A line; more : attributes."""
    return f'<line x1="{x1:.1f}" y1="{y1:.1f}" x2="{x2:.1f}" y2="{y2:.1f}" {more}/>'


def words(x: float, y: float, text: str, anchor: str = "middle", color: str = SECOND) -> str:
    """A line of text."""
    return f'<text x="{x:.1f}" y="{y:.1f}" text-anchor="{anchor}" fill="{color}">{text}</text>'


def lamp(x: float, y: float, r: float = 8) -> str:
    """A lamp: a disc with rays."""
    rays = [
        line(x + 1.4 * r * math.cos(a), y + 1.4 * r * math.sin(a),
             x + 1.9 * r * math.cos(a), y + 1.9 * r * math.sin(a), f'stroke="{COPPER}"')
        for a in (n * math.pi / 4 for n in range(8))
    ]  # fmt: skip
    return f'<circle cx="{x:.1f}" cy="{y:.1f}" r="{r}" fill="{COPPER}"/>' + "".join(rays)


def from_the_side() -> list[str]:
    """Camera above, lamp half way up, surface and ball on the floor."""
    middle, floor, up = 190.0, 262.0, math.radians(45)
    far = 168.0
    x, y = middle + far * math.cos(up), floor - far * math.sin(up)
    dashes = f'stroke="{SECOND}" stroke-dasharray="3 4"'
    arc = 56.0
    return [
        words(middle, 20, "From the side", color=INK),
        line(30, floor + 7, 350, floor + 7, f'stroke="{LINE}" stroke-width="2"'),
        f'<rect x="{middle - 70}" y="{floor - 4}" width="140" height="10" fill="{CLOTH}"/>',
        f'<circle cx="{middle + 92}" cy="{floor - 4}" r="10" fill="{PAPER}" stroke="{INK}"/>',
        words(middle + 92, floor + 28, "ball"),
        words(middle - 20, floor + 28, "surface"),
        f'<rect x="{middle - 19}" y="44" width="38" height="24" rx="4" fill="{INK}"/>',
        f'<rect x="{middle - 9}" y="68" width="18" height="9" fill="{INK}"/>',
        words(middle - 30, 60, "camera, fixed", "end"),
        line(middle, 82, middle, floor - 8, dashes),
        line(middle, floor - 4, x - 15 * math.cos(up), y + 15 * math.sin(up), dashes),
        f'<path d="M {middle + arc} {floor - 4} A {arc} {arc} 0 0 0 '
        f'{middle + arc * math.cos(up):.1f} {floor - 4 - arc * math.sin(up):.1f}" '
        f'fill="none" stroke="{COPPER}"/>',
        words(middle + 62, floor - 26, "35 to 60°", "start", COPPER),
        lamp(x, y),
        words(x + 20, y + 4, "lamp", "start"),
    ]


def from_above() -> list[str]:
    """The ring of eight lamps around the surface, numbered as somebody walks."""
    mx, my, ring = 570.0, 182.0, 112.0
    found = [
        words(mx, 20, "From above", color=INK),
        f'<circle cx="{mx}" cy="{my}" r="{ring}" fill="none" stroke="{LINE}" '
        f'stroke-dasharray="3 4"/>',
        f'<rect x="{mx - 48}" y="{my - 48}" width="96" height="96" fill="{CLOTH}"/>',
        f'<circle cx="{mx + 34}" cy="{my + 34}" r="9" fill="{PAPER}" stroke="{INK}"/>',
        line(mx, my, mx + ring, my, f'stroke="{COPPER}" stroke-dasharray="3 4"'),
        words(mx + 62, my - 6, "0°", color=COPPER),
        words(mx + 6, my - 60, "90°", "start", COPPER),
        line(mx, my, mx, my - ring, f'stroke="{COPPER}" stroke-dasharray="3 4"'),
    ]
    for n in range(8):
        a = n * math.pi / 4
        x, y = mx + ring * math.cos(a), my - ring * math.sin(a)
        found += [f'<circle cx="{x:.1f}" cy="{y:.1f}" r="17" fill="{PAPER}"/>', lamp(x, y, 7)]
        tx, ty = mx + (ring + 28) * math.cos(a), my - (ring + 28) * math.sin(a)
        found.append(words(tx, ty + 4, str(n + 1), color=INK))
    return found


def main() -> None:
    """Write the drawing."""
    parts = [*from_the_side(), *from_above()]
    OUT.parent.mkdir(exist_ok=True)
    OUT.write_text(
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH} {HEIGHT}" '
        f'font-family="Hanken Grotesk Variable, sans-serif" font-size="13">\n'
        + "\n".join(parts) + "\n</svg>\n"
    )  # fmt: skip


if __name__ == "__main__":
    main()
