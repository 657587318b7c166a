"""A made-up architect's drawing with the mess that real ones have, for the demo and for tests."""

from __future__ import annotations

import io
from itertools import pairwise

import ezdxf
from ezdxf.layouts import Modelspace

GAP = 0.3
"""Ends of lines that should meet lie this far apart, mm."""

XS = (0.0, 7200.0, 14400.0, 21600.0)
YS = (0.0, 6600.0, 13200.0)


def architects_drawing() -> bytes:
    """A floor of 3 by 2 bays in millimetres as a DXF file.

    In it: a slab outline of split lines with an arc and gaps of 0.3 mm; 12 columns, of which ten are blocks, one is
    turned by 30 degrees and two are round, one of them drawn twice; an L of walls as one outline and a free wall; a
    stair opening with diagonals and a round shaft; grid lines in two pieces with labels; texts, furniture, a hatch
    and a dimension that no floor needs.
    """
    document = ezdxf.new("R2010", units=4)
    for name in ("A-SLAB EDGE", "A-COLS", "A-WALL", "A-VOID", "A-GRID", "A-FURNITURE", "A-TEXT"):
        document.layers.add(name)
    space = document.modelspace()
    _slab(space)
    _columns(document, space)
    _walls(space)
    _voids(space)
    _grid(space)
    _clutter(document, space)
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


def _slab(space: Modelspace) -> None:
    layer = {"layer": "A-SLAB EDGE"}
    corners = [(-200.0, -200.0), (21800.0, -200.0), (21800.0, 13400.0), (-200.0, 13400.0)]
    # The right-hand edge is an arc of 1.5 m rise, about the chord from the second corner to the third.
    for (ax, ay), (bx, by) in ((corners[0], corners[1]), (corners[2], corners[3]), (corners[3], corners[0])):
        cuts = [0.0, 0.23, 0.5, 0.81, 1.0]
        for s, t in pairwise(cuts):
            length = abs(bx - ax) + abs(by - ay)
            shy = GAP / length
            space.add_line(
                (ax + (bx - ax) * s, ay + (by - ay) * s),
                (ax + (bx - ax) * (t - shy), ay + (by - ay) * (t - shy)), dxfattribs=layer,
            )  # fmt: skip
    half, rise = 6800.0, 1500.0
    radius = (half**2 + rise**2) / (2 * rise)
    space.add_arc((21800.0 + rise - radius, 6600.0), radius, *_angles(half, radius), dxfattribs=layer)
    # A piece of the lower edge lies there twice, a second time the other way round.
    space.add_line((4860.0 - GAP, -200.0), (-200.0, -200.0), dxfattribs=layer)
    space.add_line((-200.0, -200.0), (-200.0 + 22000 * 0.23 - GAP, -200.0), dxfattribs=layer)


def _angles(half: float, radius: float) -> tuple[float, float]:
    import math

    a = math.degrees(math.asin(half / radius))
    return -a, a


def _columns(document: ezdxf.document.Drawing, space: Modelspace) -> None:
    block = document.blocks.new("COL-400")
    block.add_lwpolyline([(-200, -200), (200, -200), (200, 200), (-200, 200)], close=True)
    block.add_line((-200, -200), (200, 200))
    for i, x in enumerate(XS):
        for j, y in enumerate(YS):
            if (i, j) in ((1, 1), (2, 1)):
                space.add_circle((x, y), 275.0, dxfattribs={"layer": "A-COLS"})
            elif (i, j) == (3, 2):
                continue
            else:
                turn = 30.0 if (i, j) == (2, 2) else 0.0
                space.add_blockref("COL-400", (x, y), dxfattribs={"layer": "A-COLS", "rotation": turn})
    space.add_circle((XS[1] + 0.2, YS[1]), 275.0, dxfattribs={"layer": "A-COLS"})
    # The last column is four loose lines, 600 by 300.
    x, y = XS[3], YS[2]
    corners = [(x - 300, y - 150), (x + 300, y - 150), (x + 300, y + 150), (x - 300, y + 150)]
    for (ax, ay), (bx, by) in zip(corners, [*corners[1:], corners[0]], strict=True):
        space.add_line((ax, ay), (bx - GAP if bx > ax else bx, by), dxfattribs={"layer": "A-COLS"})


def _walls(space: Modelspace) -> None:
    layer = {"layer": "A-WALL"}
    ell = [(9000, 8000), (12000, 8000), (12000, 8200), (9200, 8200), (9200, 11000), (9000, 11000)]
    for (ax, ay), (bx, by) in zip(ell, [*ell[1:], ell[0]], strict=True):
        space.add_line((ax, ay), (bx, by), dxfattribs=layer)
    space.add_lwpolyline([(2000, 9000), (5000, 9000), (5000, 9250), (2000, 9250)], close=True, dxfattribs=layer)


def _voids(space: Modelspace) -> None:
    layer = {"layer": "A-VOID"}
    space.add_lwpolyline([(9400, 8400), (11800, 8400), (11800, 10800), (9400, 10800)], close=True, dxfattribs=layer)
    space.add_line((9400, 8400), (11800, 10800), dxfattribs=layer)
    space.add_line((11800, 8400), (9400, 10800), dxfattribs=layer)
    space.add_circle((17000, 3000), 300, dxfattribs=layer)


def _grid(space: Modelspace) -> None:
    layer = {"layer": "A-GRID"}
    for name, x in zip("ABCD", XS, strict=True):
        space.add_line((x, -2000), (x, 6000), dxfattribs=layer)
        space.add_line((x, 6000.2), (x, 15200), dxfattribs=layer)
        space.add_circle((x, -2500), 500, dxfattribs=layer)
        space.add_text(name, height=400, dxfattribs=layer).set_placement((x - 100, -2700))
    for name, y in zip("123", YS, strict=True):
        space.add_line((-2000, y), (23600, y), dxfattribs=layer)
        space.add_text(name, height=400, dxfattribs=layer).set_placement((-2800, y - 200))


def _clutter(document: ezdxf.document.Drawing, space: Modelspace) -> None:
    for k in range(6):
        space.add_lwpolyline(
            [(3000 + 900 * k, 2000), (3700 + 900 * k, 2000), (3700 + 900 * k, 2600), (3000 + 900 * k, 2600)], close=True,
            dxfattribs={"layer": "A-FURNITURE"},
        )  # fmt: skip
    space.add_text("TIDAL LABORATORY", height=300, dxfattribs={"layer": "A-TEXT"}).set_placement((4000, 4000))
    space.add_mtext("Floor to be\\Pscreeded", dxfattribs={"layer": "A-TEXT", "insert": (15000, 10000)})
    hatch = space.add_hatch(dxfattribs={"layer": "A-WALL"})
    hatch.paths.add_polyline_path([(2000, 9000), (5000, 9000), (5000, 9250), (2000, 9250)], is_closed=True)
    space.add_linear_dim(base=(0, -1200), p1=(0, 0), p2=(7200, 0), dxfattribs={"layer": "A-TEXT"}).render()
