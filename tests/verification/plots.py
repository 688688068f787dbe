"""Pictures of what was verified, written with --record."""

from __future__ import annotations

from pathlib import Path

SIDE, EDGE = 260, 44


def calibration(path: Path, points: list[tuple[float, float, int]]) -> None:
    """Stated probability against how often it was right, as SVG; points: stated, right, count."""

    def place(x: float, y: float) -> tuple[float, float]:
        return EDGE + SIDE * x, 12 + SIDE * (1.0 - y)

    wide = SIDE + EDGE + 20
    lines = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide}" height="{wide}" font-family="sans-serif" '
        'font-size="12">',
        f'<rect width="{wide}" height="{wide}" fill="#FBFBF8"/>',
    ]
    for share in (0.0, 0.25, 0.5, 0.75, 1.0):
        (x, low), (_x, high), (left, y), (right, _y) = (
            place(share, 0),
            place(share, 1),
            place(0, share),
            place(1, share),
        )
        lines.append(f'<path d="M{x} {low}V{high}M{left} {y}H{right}" stroke="#CBCDC3" fill="none"/>')
        lines.append(f'<text x="{x}" y="{low + 16}" text-anchor="middle" fill="#4C585B">{share:.0%}</text>')
        lines.append(f'<text x="{left - 6}" y="{y + 4}" text-anchor="end" fill="#4C585B">{share:.0%}</text>')
    (x0, y0), (x1, y1) = place(0, 0), place(1, 1)
    lines.append(f'<path d="M{x0} {y0}L{x1} {y1}" stroke="#182124" stroke-dasharray="4 3"/>')
    for stated, right_share, count in points:
        x, y = place(stated, right_share)
        lines.append(
            f'<circle cx="{x:.1f}" cy="{y:.1f}" r="{3.0 + count**0.5 / 2.5:.1f}" fill="#026B72" opacity="0.8"/>'
        )
        lines.append(f'<text x="{x + 12:.1f}" y="{y + 14:.1f}" fill="#182124">{count}</text>')
    lines += [
        f'<text x="{EDGE + SIDE / 2}" y="{wide - 6}" text-anchor="middle" fill="#182124">stated</text>',
        f'<text transform="translate(12 {12 + SIDE / 2}) rotate(-90)" text-anchor="middle" fill="#182124">right</text>',
        "</svg>",
    ]
    path.write_text("\n".join(lines) + "\n", encoding="utf-8")
